import { worstTime, type TimedValue } from '../check/check-rhythm.ts';
import type { Check } from '../check/check.ts';
import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import type { Requirement } from '../signal/requirement.ts';
import type { ResolvedStep } from '../signal/sequence.ts';
import { outcomeUnder } from '../timer/drives/index.ts';
import type { Setting } from '../timer/setting.ts';
import { sequenceSettings, timeTolerance, type StepRow } from './sequence-rows.ts';

/** A signal with a sequence and what it is judged by. */
type Judged = {
  part: Part;
  path: ClockPath;
  signal: PlanSignal;
  setting: Setting;
  requirement: Requirement;
  steps: readonly ResolvedStep[];
  tolerancePpm: number;
};

/** What the first or the last row of a step should be, and what it is. */
type End = { wantedHz: number; wantedDuty: number; hz: number; duty: number };

/** What a setting makes, rows without one as the sequence's own setting. */
function madeBy({ part, path, setting }: Judged, row: StepRow): { hz: number; duty: number } {
  const { frequency, duty } = outcomeUnder(part, path, row.setting ?? setting);
  return { hz: frequency.valueOf(), duty: duty.valueOf() };
}

function endsOf(judged: Judged, rows: readonly StepRow[]): End[] {
  return judged.steps.flatMap((step, at): End[] => {
    const own = rows.filter((row) => row.step === at);
    const [first, last] = [own[0], own.at(-1)];
    if (step.rest || !first || !last) return [];
    return [
      { ...madeBy(judged, first), wantedHz: step.fromHz.valueOf(), wantedDuty: step.fromDuty.valueOf() },
      { ...madeBy(judged, last), wantedHz: step.toHz.valueOf(), wantedDuty: step.toDuty.valueOf() },
    ];
  });
}

/** The value with the least margin, as a check of what a sequence moves. */
function worstEnd(
  label: string,
  unit: 'Hz' | 'fraction',
  ends: readonly { value: number; low: number; high: number; drift: number }[],
): Check[] {
  const marginOf = ({ value, low, high, drift }: (typeof ends)[number]): number =>
    Math.min(value - low, high - value) - drift;
  const [first, ...others] = ends;
  if (!first) return [];
  const worst = others.reduce((one, other) => (marginOf(other) < marginOf(one) ? other : one), first);
  const { value, low, high } = worst;
  const margin = marginOf(worst);
  const verdict = margin >= -1e-12 ? 'pass' : 'fail';
  return [{ property: 'sequence', unit, label, value, low, high, margin, verdict }];
}

/** How long each step is, and all of them; a step lasts whole periods, so that one of them is allowed in any case. */
function timesOf(judged: Judged, rows: readonly StepRow[]): { steps: TimedValue[]; all: TimedValue } {
  const tolerance = timeTolerance(judged.requirement);
  const steps = judged.steps.map(({ seconds, periods, fromHz, toHz }, at): TimedValue => {
    const own = rows.filter((row) => row.step === at);
    const value = own.reduce((sum, row) => sum + row.periods / madeBy(judged, row).hz, 0);
    const meanHz = (fromHz.valueOf() + toHz.valueOf()) / 2;
    const wanted = seconds?.valueOf() ?? (periods ?? 1) / meanHz;
    // Over a move each period has a length of its own.
    const free = Math.max(tolerance * wanted, ...own.map((row) => 1 / madeBy(judged, row).hz));
    const moves =
      fromHz.equals(toHz) || seconds ? 0 : Math.abs(Math.log(toHz.div(fromHz).valueOf())) * wanted;
    return { value, limits: { low: wanted - free - moves, high: wanted + free + moves } };
  });
  const sum = (of: (one: TimedValue) => number): number => steps.reduce((total, one) => total + of(one), 0);
  return {
    steps,
    all: {
      value: sum(({ value }) => value),
      limits: { low: sum(({ limits }) => limits.low), high: sum(({ limits }) => limits.high) },
    },
  };
}

/**
 * The steps of a sequence that is not compared pulse by pulse: frequency and duty at both ends of each, how long each is, and the whole pass, each by the one that
 * is nearest to its limits. @throws SettingError where the timer cannot follow.
 */
export function stepChecks(judged: Judged): Check[] {
  const { part, path, signal, setting, requirement, tolerancePpm } = judged;
  if (!signal.sequence) return [];
  const rows = sequenceSettings(part, path, signal, signal.sequence, setting);
  const ends = endsOf(judged, rows);
  const { frequency, duty } = requirement;
  const share = timeTolerance(requirement);
  const [less, more] = [duty.ideal.sub(duty.low).valueOf(), duty.high.sub(duty.ideal).valueOf()];
  const { steps, all } = timesOf(judged, rows);
  return [
    ...(frequency.kind === 'near'
      ? worstEnd(
          'frequency of a step',
          'Hz',
          ends.map(({ hz, wantedHz }) => ({
            value: hz,
            low: wantedHz * (1 - share),
            high: wantedHz * (1 + share),
            drift: (hz * tolerancePpm) / 1e6,
          })),
        )
      : []),
    ...worstEnd(
      'duty of a step',
      'fraction',
      ends.map((end) => ({
        value: end.duty,
        low: end.wantedDuty - less,
        high: end.wantedDuty + more,
        drift: 0,
      })),
    ),
    ...worstTime('length of a step', steps, tolerancePpm),
    ...(signal.sequence.once ? [] : worstTime('cycle', [all], tolerancePpm)),
  ];
}
