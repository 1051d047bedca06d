import { printHz, printNumber, printPercent, printPpm, printSeconds } from '../../quantity/print.ts';
import type { Requirement } from '../../signal/requirement.ts';
import { grainOf } from '../../timer/count.ts';
import { divisionRange, scaleOf } from '../../part/division.ts';
import { hasTimer, topRange } from '../../timer/setting.ts';
import type { Candidate, TickRequirement } from '../candidate.ts';
import { topSeries, type TopSeries } from '../hardware/tops.ts';
import type { Route } from '../hardware/routes.ts';
import { driveById, runsOf, stepsIn } from '../../timer/drives/index.ts';

/** Why a timer, or one mode of it, cannot serve a signal. */
export type Refusal = { timer: string; mode?: string; reason: string };

/** Whether an output is always high for half of the time. */
function isHalf({ drive }: Route): boolean {
  return driveById(drive).duty === 'half';
}

function extremeSeries(
  route: Route,
  pick: 'min' | 'max',
): { series: TopSeries; prescaler: number; ticks: number } {
  const n = divisionRange(route.timer.prescaler)[pick];
  const series = topSeries(route.mode, n, runsOf(route.drive));
  return {
    series,
    prescaler: n / scaleOf(route.timer.prescaler),
    ticks: series.unit * (series[pick] + series.shift),
  };
}

function tooSlow(route: Route, wanted: TickRequirement, wantedHz: number): string {
  const { series, prescaler, ticks } = extremeSeries(route, 'max');
  const needed = wanted.clockHz / wantedHz / series.unit;
  const counts = series.max + series.shift;
  const count = printSeconds(series.unit / wanted.clockHz);
  return (
    `${printHz(wantedHz)} is too slow: with the largest prescaler, ${prescaler}, it needs ` +
    `${printNumber(needed)} counts of ${count}, and there are ${printNumber(counts)}. ` +
    `The slowest here is ${printHz(wanted.clockHz / ticks)}.`
  );
}

function tooFast(route: Route, wanted: TickRequirement, wantedHz: number): string {
  const { ticks } = extremeSeries(route, 'min');
  return `${printHz(wantedHz)} is too fast: the fastest here is ${printHz(wanted.clockHz / ticks)}.`;
}

function dutyReason(route: Route, requirement: Requirement, nearest: Candidate): string {
  const share = requirement.duty.ideal.valueOf();
  if (isHalf(route)) {
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
  return hasTimer(setting) ? setting.prescaler : 1;
}

function gapReason(route: Route, nearest: Candidate): string {
  const { min, max } = topRange(route.mode);
  const why =
    min === max
      ? `the top is fixed at ${printNumber(max)}, so only the prescaler can be chosen`
      : `one count more or less has a larger error`;
  return (
    `The nearest is ${printHz(nearest.frequencyHz)} with prescaler ${prescalerOf(nearest)}, ` +
    `${printPpm(nearest.errorPpm)} from the target: ${why}.`
  );
}

function nearReason(route: Route, wanted: TickRequirement, wantedHz: number, nearest: Candidate): string {
  const { requirement } = wanted;
  if (isHalf(route) && !nearest.meetsDuty) return dutyReason(route, requirement, nearest);
  if (wanted.lowTicks > extremeSeries(route, 'max').ticks) return tooSlow(route, wanted, wantedHz);
  if (wanted.highTicks < extremeSeries(route, 'min').ticks) return tooFast(route, wanted, wantedHz);
  const inTime = nearest.periodTicks >= wanted.lowTicks && nearest.periodTicks <= wanted.highTicks;
  return inTime ? dutyReason(route, requirement, nearest) : gapReason(route, nearest);
}

function minReason(route: Route, wanted: TickRequirement, minHz: number, nearest: Candidate): string {
  const { requirement } = wanted;
  if (isHalf(route)) {
    return 'A toggled output is high for half of the time: it has no duty steps to dim with.';
  }
  const max = stepsIn(route.drive, route.mode, topRange(route.mode).max);
  if (max < requirement.minSteps) {
    return `${printNumber(max)} steps at most; ${printNumber(requirement.minSteps)} are asked for.`;
  }
  const top = Math.ceil(requirement.minSteps / grainOf(route.mode)) - route.mode.base;
  const series = topSeries(route.mode, divisionRange(route.timer.prescaler).min, 1);
  const fastest = wanted.clockHz / (series.unit * (Math.max(series.min, top) + series.shift));
  if (fastest < minHz) {
    return (
      `In ${printNumber(requirement.minSteps)} steps the fastest is ${printHz(fastest)}, below the ` +
      `${printHz(minHz)} asked for.`
    );
  }
  return dutyReason(route, requirement, nearest);
}

/** The sentence that says why a way cannot serve the requirement; `nearest` is the way's candidate that comes closest. */
export function reasonOf(route: Route, wanted: TickRequirement, nearest: Candidate): string {
  const { frequency } = wanted.requirement;
  return frequency.kind === 'near'
    ? nearReason(route, wanted, frequency.ideal.valueOf(), nearest)
    : minReason(route, wanted, frequency.low.valueOf(), nearest);
}
