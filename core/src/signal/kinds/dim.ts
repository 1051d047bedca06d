import { amountOf, exact } from '../../quantity/exact.ts';
import { printHz, printNumber, printPercent } from '../../quantity/print.ts';
import { dutyBand, positive } from '../band.ts';
import type { Requirement } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import type { Kind } from './kind.ts';
import { dutyText, frequencyAlso, makerOf, wantedHz, words } from './pieces.ts';
import { FRACTION, POSITIVE, required, SHARE, whole, type TargetOf } from './shape.ts';

const shape = {
  minHz: required(POSITIVE),
  minSteps: required(whole(2 ** 32)),
  duty: SHARE,
  dutyTolerance: FRACTION,
} as const;

/** Dims: a minimum frequency, a minimum number of duty steps, and a duty. */
export type DimTarget = TargetOf<typeof shape>;

function requirement(target: DimTarget): Requirement {
  const { minSteps } = target;
  if (!Number.isInteger(minSteps) || minSteps < 1) {
    throw new TargetError('minSteps', `minSteps must be a whole number, 1 or more, and is ${minSteps}.`);
  }
  return {
    frequency: { kind: 'within', low: positive(exact(target.minHz), 'minHz') },
    duty: dutyBand(exact(target.duty ?? '0.5'), target.dutyTolerance ?? 1 / minSteps, 'duty'),
    minSteps,
    pin: true,
  };
}

const tokens: Kind<DimTarget>['tokens'] = {
  minHz: { dimension: 'frequency', label: 'minimum frequency', stepped: 'frequency', field: 'minHz' },
  minSteps: { dimension: 'steps', label: 'minimum number of steps', field: 'minSteps', plain: true },
  duty: { dimension: 'duty', label: 'duty', stepped: 'duty', field: 'duty' },
};
const make = makerOf(tokens);

/** A light that is dimmed without flicker and in steps too fine to be seen. */
export const dim: Kind<DimTarget, 'dim'> = {
  id: 'dim',
  verb: 'dims',
  high: 'lit',
  name: 'Light',
  starter: {
    text: 'a light that dims in 250 steps',
    target: { minHz: 200, minSteps: 250, duty: 0.5 },
  },
  shape,
  on: 'output',
  purpose: 'brightness',
  knob: { sets: 'duty', curve: 'lightness' },
  readings: { of: 'duty', unit: 'V' },
  requirement,
  tokens,
  sentence: (target) => {
    const needed = requirement(target);
    const hz = wantedHz(needed).valueOf();
    const { minSteps: steps } = target;
    const also = `${printNumber(steps)} steps = ${printNumber(Math.log2(steps), 4)} bit = ${printPercent(1 / steps, 4)} a step`;
    return [
      words(' dims at '),
      make('minHz', printHz(hz), frequencyAlso(hz)),
      words(' or more in '),
      make('minSteps', printNumber(steps), also),
      words(' steps or more, lit for '),
      make('duty', ...dutyText(needed)),
      words(' of the time.'),
    ];
  },
  withFrequency: (target, frequency) => ({ ...target, minHz: amountOf(frequency) }),
  withDuty: (target, duty) => ({ ...target, duty: amountOf(duty) }),
  relaxations: ({ minSteps }) => [
    {
      field: 'minSteps',
      now: minSteps,
      max: minSteps,
      say: (value) => `in ${printNumber(value)} steps`,
      falling: { min: 8 },
    },
  ],
  wish: {
    rank: 6,
    says: ['dim', 'dimming', 'dimmed', 'fade', 'brightness', 'breathe', 'glow'],
    read: (facts) => {
      const fade = facts.has('during') ? facts.span('share span') : undefined;
      const forS = fade ? facts.amount('during') : undefined;
      const roundS = fade ? undefined : facts.take('every')?.value;
      const minHz = facts.amount('minHz', 'hz');
      const free = facts.take('without flicker');
      if (minHz === undefined && !free) facts.assume('200 Hz or more');
      const minSteps = facts.number('steps');
      if (minSteps === undefined) facts.assume('250 steps');
      const duty = facts.amount('share');
      const target = {
        minHz: minHz ?? 200,
        minSteps: minSteps ?? 250,
        ...(duty === undefined ? {} : { duty }),
      };
      if (fade && forS !== undefined) {
        return { target, sequence: { steps: [{ duty: fade[0], toDuty: fade[1], forS }] } };
      }
      if (!roundS) return { target };
      const half = amountOf(roundS.div(2));
      return {
        target,
        sequence: {
          steps: [
            { duty: 0, toDuty: 1, forS: half },
            { duty: 1, toDuty: 0, forS: half },
          ],
        },
      };
    },
  },
};
