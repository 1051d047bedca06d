import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import { printHz } from '../../quantity/print.ts';
import { bandPpm, dutyBand, positive, rateOf } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import { DUTY_TOLERANCE, spanOf, widthBand, without } from './common.ts';
import type { Kind } from './kind.ts';
import {
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
  const span =
    target.minHz === undefined ? {} : { span: spanOf('frequency', target.minHz, target.maxHz ?? 0, 'minHz') };
  const tolerance = target.dutyTolerance ?? DUTY_TOLERANCE;
  const lit =
    target.onS === undefined
      ? { duty: dutyBand(exact(target.duty ?? '0.05'), tolerance, 'duty') }
      : widthBand(exact(target.onS), exact(target.onS).mul(exact(tolerance)), frequency, 'onS');
  return {
    frequency: { kind: 'near', ...bandPpm(frequency, target.frequencyTolerancePpm ?? TOLERANCE_PPM) },
    ...lit,
    minSteps: 1,
    pin: true,
    ...span,
  };
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
};
const make = makerOf(tokens);

function rate(token: string, hz: Amount) {
  const value = exact(hz).valueOf();
  return make(token, printHz(value), frequencyAlso(value));
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
    const lit = needed.width?.ideal ?? needed.duty.ideal.div(hz);
    return [
      ...rates,
      words(' within '),
      make('tolerance', text, `±${text} = ±${tolerance} ppm`),
      words(', lit for '),
      make('onS', ...secondsText(amountOf(lit), hz.inverse().valueOf())),
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
