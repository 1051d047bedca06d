import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import { printHz, printNumber, printPercent } from '../../quantity/print.ts';
import { bandPpm, dutyBand, positive, type Band } from '../band.ts';
import type { FrequencyBand, Requirement, Span } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import { DUTY_TOLERANCE, easedPpm, PPM_TOKEN } from './common.ts';
import type { Kind, Piece } from './kind.ts';
import {
  bandAlso,
  dutyText,
  frequencyAlso,
  makerOf,
  relaxDuty,
  relaxPpm,
  toleranceText,
  wantedHz,
  words,
} from './pieces.ts';
import { FRACTION, POSITIVE, PPM, SHARE, whole, type Amount, type TargetOf } from './shape.ts';
import type { Facts } from '../wish/facts.ts';
import { hzIn, ppmIn } from '../wish/rates.ts';
import type { Wished } from './wish.ts';

const TOLERANCE_PPM = 10_000;

/** The steps that a duty which moves has at least where a target does not say: steps of 1 %. */
const SPAN_STEPS = 100;

const shape = {
  frequencyHz: POSITIVE,
  minHz: POSITIVE,
  maxHz: POSITIVE,
  frequencyTolerancePpm: PPM,
  duty: SHARE,
  minDuty: SHARE,
  maxDuty: SHARE,
  dutyTolerance: FRACTION,
  minSteps: whole(2 ** 32),
} as const;

/**
 * Pulses for a motor, a fan, a heater, a carrier or a driver: a frequency with a tolerance, or a band of frequencies; a
 * duty, or a span to move it in; and the least number of duty steps.
 */
export type PwmTarget = TargetOf<typeof shape>;

function frequencyOf(target: PwmTarget): FrequencyBand {
  const { frequencyHz, minHz, maxHz, frequencyTolerancePpm } = target;
  if ((frequencyHz === undefined) === (minHz === undefined)) {
    throw new TargetError('frequencyHz', 'A PWM has either frequencyHz or minHz.');
  }
  if (frequencyHz !== undefined) {
    if (maxHz !== undefined) throw new TargetError('maxHz', 'maxHz goes with minHz, not with frequencyHz.');
    const hz = positive(exact(frequencyHz), 'frequencyHz');
    return { kind: 'near', ...bandPpm(hz, frequencyTolerancePpm ?? TOLERANCE_PPM) };
  }
  if (frequencyTolerancePpm !== undefined) {
    throw new TargetError('frequencyTolerancePpm', 'A band of frequencies has no tolerance besides.');
  }
  const low = positive(exact(minHz ?? 0), 'minHz');
  if (maxHz === undefined) return { kind: 'within', low };
  const high = exact(maxHz);
  if (high.compare(low) <= 0) throw new TargetError('maxHz', 'maxHz must lie above minHz.');
  return { kind: 'within', low, high };
}

function spanOf({ minDuty, maxDuty, dutyTolerance }: PwmTarget): Span | undefined {
  if ((minDuty === undefined) !== (maxDuty === undefined)) {
    throw new TargetError('maxDuty', 'The span of a duty has both minDuty and maxDuty.');
  }
  if (minDuty === undefined || maxDuty === undefined) return undefined;
  const span: Span = {
    of: 'duty',
    low: exact(minDuty),
    high: exact(maxDuty),
    within: exact(dutyTolerance ?? DUTY_TOLERANCE),
  };
  if (span.low.compare(0) < 0) throw new TargetError('minDuty', 'minDuty must be 0 or more.');
  if (span.high.compare(1) > 0) throw new TargetError('maxDuty', 'maxDuty must be 1 or less.');
  if (span.high.compare(span.low) <= 0) throw new TargetError('maxDuty', 'maxDuty must lie above minDuty.');
  return span;
}

function dutyOf(target: PwmTarget, span: Span | undefined): Exact {
  if (target.duty === undefined) return span ? span.low.add(span.high).div(2) : exact('0.5');
  const duty = exact(target.duty);
  if (span && (duty.compare(span.low) < 0 || duty.compare(span.high) > 0)) {
    throw new TargetError('duty', 'duty lies outside its span from minDuty to maxDuty.');
  }
  return duty;
}

function dutyNear(target: PwmTarget, span: Span | undefined): Band {
  return dutyBand(dutyOf(target, span), target.dutyTolerance ?? DUTY_TOLERANCE, 'duty');
}

/** Any duty of a span will do to begin with; the middle is taken where nothing else is wanted. */
function dutiesWithin({ low, high, within }: Span): Band {
  const [least, most] = [low.sub(within), high.add(within)];
  return {
    ideal: low.add(high).div(2),
    low: least.compare(0) < 0 ? exact(0) : least,
    high: most.compare(1) > 0 ? exact(1) : most,
  };
}

function requirement(target: PwmTarget): Requirement {
  const span = spanOf(target);
  return {
    frequency: frequencyOf(target),
    duty: span && target.duty === undefined ? dutiesWithin(span) : dutyNear(target, span),
    minSteps: target.minSteps ?? (span ? SPAN_STEPS : 1),
    pin: true,
    ...(span ? { span } : {}),
  };
}

const tokens: Kind<PwmTarget>['tokens'] = {
  frequency: {
    dimension: 'frequency',
    label: 'frequency',
    stepped: 'frequency',
    field: 'frequencyHz',
    replaces: ['minHz', 'maxHz'],
  },
  tolerance: PPM_TOKEN,
  minHz: { dimension: 'frequency', label: 'lowest frequency', stepped: 'frequency', field: 'minHz' },
  maxHz: { dimension: 'frequency', label: 'highest frequency', field: 'maxHz' },
  duty: { dimension: 'duty', label: 'duty', stepped: 'duty', field: 'duty' },
  minDuty: { dimension: 'duty', label: 'least duty', field: 'minDuty' },
  maxDuty: { dimension: 'duty', label: 'greatest duty', field: 'maxDuty' },
  minSteps: { dimension: 'steps', label: 'minimum number of steps', field: 'minSteps', plain: true },
};
const make = makerOf(tokens);

function rate(token: 'minHz' | 'maxHz', hz: Amount): Piece {
  const value = exact(hz).valueOf();
  return make(token, printHz(value), frequencyAlso(value));
}

function ratePieces(target: PwmTarget, needed: Requirement): Piece[] {
  const { minHz, maxHz } = target;
  if (minHz !== undefined) {
    const low = rate('minHz', minHz);
    return maxHz === undefined ? [low, words(' or more')] : [low, words(' to '), rate('maxHz', maxHz)];
  }
  const hz = wantedHz(needed).valueOf();
  const text = toleranceText(target.frequencyTolerancePpm ?? TOLERANCE_PPM);
  return [
    make('frequency', printHz(hz), frequencyAlso(hz)),
    words(' within '),
    make('tolerance', text, bandAlso(text, needed)),
  ];
}

function share(token: 'minDuty' | 'maxDuty', duty: Amount): Piece {
  const value = exact(duty);
  const text = printPercent(value.valueOf());
  return make(token, text, `${text} = ${value.toFraction()}`);
}

function dutyPieces(target: PwmTarget, needed: Requirement): Piece[] {
  const { minDuty, maxDuty } = target;
  const duty = make('duty', ...dutyText({ ...needed, duty: dutyNear(target, needed.span) }));
  if (minDuty === undefined || maxDuty === undefined) return [words(', high for '), duty];
  const ends = [share('minDuty', minDuty), words(' and '), share('maxDuty', maxDuty)];
  return [words(', high for '), duty, words(' between '), ...ends];
}

/** The frequency of a wish: a band, or one with a tolerance. */
function rateWished(facts: Facts): PwmTarget | undefined {
  const span = facts.span('hz span');
  if (span) return { minHz: span[0], maxHz: span[1] };
  const minHz = facts.amount('minHz');
  const maxHz = minHz === undefined ? undefined : facts.amount('maxHz');
  if (minHz !== undefined) return { minHz, ...(maxHz === undefined ? {} : { maxHz }) };
  const frequencyHz = hzIn(facts, false);
  return frequencyHz === undefined ? undefined : { frequencyHz, ...ppmIn(facts) };
}

/** The duty of a wish: a share, a span of shares, or a time high against the frequency. */
function dutyWished(facts: Facts, { frequencyHz }: PwmTarget): PwmTarget {
  const span = facts.span('share span');
  if (span) return { minDuty: span[0], maxDuty: span[1] };
  const duty = facts.amount('share');
  if (duty !== undefined) return { duty };
  const on = frequencyHz === undefined ? undefined : facts.take('on');
  return on && frequencyHz !== undefined ? { duty: amountOf(on.value.mul(exact(frequencyHz))) } : {};
}

function wished(facts: Facts): Wished<PwmTarget> {
  const rate = rateWished(facts);
  if (!rate) return { asks: 'At what frequency? Say for example 25 kHz, or above hearing.' };
  const minSteps = facts.number('steps');
  return {
    target: { ...rate, ...dutyWished(facts, rate), ...(minSteps === undefined ? {} : { minSteps }) },
  };
}

/** Pulses for something that takes their mean. */
export const pwm: Kind<PwmTarget, 'pwm'> = {
  id: 'pwm',
  verb: 'gets PWM',
  high: 'high',
  name: 'PWM',
  starter: {
    text: 'a fan with PWM at 25 kHz in 8 bits',
    target: { frequencyHz: 25_000, frequencyTolerancePpm: 20_000, duty: 0.5, minSteps: 256 },
  },
  shape,
  on: 'output',
  purpose: 'power',
  knob: { sets: 'duty' },
  readings: { of: 'duty', unit: 'V' },
  requirement,
  tokens,
  sentence: (target) => {
    const needed = requirement(target);
    const { minSteps } = needed;
    const also = `${printNumber(minSteps)} steps = ${printNumber(Math.log2(minSteps), 4)} bit = ${printPercent(1 / minSteps, 4)} a step`;
    return [
      words(' gets PWM at '),
      ...ratePieces(target, needed),
      ...dutyPieces(target, needed),
      words(' of the time, in '),
      make('minSteps', printNumber(minSteps), also),
      words(minSteps === 1 ? ' step or more.' : ' steps or more.'),
    ];
  },
  withFrequency: (target, frequency) =>
    target.minHz === undefined
      ? { ...target, frequencyHz: amountOf(frequency) }
      : { ...target, minHz: amountOf(frequency) },
  withDuty: (target, duty) => ({ ...target, duty: amountOf(duty) }),
  eased: (target, oscillatorPpm) =>
    target.frequencyHz === undefined ? target : easedPpm(target, TOLERANCE_PPM, oscillatorPpm),
  relaxations: (target) => {
    const { minSteps } = requirement(target);
    const steps = {
      field: 'minSteps',
      now: minSteps,
      max: minSteps,
      say: (value: number) => `in ${printNumber(value)} steps`,
      falling: { min: 8 },
    };
    return [
      ...(target.minHz === undefined
        ? [relaxPpm('frequencyTolerancePpm', target.frequencyTolerancePpm ?? TOLERANCE_PPM)]
        : []),
      relaxDuty(target.dutyTolerance ?? DUTY_TOLERANCE),
      ...(minSteps > 8 ? [steps] : []),
    ];
  },
  wish: {
    rank: 5.5,
    says: ['pwm'],
    things: [
      'fan',
      'motor',
      'stepper motor',
      'heater',
      'pump',
      'solenoid',
      'valve',
      'carrier',
      'IR',
      'infrared',
      'half-bridge',
      'half bridge',
      'H-bridge',
      'bridge',
      'MOSFET',
      'transistor',
      'peltier',
      'winch',
      'magnet',
      'coil',
    ],
    hints: ['square wave', 'clock output', 'step pulses', 'driver'],
    suits: (facts) => facts.has('hz') && (facts.has('share') || (facts.see('hz')?.value.valueOf() ?? 0) > 60),
    // What is switched on for a while every now and then has no PWM.
    meant: (facts) =>
      (facts.has('every') || facts.has('period')) && facts.has('on') && !facts.has('share')
        ? ['blink']
        : undefined,
    read: wished,
  },
};
