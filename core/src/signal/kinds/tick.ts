import { exact } from '../../quantity/exact.ts';
import { printHz, printSeconds } from '../../quantity/print.ts';
import { bandAround, bandPpm, rateOf } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import { atFrequency, easedPpm, PPM_TOKEN, RATE_TOKEN } from './common.ts';
import type { Kind } from './kind.ts';
import { bandAlso, frequencyAlso, makerOf, relaxPpm, toleranceText, wantedHz, words } from './pieces.ts';
import { POSITIVE, PPM, type TargetOf } from './shape.ts';
import { ppmIn, rateIn } from '../wish/rates.ts';

const TOLERANCE_PPM = 1000;

const shape = {
  frequencyHz: POSITIVE,
  periodS: POSITIVE,
  frequencyTolerancePpm: PPM,
  jitterS: { type: 'number', min: 0, max: 1e6 },
} as const;

/** Ticks for the program, on no pin: a frequency or a period, and how far a tick may stand off its place. */
export type TickTarget = TargetOf<typeof shape>;

function requirement(target: TickTarget): Requirement {
  const frequency = rateOf('A tick', target);
  return {
    frequency: { kind: 'near', ...bandPpm(frequency, target.frequencyTolerancePpm ?? TOLERANCE_PPM) },
    duty: bandAround(exact('0.5'), exact('0.5')),
    minSteps: 1,
    pin: false,
    ...(target.jitterS === undefined ? {} : { jitterS: target.jitterS }),
  };
}

const tokens: Kind<TickTarget>['tokens'] = { frequency: RATE_TOKEN, tolerance: PPM_TOKEN };
const make = makerOf(tokens);

/** A regular interrupt for the program. */
export const tick: Kind<TickTarget, 'tick'> = {
  id: 'tick',
  verb: 'ticks',
  high: 'busy',
  name: 'Tick',
  starter: { text: 'a tick of a millisecond for the program', target: { frequencyHz: 1000 } },
  shape,
  on: 'processor',
  requirement,
  tokens,
  sentence: (target) => {
    const needed = requirement(target);
    const hz = wantedHz(needed).valueOf();
    const tolerance = toleranceText(target.frequencyTolerancePpm ?? TOLERANCE_PPM);
    const rate = target.periodS === undefined ? printHz(hz) : printSeconds(1 / hz);
    return [
      words(' ticks at '),
      make('frequency', rate, frequencyAlso(hz)),
      words(' within '),
      make('tolerance', tolerance, bandAlso(tolerance, needed)),
      words('.'),
    ];
  },
  withFrequency: atFrequency,
  withDuty: () => undefined,
  eased: (target, oscillatorPpm) => easedPpm(target, TOLERANCE_PPM, oscillatorPpm),
  relaxations: (target) => [relaxPpm('frequencyTolerancePpm', target.frequencyTolerancePpm ?? TOLERANCE_PPM)],
  wish: {
    rank: 2,
    is: ['systick'],
    says: ['tick', 'interrupt', 'time base', 'timebase', 'call back', 'callback', 'call', 'sample', 'poll'],
    things: [
      'scheduler',
      'loop',
      'housekeeping',
      'debounce',
      'log',
      'poll',
      'task',
      'routine',
      'control loop',
    ],
    suits: (facts) =>
      !facts.has('share') &&
      !facts.has('changes') &&
      !facts.has('time span') &&
      (['every', 'time', 'rate', 'hz', 'rpm'] as const).some(facts.has),
    read: (facts) => {
      const rated = rateIn(facts, true);
      if (!rated) facts.assume('1 kHz');
      const jitterS = facts.number('jitter');
      return {
        target: {
          ...(rated ?? { frequencyHz: 1000 }),
          ...ppmIn(facts),
          ...(jitterS === undefined ? {} : { jitterS }),
        },
      };
    },
  },
};
