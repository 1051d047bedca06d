import { printHz, printNumber, printPercent, printPpm, printSeconds } from '../quantity/print.ts';
import type { Goal } from '../target/goal.ts';
import { grainOf, runsOf, stepsOf } from '../timer/count.ts';
import { divisionRange, scaleOf } from '../part/division.ts';
import { topRange } from '../timer/setting.ts';
import type { Candidate, TickGoal } from './candidate.ts';
import { laneOf, type Lane } from './tops.ts';
import type { Way } from './ways.ts';

/** Why a timer, or one mode of it, cannot serve a signal. */
export type Refusal = { timer: string; mode?: string; reason: string };

function extremeLane(way: Way, pick: 'least' | 'most'): { lane: Lane; prescaler: number; ticks: number } {
  const n = divisionRange(way.timer.prescaler)[pick];
  const lane = laneOf(way.mode, n, runsOf(way.drive));
  return { lane, prescaler: n / scaleOf(way.timer.prescaler), ticks: lane.unit * (lane[pick] + lane.shift) };
}

function tooSlow(way: Way, wanted: TickGoal, wantedHz: number): string {
  const { lane, prescaler, ticks } = extremeLane(way, 'most');
  const needed = wanted.clockHz / wantedHz / lane.unit;
  const counts = lane.most + lane.shift;
  const count = printSeconds(lane.unit / wanted.clockHz);
  return (
    `${printHz(wantedHz)} is too slow: with the largest prescaler, ${prescaler}, it needs ` +
    `${printNumber(needed)} counts of ${count}, and there are ${printNumber(counts)}. ` +
    `The slowest here is ${printHz(wanted.clockHz / ticks)}.`
  );
}

function tooFast(way: Way, wanted: TickGoal, wantedHz: number): string {
  const { ticks } = extremeLane(way, 'least');
  return `${printHz(wantedHz)} is too fast: the fastest here is ${printHz(wanted.clockHz / ticks)}.`;
}

function dutyReason(way: Way, goal: Goal, nearest: Candidate): string {
  const share = goal.duty.ideal.valueOf();
  if (way.drive === 'toggle') {
    return `A toggled output is high for half of the time; ${printPercent(share)} is not possible.`;
  }
  if (share === 0 || share === 1) {
    const level = share === 0 ? 'high' : 'low';
    return (
      `${printPercent(share)} cannot be reached: the pin is still ${level} for one count of ` +
      `${printSeconds(nearest.stepS)} in each period, so the nearest is ${printPercent(nearest.duty)}.`
    );
  }
  return (
    `One duty step is ${printPercent(1 / nearest.steps, 4)} here; the nearest to ${printPercent(share)} is ` +
    `${printPercent(nearest.duty, 4)}, outside the tolerance.`
  );
}

function prescalerOf({ setting }: Candidate): number {
  return setting.drive === 'busy' ? 1 : setting.prescaler;
}

function gapReason(way: Way, nearest: Candidate): string {
  const { least, most } = topRange(way.mode);
  const why =
    least === most
      ? `the top is fixed at ${printNumber(most)}, so only the prescaler can be chosen`
      : `one count more or less is farther off still`;
  return (
    `The nearest is ${printHz(nearest.frequencyHz)} with prescaler ${prescalerOf(nearest)}, ` +
    `${printPpm(nearest.errorPpm)} from the target: ${why}.`
  );
}

function nearReason(way: Way, wanted: TickGoal, wantedHz: number, nearest: Candidate): string {
  const { goal } = wanted;
  if (way.drive === 'toggle' && !nearest.meetsDuty) return dutyReason(way, goal, nearest);
  if (wanted.lowTicks > extremeLane(way, 'most').ticks) return tooSlow(way, wanted, wantedHz);
  if (wanted.highTicks < extremeLane(way, 'least').ticks) return tooFast(way, wanted, wantedHz);
  const inTime = nearest.periodTicks >= wanted.lowTicks && nearest.periodTicks <= wanted.highTicks;
  return inTime ? dutyReason(way, goal, nearest) : gapReason(way, nearest);
}

function leastReason(way: Way, wanted: TickGoal, leastHz: number, nearest: Candidate): string {
  const { goal } = wanted;
  if (way.drive === 'toggle') {
    return 'A toggled output is high for half of the time: it has no duty steps to dim with.';
  }
  const most = stepsOf(way.mode, way.drive, topRange(way.mode).most);
  if (most < goal.minSteps) {
    return `${printNumber(most)} steps at the most; ${printNumber(goal.minSteps)} are asked for.`;
  }
  const top = Math.ceil(goal.minSteps / grainOf(way.mode)) - way.mode.base;
  const lane = laneOf(way.mode, divisionRange(way.timer.prescaler).least, 1);
  const fastest = wanted.clockHz / (lane.unit * (Math.max(lane.least, top) + lane.shift));
  if (fastest < leastHz) {
    return (
      `In ${printNumber(goal.minSteps)} steps the fastest is ${printHz(fastest)}, below the ` +
      `${printHz(leastHz)} asked for.`
    );
  }
  return dutyReason(way, goal, nearest);
}

/** The sentence that says why a way cannot serve the goal; `nearest` is the way's candidate that comes closest. */
export function reasonOf(way: Way, wanted: TickGoal, nearest: Candidate): string {
  const { frequency } = wanted.goal;
  return frequency.kind === 'near'
    ? nearReason(way, wanted, frequency.ideal.valueOf(), nearest)
    : leastReason(way, wanted, frequency.low.valueOf(), nearest);
}
