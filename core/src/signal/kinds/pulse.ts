import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import { printHz, printNumber, printSeconds } from '../../quantity/print.ts';
import type { Scale } from '../../quantity/scaled.ts';
import { bandPpm, positive } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import { spanOf, widthBand } from './common.ts';
import type { Kind, Piece } from './kind.ts';
import { frequencyAlso, makerOf, relaxPpm, secondsText, toleranceText, words } from './pieces.ts';
import { POSITIVE, PPM, QUANTITY, required, type TargetOf } from './shape.ts';
import { TIME } from './wish-facts.ts';

const FRAME_TOLERANCE_PPM = 10_000;

/** A width may be off by so much where a target gives neither a tolerance nor a step, in s. */
const WIDTH_TOLERANCE_S = 0.000005;

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
  const span = minS === undefined || maxS === undefined ? undefined : spanOf('width', minS, maxS, 'minS');
  const width = widthS !== undefined ? exact(widthS) : span?.low.add(span.high).div(2);
  if (!width) throw new TargetError('widthS', 'A pulse has widthS, or minS and maxS.');
  if (span && (width.compare(span.low) < 0 || width.compare(span.high) > 0)) {
    throw new TargetError('widthS', 'widthS lies outside its span from minS to maxS.');
  }
  const steps = stepS === undefined ? 1 : Math.ceil(1 / (frame.valueOf() * stepS) - 1e-9);
  return {
    frequency: { kind: 'near', ...bandPpm(frame, target.frameTolerancePpm ?? FRAME_TOLERANCE_PPM) },
    ...widthBand(width, exact(toleranceOf(target)), frame, widthS !== undefined ? 'widthS' : 'maxS'),
    minSteps: steps,
    pin: true,
    ...(span ? { span } : {}),
  };
}

function toleranceOf({ widthToleranceS, stepS }: PulseTarget): number {
  return widthToleranceS ?? (stepS === undefined ? WIDTH_TOLERANCE_S : stepS / 2);
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

/** A pulse in each frame, as a servo or a speed controller wants. */
export const pulse: Kind<PulseTarget> = {
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
    words: /\b(servos?|pulses?|shutter|arm|vane)\b/i,
    rank: 4,
    read: ({ hz, first, span }) => {
      const frameHz = hz ?? 50;
      const ends = span(TIME, 'time');
      if (!ends) return { frameHz, widthS: first(TIME, 'time') ?? 0.0015 };
      const widthS = Number(((ends[0] + ends[1]) / 2).toPrecision(12));
      return { frameHz, widthS, minS: ends[0], maxS: ends[1] };
    },
  },
  window: windowOf,
};
