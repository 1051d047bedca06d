import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import { printHz, printNumber, printSeconds } from '../../quantity/print.ts';
import type { Scale } from '../../quantity/scaled.ts';
import { bandPpm, positive, type Band } from '../band.ts';
import type { Requirement, Span } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import { easedTolerance, spanOf, widthBand } from './common.ts';
import type { Kind, Piece } from './kind.ts';
import { frequencyAlso, makerOf, relaxPpm, secondsText, toleranceText, words } from './pieces.ts';
import { POSITIVE, PPM, QUANTITY, required, type TargetOf } from './shape.ts';
import type { Facts } from '../wish/facts.ts';
import { hzIn } from '../wish/rates.ts';
import type { Wished } from './wish.ts';

const FRAME_TOLERANCE_PPM = 10_000;

/** The tolerance of a width where a target has neither one nor a step, in s. */
const WIDTH_TOLERANCE_S = 0.000005;

/** The ends of a knob where a target has no window, in s. */
const KNOB_S = [0.001, 0.002] as const;

/** The most a width may be off for an oscillator, in s: beyond it a servo stands visibly elsewhere, and the check says so. */
const EASED_WIDTH_S = 0.0001;

/** The turn that a window of widths stands for where a target does not say. */
const DEGREES = 180;

const shape = {
  frameHz: required(POSITIVE),
  widthS: POSITIVE,
  minS: POSITIVE,
  maxS: POSITIVE,
  stepS: { ...QUANTITY, max: 1e6 },
  degrees: { ...QUANTITY, max: 36000 },
  frameTolerancePpm: PPM,
  widthToleranceS: { type: 'number', min: 0, max: 1e6 },
} as const;

/** A pulse of a width in each frame, such as a servo wants: one width, or a span to move in, and the finest step. */
export type PulseTarget = TargetOf<typeof shape>;

function requirement(target: PulseTarget): Requirement {
  const frame = positive(exact(target.frameHz), 'frameHz');
  const { widthS, minS, maxS, stepS } = target;
  if ((minS === undefined) !== (maxS === undefined)) {
    throw new TargetError('maxS', 'The span of a pulse has both minS and maxS.');
  }
  const off = exact(toleranceOf(target));
  const span =
    minS === undefined || maxS === undefined ? undefined : spanOf('width', minS, maxS, off, 'minS');
  const width = widthS !== undefined ? exact(widthS) : span?.low.add(span.high).div(2);
  if (!width) throw new TargetError('widthS', 'A pulse has widthS, or minS and maxS.');
  if (span && (width.compare(span.low) < 0 || width.compare(span.high) > 0)) {
    throw new TargetError('widthS', 'widthS lies outside its span from minS to maxS.');
  }
  // Every place of a span is to be met within the tolerance: half a step may be missing to it.
  const finest = stepS ?? (span ? 2 * toleranceOf(target) : undefined);
  const steps = finest === undefined || finest === 0 ? 1 : Math.ceil(1 / (frame.valueOf() * finest) - 1e-9);
  return {
    frequency: { kind: 'near', ...bandPpm(frame, target.frameTolerancePpm ?? FRAME_TOLERANCE_PPM) },
    ...(span && widthS === undefined
      ? widthsWithin(span, frame)
      : widthBand(width, off, frame, widthS !== undefined ? 'widthS' : 'maxS')),
    minSteps: steps,
    pin: true,
    ...(span ? { span } : {}),
  };
}

/** Any width of a span will do to begin with; the middle is taken where nothing else is wanted. @throws TargetError */
function widthsWithin({ low, high, within }: Span, frame: Exact): { width: Band; duty: Band } {
  const ends = [low, high].map((end) => widthBand(end, within, frame, 'maxS'));
  const middle = widthBand(low.add(high).div(2), within, frame, 'maxS');
  const [least = middle, most = middle] = ends;
  return {
    width: { ideal: middle.width.ideal, low: least.width.low, high: most.width.high },
    duty: { ideal: middle.duty.ideal, low: least.duty.low, high: most.duty.high },
  };
}

function toleranceOf({ widthToleranceS, stepS }: PulseTarget): number {
  return widthToleranceS ?? (stepS === undefined ? WIDTH_TOLERANCE_S : stepS / 2);
}

/**
 * The frame and the widths on an oscillator that is off. Places stay as fine as they were: a wider tolerance is for the whole
 * scale, not for its steps.
 */
function eased(target: PulseTarget, oscillatorPpm: number): PulseTarget {
  const frameTolerancePpm =
    target.frameTolerancePpm ?? easedTolerance(FRAME_TOLERANCE_PPM, oscillatorPpm) ?? undefined;
  const own = frameTolerancePpm === undefined ? target : { ...target, frameTolerancePpm };
  const longest = exact(own.maxS ?? own.widthS ?? 0).valueOf();
  const offS = (longest * oscillatorPpm) / 1e6;
  if (own.widthToleranceS !== undefined || offS <= toleranceOf(own) / 2) return own;
  const widthToleranceS = easedTolerance(0, offS + toleranceOf(own));
  if (widthToleranceS === undefined || widthToleranceS > EASED_WIDTH_S) return own;
  const step = own.minS === undefined || own.stepS !== undefined ? {} : { stepS: 2 * WIDTH_TOLERANCE_S };
  return { ...own, ...step, widthToleranceS };
}

function windowOf({ minS, maxS, degrees = DEGREES }: PulseTarget): Scale['window'] {
  return minS === undefined || maxS === undefined
    ? undefined
    : { low: exact(minS), high: exact(maxS), degrees };
}

/** A width as a turn within its window: "75° of 180°". */
function turnText(width: Exact, { low, high, degrees }: NonNullable<Scale['window']>): string {
  const share = width.sub(low).div(high.sub(low)).valueOf();
  return `${printNumber(share * degrees, 4)}° of ${printNumber(degrees)}°`;
}

const tokens: Kind<PulseTarget>['tokens'] = {
  frame: { dimension: 'frequency', label: 'frame rate', stepped: 'frequency', field: 'frameHz' },
  frameTolerance: {
    dimension: 'tolerance',
    label: 'frame tolerance',
    field: 'frameTolerancePpm',
    plain: true,
  },
  width: { dimension: 'time', label: 'width', stepped: 'duty', field: 'widthS' },
  minS: { dimension: 'time', label: 'minimum width', field: 'minS' },
  maxS: { dimension: 'time', label: 'maximum width', field: 'maxS' },
  widthTolerance: { dimension: 'time', label: 'width tolerance', field: 'widthToleranceS', plain: true },
};
const make = makerOf(tokens);

function widthPieces(target: PulseTarget, period: number): Piece[] {
  const { widthS, minS = 0, maxS = 0 } = target;
  const window = windowOf(target);
  if (!window) return [words(', high for '), make('width', ...secondsText(widthS ?? 0, period))];
  const ends = [
    make('minS', ...secondsText(minS, period)),
    words(widthS === undefined ? ' to ' : ' and '),
    make('maxS', ...secondsText(maxS, period)),
  ];
  if (widthS === undefined) return [words(', high from '), ...ends];
  const [text, also] = secondsText(widthS, period);
  const width = make('width', text, `${also} = ${turnText(exact(widthS), window)}`);
  return [words(', high for '), width, words(' between '), ...ends];
}

const FRAME_HZ = 50;
const WIDTH_S = 0.0015;

/** The width of a wish: a span, with the turn it stands for or an angle within it, or one width. */
function widthWished(facts: Facts): Partial<PulseTarget> | { asks: string } {
  const ends = facts.span('time span');
  const angle = facts.see('angle');
  if (ends) {
    const [minS, maxS] = ends;
    const span = { minS, maxS };
    if (!angle) return span;
    facts.take('angle');
    const degrees = angle.value.valueOf();
    if (angle.label !== 'at') return { ...span, degrees };
    const width = exact(minS).add(exact(maxS).sub(exact(minS)).mul(angle.value).div(DEGREES));
    return { ...span, widthS: amountOf(width) };
  }
  if (angle) return { asks: 'Which widths are its ends? Say for example 1 to 2 ms.' };
  const widthS = facts.amount('time', 'on');
  if (widthS === undefined) facts.assume('1.5 ms');
  return { widthS: widthS ?? WIDTH_S };
}

function wished(facts: Facts): Wished<PulseTarget> {
  const width = widthWished(facts);
  if ('asks' in width) return width;
  const frameHz = hzIn(facts, false);
  if (frameHz === undefined) facts.assume('50 Hz');
  const stepS = facts.number('step');
  const widthToleranceS = facts.number('within s');
  const frameTolerancePpm = facts.number('within');
  return {
    target: {
      frameHz: frameHz ?? FRAME_HZ,
      ...width,
      ...(stepS === undefined ? {} : { stepS }),
      ...(widthToleranceS === undefined ? {} : { widthToleranceS }),
      ...(frameTolerancePpm === undefined ? {} : { frameTolerancePpm }),
    },
  };
}

/** A pulse in each frame, as a servo or a speed controller wants. */
export const pulse: Kind<PulseTarget, 'pulse'> = {
  id: 'pulse',
  verb: 'pulses',
  high: 'high',
  name: 'Servo',
  starter: {
    text: 'a servo with pulses of 0.9 to 2.1 ms',
    target: { frameHz: 50, widthS: 0.0015, minS: 0.0009, maxS: 0.0021 },
  },
  shape,
  on: 'output',
  purpose: 'position',
  knob: {
    sets: 'width',
    span: ({ minS, maxS }) => [exact(minS ?? KNOB_S[0]).valueOf(), exact(maxS ?? KNOB_S[1]).valueOf()],
  },
  readings: { of: 'width', unit: '°' },
  requirement,
  tokens,
  sentence: (target) => {
    const hz = exact(target.frameHz).valueOf();
    const tolerance = target.frameTolerancePpm ?? FRAME_TOLERANCE_PPM;
    const text = toleranceText(tolerance);
    return [
      words(' pulses at '),
      make('frame', printHz(hz), frequencyAlso(hz)),
      words(' within '),
      make('frameTolerance', text, `±${text} = ±${printNumber(tolerance)} ppm`),
      ...widthPieces(target, exact(target.frameHz).inverse().valueOf()),
      words(' within '),
      make('widthTolerance', ...secondsText(toleranceOf(target))),
      words('.'),
    ];
  },
  withFrequency: (target, frequency) => ({ ...target, frameHz: amountOf(frequency) }),
  withDuty: (target, duty, frequency) => ({ ...target, widthS: amountOf(duty.div(frequency)) }),
  eased,
  relaxations: (target) => [
    relaxPpm('frameTolerancePpm', target.frameTolerancePpm ?? FRAME_TOLERANCE_PPM),
    {
      field: 'widthToleranceS',
      now: target.widthToleranceS ?? WIDTH_TOLERANCE_S,
      max: 0.001,
      say: (value) => `with its width within ±${printSeconds(value)}`,
    },
  ],
  wish: {
    rank: 4,
    is: ['servo', 'ESC', 'speed controller'],
    things: ['shutter', 'arm', 'vane', 'rudder', 'gripper'],
    hints: ['pulse', 'pulses'],
    suits: (facts) => facts.has('time span'),
    read: wished,
  },
  window: windowOf,
};
