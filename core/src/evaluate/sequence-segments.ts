import type { ClockPath } from '../clock/path.ts';
import { movedSetting } from '../fit/moved-setting.ts';
import type { Part } from '../part/types.ts';
import type { Exact } from '../quantity/exact.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { stagesOf, type Sequence, type Stage } from '../signal/sequence.ts';
import type { Signal } from '../signal/signal.ts';
import type { Outcome } from '../timer/outcome.ts';
import type { Setting } from '../timer/setting.ts';
import { clockScale, seenFrom } from '../wave/waveform.ts';
import type { SequenceWaveform, Segment } from '../wave/sequence-waveform.ts';
import { beginTicks, driveOf, isOutput, outcomeUnder } from '../timer/drives/index.ts';

/** The maximum number of steps of a ramp from one value to another; each lasts whole periods. */
const MOVES = 256;

/** Whole periods of a frequency that are closest to a time; one at least. */
function periodsIn(seconds: Exact, hz: number): number {
  return Math.max(1, Math.round(seconds.valueOf() * hz));
}

function moving({ fromHz, toHz, fromDuty, toDuty }: Stage): boolean {
  return !fromHz.equals(toHz) || !fromDuty.equals(toDuty);
}

/** So many whole periods with a setting of their own; the pin low where there is none. */
export type SetSegment = { setting?: Setting; periods: number };

/** Makes the segments of one stage, each from a setting of its own. */
type Maker = { at: (hz: number, share: number) => Made; base: Outcome };

type Made = { setting: Setting; outcome: Outcome };

function segmentsOf(stage: Stage, { at, base }: Maker): SetSegment[] {
  const { periods, seconds, rest } = stage;
  if (rest) {
    return [{ periods: seconds ? periodsIn(seconds, base.frequency.valueOf()) : (periods ?? 1) }];
  }
  const [fromHz, toHz] = [stage.fromHz.valueOf(), stage.toHz.valueOf()];
  const [fromDuty, toDuty] = [stage.fromDuty.valueOf(), stage.toDuty.valueOf()];
  const middle = (fromHz + toHz) / 2;
  if (!moving(stage)) {
    const { setting, outcome } = at(fromHz, fromDuty);
    const count = periods ?? (seconds ? periodsIn(seconds, outcome.frequency.valueOf()) : 1);
    return [{ setting, periods: count }];
  }
  const all = periods ?? (seconds ? periodsIn(seconds, middle) : 1);
  const steps = Math.max(2, Math.min(MOVES, all));
  const length = seconds?.valueOf() ?? all / middle;
  let doneS = 0;
  const segments = Array.from({ length: steps }, (_, index): SetSegment => {
    const share = index / (steps - 1);
    const made = at(fromHz + (toHz - fromHz) * share, fromDuty + (toDuty - fromDuty) * share);
    const hz = made.outcome.frequency.valueOf();
    const due = Math.max(0, Math.round((((index + 1) / steps) * length - doneS) * hz));
    const counted = Math.floor(((index + 1) * all) / steps) - Math.floor((index * all) / steps);
    const count = periods === undefined ? due : counted;
    doneS += count / hz;
    return { setting: made.setting, periods: count };
  });
  return segments.filter((segment) => segment.periods > 0);
}

/** The same cycle twice in a row is one segment. */
function joined(segments: readonly Segment[]): Segment[] {
  const all: Segment[] = [];
  for (const segment of segments) {
    const last = all[all.length - 1];
    if (last && JSON.stringify(last.cycle) === JSON.stringify(segment.cycle)) last.periods += segment.periods;
    else all.push({ ...segment });
  }
  return all;
}

/**
 * The settings that a signal goes through in its sequence, the timer running on: segments are whole periods (the number
 * nearest to a time), and moves are made in up to 256 steps. @throws SettingError where the timer cannot follow.
 */
export function sequenceSettings(
  part: Part,
  path: ClockPath,
  signal: Signal,
  sequence: Sequence,
  setting: Setting,
): SetSegment[] {
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
  return stagesOf(sequence, requirement).flatMap((stage) => segmentsOf(stage, { at, base }));
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
  const lateOf = (own: Setting): number => driveOf(own).lateTicks?.(part, own) ?? 0;
  const segments = sequenceSettings(part, path, signal, sequence, setting).map(
    ({ setting: own, periods }): Segment => ({
      cycle: own
        ? seenFrom(outcomeUnder(part, path, own).cycle, lateOf(own))
        : { periodTicks, edges: { level: 0 } },
      periods,
    }),
  );
  // A loop begins with the sequence itself.
  const first = driveOf(setting).cause === 'loop' ? 0 : periodTicks;
  return {
    scale: clockScale(part, setting),
    leadTicks: first + lateOf(setting) - (isOutput(setting) ? beginTicks(part, setting) : 0),
    segments: joined(segments),
    once: sequence.once === true,
  };
}

/**
 * How many pulses one pass through a sequence should have: each segment its periods, or those that fit into its time at the
 * ends of the frequency's tolerance. Undefined where a segment comes to 0 % or 100 %, which leaves pulses out.
 */
export function wantedPulses(signal: Signal, sequence: Sequence): { low: number; high: number } | undefined {
  const requirement = requirementOf(signal);
  const { frequency } = requirement;
  const ideal = frequency.kind === 'near' ? frequency.ideal : frequency.low;
  let [low, high] = [0, 0];
  for (const stage of stagesOf(sequence, requirement)) {
    if (stage.rest) continue;
    const still = [stage.fromDuty, stage.toDuty].some((duty) => duty.equals(0) || duty.equals(1));
    if (still || frequency.kind === 'within') return undefined;
    const mean = stage.fromHz.add(stage.toHz).div(2).div(ideal);
    const seconds = stage.seconds;
    low += stage.periods ?? (seconds ? Math.floor(seconds.mul(frequency.low).mul(mean).valueOf()) : 0);
    high += stage.periods ?? (seconds ? Math.ceil(seconds.mul(frequency.high).mul(mean).valueOf()) : 0);
  }
  return { low, high };
}
