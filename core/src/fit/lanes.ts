import { grainOf, runsOf } from '../timer/count.ts';
import { divisionRange } from '../part/division.ts';
import { topRange } from '../timer/setting.ts';
import type { Mode } from '../part/schema.ts';
import type { TickGoal } from './candidate.ts';
import { rangePairs } from './pairs.ts';
import { laneOf, listedTops, nearestTops, roundSteps, thinnedTops, topsWithin, type Lane } from './tops.ts';
import type { Way } from './ways.ts';

/** A division by n parts of the clock, its lane, and the tops that are worth rating there. */
export type LaneTops = { n: number; lane: Lane; tops: number[] };

/** Settings farther than this from a wanted frequency are not within reach, unless they are the nearest of their way. */
const REACH = 0.03;

function reachOf(lane: Lane, wanted: TickGoal, period: number): { least: number; most: number } {
  return topsWithin(
    lane,
    Math.min(wanted.lowTicks, Math.ceil(period * (1 - REACH))),
    Math.max(wanted.highTicks, Math.floor(period * (1 + REACH))),
  );
}

/** Tops of one lane near a wanted period: all or a dense choice within the tolerance, a thin one beyond. */
function nearTops(lane: Lane, wanted: TickGoal, period: number): number[] {
  const middle = period / lane.unit - lane.shift;
  const meeting = topsWithin(lane, wanted.lowTicks, wanted.highTicks);
  return [
    ...new Set([
      ...listedTops(meeting, middle, lane, wanted.dutyCounts),
      ...thinnedTops(reachOf(lane, wanted, period), middle),
      ...nearestTops(lane, period),
    ]),
  ];
}

/** Tops of one lane that are fast enough and fine enough: round numbers of steps and both ends. */
function leastTops(
  lane: Lane,
  wanted: TickGoal,
  grain: number,
  spread: boolean,
): { tops: number[]; count: number } {
  const first = Math.max(lane.least, Math.ceil(wanted.goal.minSteps / grain) - lane.shift);
  const within = spread ? lane.most : topsWithin(lane, wanted.lowTicks, wanted.highTicks).most;
  const last = Math.min(lane.most, within);
  if (first > last) return { tops: [lane.least, lane.most], count: 0 };
  const round = roundSteps(first + lane.shift, last + lane.shift).map((steps) => steps - lane.shift);
  return { tops: [...new Set([first, ...round, last])], count: last - first + 1 };
}

/** The tops of a mode where they are few: one fixed, or the powers of two less one. */
function fewTops({ top }: Mode): number[] | undefined {
  if (top.kind === 'fixed') return [top.value];
  if (top.kind !== 'power') return undefined;
  return Array.from({ length: top.mostBits - top.leastBits + 1 }, (_, at) => 2 ** (top.leastBits + at) - 1);
}

/** How many n are listed on either side of the one that suits a given top. */
const BESIDE = 3;

/** Divisions worth trying for a top: all of a list; of a range those around the wanted period, or ever doubled ones. */
function divisionsFor(way: Way, top: number, wanted: TickGoal): number[] {
  const { prescaler } = way.timer;
  if (prescaler.kind === 'list') return prescaler.options.map((one) => one.divide);
  const { unit, shift } = laneOf(way.mode, 1, runsOf(way.drive));
  const { least, most } = prescaler;
  const held = (n: number): number => Math.min(most, Math.max(least, n));
  if (wanted.periodFloat !== undefined) {
    const ideal = Math.floor(wanted.periodFloat / (unit * (top + shift)));
    const around = Array.from({ length: 2 * BESIDE + 2 }, (_, at) => held(ideal - BESIDE + at));
    return [...new Set(around)];
  }
  const slowest = Math.floor(wanted.highTicks / (unit * (top + shift)));
  const doubled = [held(slowest)];
  for (let n = least; n < slowest && n <= most; n *= 2) doubled.push(n);
  return [...new Set(doubled)];
}

function fewLanes(
  way: Way,
  tops: readonly number[],
  wanted: TickGoal,
): { considered: number; lanes: LaneTops[] } {
  let considered = 0;
  const lanes = tops.flatMap((top) =>
    divisionsFor(way, top, wanted).map((n): LaneTops => {
      const lane = laneOf(way.mode, n, runsOf(way.drive));
      const period = lane.unit * (top + lane.shift);
      const near = wanted.periodFloat;
      const within = near === undefined ? period <= wanted.highTicks : Math.abs(near / period - 1) <= REACH;
      if (within) considered += 1;
      return { n, lane, tops: [top] };
    }),
  );
  return { considered, lanes };
}

function lanesAt(
  way: Way,
  divisions: readonly number[],
  wanted: TickGoal,
): { considered: number; lanes: LaneTops[] } {
  let considered = 0;
  const lanes = divisions.map((n): LaneTops => {
    const lane = laneOf(way.mode, n, runsOf(way.drive));
    if (wanted.periodFloat === undefined) {
      const { tops, count } = leastTops(lane, wanted, grainOf(way.mode), way.mode.compare?.spread === true);
      considered += count;
      return { n, lane, tops };
    }
    const reach = reachOf(lane, wanted, wanted.periodFloat);
    considered += Math.max(0, reach.most - reach.least + 1);
    return { n, lane, tops: nearTops(lane, wanted, wanted.periodFloat) };
  });
  return { considered, lanes };
}

/**
 * All that is worth rating for one way: every division of a list with its tops; of a range of divisions the pairs that
 * nothing beats, the exact ones, and the best of each resolution.
 */
export function lanesOf(way: Way, wanted: TickGoal): { considered: number; lanes: LaneTops[] } {
  const few = fewTops(way.mode);
  if (few) return fewLanes(way, few, wanted);
  const { prescaler } = way.timer;
  if (prescaler.kind === 'list')
    return lanesAt(way, divisionsFor(way, topRange(way.mode).most, wanted), wanted);
  const { least, most } = divisionRange(prescaler);
  const runs = runsOf(way.drive);
  if (wanted.periodFloat === undefined) {
    const doubled: number[] = [];
    for (let n = least; n <= most; n *= 2) doubled.push(n);
    return lanesAt(way, doubled, wanted);
  }
  const { unit, shift } = laneOf(way.mode, 1, runs);
  const found = rangePairs({
    unit,
    shift,
    n: { least, most },
    tops: topRange(way.mode),
    scale: prescaler.scale,
    period: wanted.periodFloat,
    reach: REACH,
  });
  const finest = lanesAt(way, [found.finest], wanted);
  const lanes = found.pairs.map(({ n, top }): LaneTops => ({
    n,
    lane: laneOf(way.mode, n, runs),
    tops: [top],
  }));
  return { considered: found.considered, lanes: [...finest.lanes, ...lanes] };
}
