import { amountOf, exact } from '../../quantity/exact.ts';
import { printHz, printSeconds } from '../../quantity/print.ts';
import { bandPpm, dutyBand, rateOf } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import { atFrequency, DUTY_TOLERANCE, easedPpm, PPM_TOKEN, RATE_TOKEN, without } from './common.ts';
import type { Kind } from './kind.ts';
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
import { AMOUNT, FRACTION, POSITIVE, PPM, SHARE, type TargetOf } from './shape.ts';
import { morseIn, stretches } from '../wish/stretched.ts';
import type { Facts } from '../wish/facts.ts';
import { periodOf, ppmIn, rateIn, type Rated } from '../wish/rates.ts';
import type { Wished } from './wish.ts';

const TOLERANCE_PPM = 10_000;

const shape = {
  frequencyHz: POSITIVE,
  periodS: POSITIVE,
  duty: SHARE,
  onS: AMOUNT,
  frequencyTolerancePpm: PPM,
  dutyTolerance: FRACTION,
} as const;

/** Flashes: a frequency or a period, and a duty or a time lit. */
export type BlinkTarget = TargetOf<typeof shape>;

function requirement(target: BlinkTarget): Requirement {
  const frequency = rateOf('A blink', target);
  if (target.duty !== undefined && target.onS !== undefined) {
    throw new TargetError('onS', 'A blink has either duty or onS, not both.');
  }
  const timed = target.onS !== undefined;
  const duty = timed ? exact(target.onS ?? 0).mul(frequency) : exact(target.duty ?? '0.5');
  if (timed && duty.compare(1) > 0) {
    const period = printSeconds(frequency.inverse().valueOf());
    throw new TargetError('onS', `The time lit is longer than the period of ${period}.`);
  }
  return {
    frequency: { kind: 'near', ...bandPpm(frequency, target.frequencyTolerancePpm ?? TOLERANCE_PPM) },
    duty: dutyBand(duty, target.dutyTolerance ?? DUTY_TOLERANCE, timed ? 'onS' : 'duty'),
    minSteps: 1,
    pin: true,
  };
}

const tokens: Kind<BlinkTarget>['tokens'] = {
  frequency: RATE_TOKEN,
  tolerance: PPM_TOKEN,
  duty: { dimension: 'duty', label: 'duty', stepped: 'duty', field: 'duty', replaces: ['onS'] },
};
const make = makerOf(tokens);

/** Whether a rate is said that people see blink. */
function slowRate(facts: Facts): boolean {
  const hz = facts.see('hz') ?? facts.see('rpm');
  return hz !== undefined && hz.value.valueOf() <= 60;
}

const ONCE_A_SECOND: Rated = { frequencyHz: 1 };

/** So many flashes, then a rest: "twice every 10 s", "3 flashes of 200 ms every 5 s". */
function group(facts: Facts, count: number): Wished<BlinkTarget> {
  const roundS = facts.take('every')?.value;
  if (!roundS) return { asks: 'How often?' };
  const onS = facts.take('on', 'time');
  const paced = rateIn(facts, false);
  const rated = paced ?? (onS ? { periodS: amountOf(onS.value.mul(2)) } : ONCE_A_SECOND);
  if (!paced && !onS) facts.assume('flashes at 1 Hz');
  const restS = roundS.sub(periodOf(rated).mul(count));
  if (restS.compare(0) <= 0) return { asks: 'The flashes do not fit into their round.' };
  return {
    target: { ...rated, ...(onS ? { onS: amountOf(onS.value) } : {}), ...ppmIn(facts) },
    sequence: { steps: [{ periods: count }, { rest: true, forS: amountOf(restS) }] },
  };
}

function wished(facts: Facts): Wished<BlinkTarget> {
  const morse = morseIn(facts);
  if (morse && 'asks' in morse) return morse;
  if (morse) {
    const sequence = stretches(morse.marks, morse.dotS, (_, dots) => ({ duty: 1, periods: dots }));
    return { target: { frequencyHz: amountOf(morse.dotS.inverse()) }, sequence };
  }
  const count = facts.take('count')?.value.valueOf() ?? 1;
  if (count > 1) return group(facts, Math.round(count));
  // Within a round that is said, a bare time is the time lit: "50 ms every 2 s".
  const onS = (facts.has('every') ? facts.take('on', 'time') : facts.take('on'))?.value;
  const offS = facts.take('off')?.value;
  if (onS && offS) {
    return { target: { periodS: amountOf(onS.add(offS)), onS: amountOf(onS), ...ppmIn(facts) } };
  }
  const changes = facts.take('changes') !== undefined;
  const rated = rateIn(facts, true);
  if (!rated) facts.assume('1 Hz');
  const rate = rated ?? ONCE_A_SECOND;
  const paced: Rated = changes && rated ? { periodS: amountOf(periodOf(rate).mul(2)) } : rate;
  const duty = onS ? undefined : facts.amount('share');
  return {
    target: {
      ...paced,
      ...(onS ? { onS: amountOf(onS) } : {}),
      ...(duty === undefined ? {} : { duty }),
      ...ppmIn(facts),
    },
  };
}

/** A lamp that flashes. */
export const blink: Kind<BlinkTarget, 'blink'> = {
  id: 'blink',
  verb: 'blinks',
  high: 'lit',
  name: 'Lamp',
  starter: { text: 'a lamp that blinks once a second', target: { frequencyHz: 1, duty: 0.5 } },
  shape,
  on: 'output',
  purpose: 'rhythm',
  knob: { sets: 'frequency' },
  readings: { of: 'duty', unit: 'V' },
  requirement,
  tokens,
  sentence: (target) => {
    const required = requirement(target);
    const hz = wantedHz(required).valueOf();
    const tolerance = toleranceText(target.frequencyTolerancePpm ?? TOLERANCE_PPM);
    const rate = target.periodS === undefined ? printHz(hz) : printSeconds(1 / hz);
    return [
      words(' blinks at '),
      make('frequency', rate, frequencyAlso(hz)),
      words(' within '),
      make('tolerance', tolerance, bandAlso(tolerance, required)),
      words(', lit for '),
      make('duty', ...dutyText(required)),
      words(' of the time.'),
    ];
  },
  withFrequency: atFrequency,
  withDuty: (target, duty) => ({ ...without(target, 'onS'), duty: amountOf(duty) }),
  eased: (target, oscillatorPpm) => easedPpm(target, TOLERANCE_PPM, oscillatorPpm),
  relaxations: (target) => [
    relaxPpm('frequencyTolerancePpm', target.frequencyTolerancePpm ?? TOLERANCE_PPM),
    relaxDuty(target.dutyTolerance ?? DUTY_TOLERANCE),
  ],
  wish: {
    rank: 7,
    says: ['blink', 'flash', 'flicker', 'wink'],
    things: [
      'LED',
      'lamp',
      'light',
      'beacon',
      'lantern',
      'indicator',
      'relay',
      'backlight',
      'bulb',
      'torch',
      'headlight',
      'spotlight',
    ],
    suits: (facts) =>
      facts.has('changes') ||
      facts.has('morse') ||
      (!facts.has('every') &&
        (slowRate(facts) || facts.has('time') || (facts.has('on') && facts.has('off')))),
    meant: (facts) => {
      const still = !['hz', 'rate', 'every', 'period', 'time', 'off', 'count', 'changes', 'morse', 'on'].some(
        (role) => facts.has(role as 'hz'),
      );
      const fine = facts.has('steps') || facts.has('without flicker') || facts.has('minHz');
      if (fine || (still && (facts.has('share') || facts.has('share span')))) return ['dim'];
      // A lamp too fast to be seen blinking is dimmed, or gets its pulses for another reason.
      const fast = (facts.see('hz')?.value.valueOf() ?? 0) > 100;
      return fast ? (facts.has('share') ? ['dim'] : ['dim', 'pwm']) : undefined;
    },
    read: wished,
  },
};
