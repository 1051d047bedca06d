import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import { printHz, printPercent, printSeconds } from '../../quantity/print.ts';
import { bandPpm, dutyBand, positive, rateOf } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import { DUTY_TOLERANCE, easedPpm, easedTolerance, spanOf, widthBand, without } from './common.ts';
import type { Kind, Piece } from './kind.ts';
import {
  dutyText,
  frequencyAlso,
  makerOf,
  relaxDuty,
  relaxPpm,
  secondsText,
  toleranceText,
  wantedHz,
  words,
} from './pieces.ts';
import { FRACTION, POSITIVE, PPM, SHARE, whole, type Amount, type TargetOf } from './shape.ts';
import type { Facts } from '../wish/facts.ts';
import { ppmIn, rateIn } from '../wish/rates.ts';
import type { Wished } from './wish.ts';

const TOLERANCE_PPM = 1000;

const shape = {
  frequencyHz: POSITIVE,
  periodS: POSITIVE,
  rpm: POSITIVE,
  images: whole(1000),
  minHz: POSITIVE,
  maxHz: POSITIVE,
  onS: POSITIVE,
  duty: SHARE,
  frequencyTolerancePpm: PPM,
  dutyTolerance: FRACTION,
} as const;

/**
 * Flashes on something that moves: a frequency, a period or a speed in rpm with images a turn, or a span to move in; a
 * time lit or a duty.
 */
export type StrobeTarget = TargetOf<typeof shape>;

/** A strobe's frequency: said as such, as a period, as a speed with images a turn, or the lower end of its span. */
function strobeHz(target: StrobeTarget): Exact {
  const { rpm, images = 1, minHz } = target;
  if (rpm !== undefined) return positive(exact(rpm), 'rpm').mul(exact(images)).div(60);
  if (minHz !== undefined && target.frequencyHz === undefined && target.periodS === undefined) {
    return positive(exact(minHz), 'minHz');
  }
  return rateOf('A strobe', target);
}

function requirement(target: StrobeTarget): Requirement {
  const frequency = strobeHz(target);
  if (target.duty !== undefined && target.onS !== undefined) {
    throw new TargetError('onS', 'A strobe has either duty or onS, not both.');
  }
  if ((target.minHz === undefined) !== (target.maxHz === undefined)) {
    throw new TargetError('maxHz', 'The span of a strobe has both minHz and maxHz.');
  }
  const ppm = target.frequencyTolerancePpm ?? TOLERANCE_PPM;
  const span =
    target.minHz === undefined
      ? {}
      : { span: spanOf('frequency', target.minHz, target.maxHz ?? 0, exact(ppm).div(1000000), 'minHz') };
  const tolerance = target.dutyTolerance ?? DUTY_TOLERANCE;
  const lit =
    target.onS === undefined
      ? { duty: dutyBand(exact(target.duty ?? '0.05'), tolerance, 'duty') }
      : widthBand(exact(target.onS), exact(target.onS).mul(exact(tolerance)), frequency, 'onS');
  return {
    frequency: { kind: 'near', ...bandPpm(frequency, ppm) },
    ...lit,
    minSteps: 1,
    pin: true,
    ...span,
  };
}

/** A time lit hangs on the oscillator as the frequency does; a share of the period does not. */
function eased(target: StrobeTarget, oscillatorPpm: number): StrobeTarget {
  const own = easedPpm(target, TOLERANCE_PPM, oscillatorPpm);
  if (own.onS === undefined || own.dutyTolerance !== undefined) return own;
  const dutyTolerance = easedTolerance(DUTY_TOLERANCE, oscillatorPpm / 1e6);
  return dutyTolerance === undefined ? own : { ...own, dutyTolerance };
}

const tokens: Kind<StrobeTarget>['tokens'] = {
  frequency: {
    dimension: 'frequency',
    label: 'frequency',
    stepped: 'frequency',
    field: 'frequencyHz',
    replaces: ['periodS', 'rpm', 'images'],
  },
  minHz: { dimension: 'frequency', label: 'slowest', field: 'minHz' },
  maxHz: { dimension: 'frequency', label: 'fastest', field: 'maxHz' },
  tolerance: {
    dimension: 'tolerance',
    label: 'frequency tolerance',
    field: 'frequencyTolerancePpm',
    plain: true,
  },
  onS: { dimension: 'time', label: 'time lit', stepped: 'duty', field: 'onS', replaces: ['duty'] },
  duty: { dimension: 'duty', label: 'duty', stepped: 'duty', field: 'duty', replaces: ['onS'] },
  dutyTolerance: {
    dimension: 'dutyTolerance',
    label: 'tolerance of the time lit',
    field: 'dutyTolerance',
    plain: true,
  },
};
const make = makerOf(tokens);

function rate(token: string, hz: Amount) {
  const value = exact(hz).valueOf();
  return make(token, printHz(value), frequencyAlso(value, 'speed'));
}

/**
 * How long it is lit: a time, or a share of the period, which is another time at each frequency of a span. A tolerance of
 * its own is shown where it was said: of the time itself, or in points of the period.
 */
function litPieces(target: StrobeTarget, needed: Requirement): Piece[] {
  const hz = wantedHz(needed);
  const off = target.dutyTolerance;
  const text = printPercent(off ?? DUTY_TOLERANCE);
  const within = (also: string): Piece[] =>
    off === undefined ? [] : [words(' within '), make('dutyTolerance', text, also)];
  if (needed.width) {
    const [said, also] = secondsText(amountOf(needed.width.ideal), hz.inverse().valueOf());
    return [make('onS', said, `${also}, ±${text}`), ...within(`±${text} of the time lit`)];
  }
  const share = printPercent(needed.duty.ideal.valueOf());
  const ends = [target.minHz, target.maxHz].flatMap((end) =>
    end === undefined ? [] : [printSeconds(needed.duty.ideal.div(exact(end)).valueOf())],
  );
  const also =
    ends.length === 2 ? `${share} = ${ends.join(' … ')}, ±${text} of the period` : dutyText(needed)[1];
  return [make('duty', share, also), words(' of the time'), ...within(`±${text} of the period`)];
}

const ON_S = 0.0005;

function rateWished(facts: Facts): StrobeTarget | undefined {
  const span = facts.span('hz span');
  if (span) return { minHz: span[0], maxHz: span[1] };
  const turns = facts.take('rpm');
  const images = facts.number('images');
  if (turns) return { rpm: turns.spoken, ...(images === undefined ? {} : { images }) };
  return rateIn(facts, false);
}

function wished(facts: Facts): Wished<StrobeTarget> {
  const rate = rateWished(facts);
  if (!rate) return { asks: 'At what frequency? Say for example 25 Hz, 8 to 90 Hz or 300 rpm.' };
  const onS = facts.amount('on', 'time');
  const duty = onS === undefined ? facts.amount('share') : undefined;
  if (onS === undefined && duty === undefined) facts.assume('lit for 500 µs');
  const lit = duty === undefined ? { onS: onS ?? ON_S } : { duty };
  return { target: { ...rate, ...lit, ...ppmIn(facts) } };
}

/** A lamp that makes something that turns stand still. */
export const strobe: Kind<StrobeTarget, 'strobe'> = {
  id: 'strobe',
  verb: 'strobes',
  high: 'lit',
  name: 'Strobe',
  starter: { text: 'a strobe from 8 to 90 Hz', target: { minHz: 8, maxHz: 90, onS: 0.0005 } },
  shape,
  on: 'output',
  purpose: 'flash',
  knob: { sets: 'frequency' },
  readings: { of: 'frequency', unit: 'Hz' },
  requirement,
  tokens,
  sentence: (target) => {
    const needed = requirement(target);
    const hz = wantedHz(needed);
    const rates =
      target.minHz !== undefined && target.maxHz !== undefined
        ? [words(' strobes from '), rate('minHz', target.minHz), words(' to '), rate('maxHz', target.maxHz)]
        : [words(' strobes at '), rate('frequency', amountOf(hz))];
    const tolerance = target.frequencyTolerancePpm ?? TOLERANCE_PPM;
    const text = toleranceText(tolerance);
    return [
      ...rates,
      words(' within '),
      make('tolerance', text, `±${text} = ±${tolerance} ppm`),
      words(', lit for '),
      ...litPieces(target, needed),
      words('.'),
    ];
  },
  withFrequency: (target, frequency) => ({
    ...without(target, 'periodS', 'rpm', 'images'),
    frequencyHz: amountOf(frequency),
  }),
  withDuty: (target, duty, frequency) =>
    target.duty === undefined
      ? { ...target, onS: amountOf(duty.div(frequency)) }
      : { ...target, duty: amountOf(duty) },
  eased,
  relaxations: (target) => [
    relaxPpm('frequencyTolerancePpm', target.frequencyTolerancePpm ?? TOLERANCE_PPM),
    relaxDuty(target.dutyTolerance ?? DUTY_TOLERANCE),
  ],
  wish: {
    rank: 3,
    says: ['strobes', 'strobing'],
    is: ['strobe', 'stroboscope'],
    read: wished,
  },
};
