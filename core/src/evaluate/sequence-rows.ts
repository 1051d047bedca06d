import type { ClockPath } from '../clock/path.ts';
import { movedSetting } from '../fit/moved-setting.ts';
import type { Part } from '../part/types.ts';
import type { Exact } from '../quantity/exact.ts';
import type { Requirement } from '../signal/requirement.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { resolvedSteps, type Sequence, type ResolvedStep } from '../signal/sequence.ts';
import type { Signal } from '../signal/signal.ts';
import type { Outcome } from '../timer/outcome.ts';
import { SettingError, type Setting } from '../timer/setting.ts';
import { clockScale, seenFrom } from '../wave/waveform.ts';
import type { SequenceWaveform, SequenceRow } from '../wave/sequence-waveform.ts';
import {
  beginTicks,
  driveOf,
  isOutput,
  isToggled,
  outcomeUnder,
  resolveSetting,
} from '../timer/drives/index.ts';

/** The maximum number of steps of a ramp from one value to another; each lasts whole periods. */
const MOVES = 256;

/** Whole periods of a frequency that are closest to a time; one at least. */
function periodsIn(seconds: Exact, hz: number): number {
  return Math.max(1, Math.round(seconds.valueOf() * hz));
}

function moving({ fromHz, toHz, fromDuty, toDuty }: ResolvedStep): boolean {
  return !fromHz.equals(toHz) || !fromDuty.equals(toDuty);
}

/** So many whole periods with a setting of their own, or with the base's where there is none; with the pin low where they rest. */
type SettingRow = { setting?: Setting; periods: number; rest?: true };

/** A row with the place of its step in the sequence. */
export type StepRow = SettingRow & { step: number };

/** Makes the rows of one step, each from a setting of its own; `tolerance` is the share by which a time may be off. */
type Maker = { at: (hz: number, share: number) => Made; base: Outcome; tolerance: number };

type Made = { setting: Setting; outcome: Outcome };

/** A rest of whole periods; of longer or shorter ones where the running ones would not end with it. */
function restRow({ periods, seconds, fromDuty }: ResolvedStep, { at, base, tolerance }: Maker): SettingRow {
  const hz = base.frequency.valueOf();
  if (!seconds) return { periods: periods ?? 1, rest: true };
  const whole = periodsIn(seconds, hz);
  const wanted = seconds.valueOf();
  if (Math.abs(whole / hz - wanted) <= tolerance * wanted) return { periods: whole, rest: true };
  try {
    return { setting: at(whole / wanted, fromDuty.valueOf()).setting, periods: whole, rest: true };
  } catch (error) {
    // A timer that cannot move its period rests for whole ones; the check of the rhythm says by how much that is off.
    if (error instanceof SettingError) return { periods: whole, rest: true };
    throw error;
  }
}

function rowsOf(step: ResolvedStep, maker: Maker): SettingRow[] {
  const { at } = maker;
  const { periods, seconds, rest } = step;
  if (rest) return [restRow(step, maker)];
  const [fromHz, toHz] = [step.fromHz.valueOf(), step.toHz.valueOf()];
  const [fromDuty, toDuty] = [step.fromDuty.valueOf(), step.toDuty.valueOf()];
  const middle = (fromHz + toHz) / 2;
  if (!moving(step)) {
    const { setting, outcome } = at(fromHz, fromDuty);
    const count = periods ?? (seconds ? periodsIn(seconds, outcome.frequency.valueOf()) : 1);
    return [{ setting, periods: count }];
  }
  const all = periods ?? (seconds ? periodsIn(seconds, middle) : 1);
  const steps = Math.max(2, Math.min(MOVES, all));
  const length = seconds?.valueOf() ?? all / middle;
  let doneS = 0;
  const rows = Array.from({ length: steps }, (_, index): SettingRow => {
    const share = index / (steps - 1);
    const made = at(fromHz + (toHz - fromHz) * share, fromDuty + (toDuty - fromDuty) * share);
    const hz = made.outcome.frequency.valueOf();
    const due = Math.max(0, Math.round((((index + 1) / steps) * length - doneS) * hz));
    const counted = Math.floor(((index + 1) * all) / steps) - Math.floor((index * all) / steps);
    const count = periods === undefined ? due : counted;
    doneS += count / hz;
    return { setting: made.setting, periods: count };
  });
  return rows.filter((row) => row.periods > 0);
}

/** The same cycle twice in a row is one row. */
function joined(rows: readonly SequenceRow[]): SequenceRow[] {
  const all: SequenceRow[] = [];
  for (const row of rows) {
    const last = all[all.length - 1];
    if (last && JSON.stringify(last.cycle) === JSON.stringify(row.cycle)) last.periods += row.periods;
    else all.push({ ...row });
  }
  return all;
}

/** The share by which the frequency of a target may be off, and so the times of its sequence; a thousandth where it says none. */
export function timeTolerance({ frequency }: Requirement): number {
  if (frequency.kind !== 'near') return 1e-3;
  return frequency.high.sub(frequency.low).div(2).div(frequency.ideal).valueOf();
}

/**
 * The settings that a signal goes through in its sequence, the timer running on: rows are whole periods (the number
 * nearest to a time), and moves are made in up to 256 steps. @throws SettingError where the timer cannot follow.
 */
export function sequenceSettings(
  part: Part,
  path: ClockPath,
  signal: Signal,
  sequence: Sequence,
  setting: Setting,
): StepRow[] {
  if (isOutput(setting) && setting.complement?.channel !== undefined)
    throw new SettingError('complement', 'An opposite by a second channel does not follow a sequence.');
  const requirement = requirementOf(signal);
  const base = outcomeUnder(part, path, setting);
  const wantedHz = (
    requirement.frequency.kind === 'near' ? requirement.frequency.ideal : requirement.frequency.low
  ).valueOf();
  const at = (hz: number, share: number): Made => {
    const factor = hz / wantedHz;
    if (factor === 1 && share === requirement.duty.ideal.valueOf()) return { setting, outcome: base };
    const moved = movedSetting(part, setting, factor, share);
    return { setting: moved, outcome: outcomeUnder(part, path, moved) };
  };
  const tolerance = timeTolerance(requirement);
  return resolvedSteps(sequence, requirement).flatMap((step, place) =>
    rowsOf(step, { at, base, tolerance }).map((row) => ({ ...row, step: place })),
  );
}

/** Whether an output's counter goes up and down and takes new compare values over at its top. */
function turnsAtTop(part: Part, setting: Setting): boolean {
  if (!isOutput(setting) || isToggled(setting.drive)) return false;
  const { mode } = resolveSetting(part, setting);
  return mode.count === 'updown' && mode.update.compare === 'top';
}

/**
 * What a signal's pin does through its sequence: every value is taken over at the end of a period, and a rest is a number
 * of periods low. The sequence begins at the end of the counter's first run, and where interrupts count with the first that comes then.
 * @throws SettingError where the timer cannot follow.
 */
export function sequenceWaveform(
  part: Part,
  path: ClockPath,
  signal: Signal,
  sequence: Sequence,
  setting: Setting,
): SequenceWaveform {
  const { periodTicks } = outcomeUnder(part, path, setting).cycle;
  // Where new values are taken over at the top, a row goes from one top to the next, from the first one on.
  const half = turnsAtTop(part, setting) ? periodTicks / 2 : 0;
  const lateOf = (own: Setting): number =>
    driveOf(own).lateTicks?.(part, own) ??
    (half > 0 ? outcomeUnder(part, path, own).cycle.periodTicks / 2 : 0);
  const rows = sequenceSettings(part, path, signal, sequence, setting).map(
    ({ setting: own, periods, rest }): SequenceRow => {
      const cycle = own ? outcomeUnder(part, path, own).cycle : { periodTicks, edges: { level: 0 as const } };
      if (rest) return { cycle: { periodTicks: cycle.periodTicks, edges: { level: 0 } }, periods };
      return { cycle: own ? seenFrom(cycle, lateOf(own)) : cycle, periods };
    },
  );
  // A loop begins with the sequence itself.
  const first = driveOf(setting).cause === 'loop' ? 0 : periodTicks;
  return {
    scale: clockScale(part, setting),
    leadTicks:
      (half > 0 ? half : first + lateOf(setting)) - (isOutput(setting) ? beginTicks(part, setting) : 0),
    rows: joined(rows),
    once: sequence.once === true,
  };
}

/**
 * How many pulses one pass through a sequence should have: each step its periods, or those that fit into its time at the
 * ends of the frequency's tolerance. Undefined where a step comes to 0 % or 100 %, which leaves pulses out.
 */
export function wantedPulses(signal: Signal, sequence: Sequence): { low: number; high: number } | undefined {
  const requirement = requirementOf(signal);
  const { frequency } = requirement;
  const ideal = frequency.kind === 'near' ? frequency.ideal : frequency.low;
  let [low, high] = [0, 0];
  for (const step of resolvedSteps(sequence, requirement)) {
    if (step.rest) continue;
    const still = [step.fromDuty, step.toDuty].some((duty) => duty.equals(0) || duty.equals(1));
    if (still || frequency.kind === 'within') return undefined;
    const mean = step.fromHz.add(step.toHz).div(2).div(ideal);
    const seconds = step.seconds;
    low += step.periods ?? (seconds ? Math.floor(seconds.mul(frequency.low).mul(mean).valueOf()) : 0);
    high += step.periods ?? (seconds ? Math.ceil(seconds.mul(frequency.high).mul(mean).valueOf()) : 0);
  }
  return { low, high };
}
