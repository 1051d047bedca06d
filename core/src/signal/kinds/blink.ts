import { amountOf, exact } from '../../quantity/exact.ts';
import { printHz, printSeconds } from '../../quantity/print.ts';
import { bandPpm, dutyBand, rateOf } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import { atFrequency, DUTY_TOLERANCE, PPM_TOKEN, RATE_TOKEN, without } from './common.ts';
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

/** A lamp that flashes. */
export const blink: Kind<BlinkTarget> = {
  id: 'blink',
  verb: 'blinks',
  high: 'lit',
  name: 'Lamp',
  starter: { text: 'a lamp that blinks once a second', target: { frequencyHz: 1, duty: 0.5 } },
  shape,
  on: 'output',
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
  relaxations: (target) => [
    relaxPpm('frequencyTolerancePpm', target.frequencyTolerancePpm ?? TOLERANCE_PPM),
    relaxDuty(target.dutyTolerance ?? DUTY_TOLERANCE),
  ],
  wish: {
    words: /\b(blinks?|flash(es)?|lamp|led|light|beacon|lantern)\b/i,
    rank: 7,
    suits: ({ rate }) => rate !== undefined,
    // A lamp at a rate that nobody sees blink is a lamp that dims.
    meant: ({ hz }) => (hz !== undefined && hz > 100 ? 'dim' : undefined),
    read: ({ rate, duty }) => ({ frequencyHz: rate ?? 1, duty: duty ?? 0.5 }),
  },
};
