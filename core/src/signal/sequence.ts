import { exact, type Exact } from '../quantity/exact.ts';
import { TargetError } from './target-error.ts';
import type { Requirement } from './requirement.ts';
import type { Amount } from './kinds/shape.ts';

/**
 * One step of a sequence: a number of whole periods, or the number of periods nearest to a time. It rests (the pin
 * low), or goes on with what differs from the target: a duty, a width or a frequency, and what that moves to by its end.
 */
export type SequenceStep = {
  periods?: number;
  forS?: Amount;
  rest?: boolean;
  duty?: Amount;
  toDuty?: Amount;
  widthS?: Amount;
  toWidthS?: Amount;
  frequencyHz?: Amount;
  toHz?: Amount;
};

/** What a signal does over time: steps one after the other, from the start again unless `once` is set. */
export type Sequence = { steps: SequenceStep[]; once?: boolean };

/** Where a signal stands against another one of the same frequency: its rise so much of a period after the other's. */
export type Phase = { to: string; degrees: number; toleranceDegrees?: number };

/** Most periods and most seconds one step may take. */
export const MAX_PERIODS = 1_000_000_000;

/** The default tolerance of a phase, in degrees. */
export const PHASE_DEGREES = 5;

/** A step with everything said: its frequencies in Hz and duties at its two ends, and how long it is. */
export type ResolvedStep = {
  rest: boolean;
  fromHz: Exact;
  toHz: Exact;
  fromDuty: Exact;
  toDuty: Exact;
  periods?: number;
  seconds?: Exact;
};

function share(value: Exact, key: string): Exact {
  if (value.compare(0) >= 0 && value.compare(1) <= 0) return value;
  throw new TargetError(
    key,
    `A step is high for 0 % to 100 % of a period, not ${value.mul(100).valueOf()} %.`,
  );
}

function dutyAt(
  duty: Amount | undefined,
  width: Amount | undefined,
  hz: Exact,
  key: string,
): Exact | undefined {
  if (duty !== undefined) return share(exact(duty), key);
  return width === undefined ? undefined : share(exact(width).mul(hz), key);
}

function resolvedStep(step: SequenceStep, at: number, requirement: Requirement): ResolvedStep {
  const key = `steps[${at}]`;
  const nth = `Step ${at + 1} of the sequence`;
  const hz = requirement.frequency.kind === 'near' ? requirement.frequency.ideal : requirement.frequency.low;
  if ((step.periods === undefined) === (step.forS === undefined)) {
    throw new TargetError(key, `${nth} has either periods or forS.`);
  }
  const changes = [step.duty, step.widthS, step.frequencyHz, step.toDuty, step.toWidthS, step.toHz];
  if (step.rest && changes.some((one) => one !== undefined)) {
    throw new TargetError(key, `${nth} rests; it has a length and nothing else.`);
  }
  if (step.duty !== undefined && step.widthS !== undefined) {
    throw new TargetError(key, `${nth} has either duty or widthS, not both.`);
  }
  const fromHz = step.frequencyHz === undefined ? hz : exact(step.frequencyHz);
  const toHz = step.toHz === undefined ? fromHz : exact(step.toHz);
  const fromDuty = dutyAt(step.duty, step.widthS, fromHz, key) ?? requirement.duty.ideal;
  const toDuty = dutyAt(step.toDuty, step.toWidthS, toHz, key) ?? fromDuty;
  return {
    rest: step.rest === true,
    fromHz,
    toHz,
    fromDuty,
    toDuty,
    ...(step.periods === undefined ? {} : { periods: step.periods }),
    ...(step.forS === undefined ? {} : { seconds: exact(step.forS) }),
  };
}

/**
 * The steps of a sequence against its requirement, everything said. @throws TargetError where a step says too little, too
 * much, or what no period can be.
 */
export function resolvedSteps(sequence: Sequence, requirement: Requirement): ResolvedStep[] {
  if (!requirement.pin || requirement.input)
    throw new TargetError('steps', 'A sequence is for a signal on an output.');
  return sequence.steps.map((step, at) => resolvedStep(step, at, requirement));
}
