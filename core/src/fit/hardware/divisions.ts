import { grainOf } from '../../timer/count.ts';
import { divisionRange } from '../../part/division.ts';
import { topRange } from '../../timer/setting.ts';
import type { Mode } from '../../part/types.ts';
import type { TickRequirement } from '../candidate.ts';
import { rangePairs } from './pairs.ts';
import { topSeries, listedTops, nearestTops, thinnedTops, topsWithin, type TopSeries } from './tops.ts';
import type { Route } from './routes.ts';
import { runsOf } from '../../timer/drives/index.ts';
import { roundSteps } from '../../timer/round-steps.ts';

/** A division by n parts of the clock, its lane, and the tops that are worth rating there. */
export type DivisionTops = { n: number; series: TopSeries; tops: number[] };

/** Settings farther than this from a wanted frequency are not within reach, unless they are the nearest of their way. */
const REACH = 0.03;

function reachOf(series: TopSeries, wanted: TickRequirement, period: number): { min: number; max: number } {
  return topsWithin(
    series,
    Math.min(wanted.lowTicks, Math.ceil(period * (1 - REACH))),
    Math.max(wanted.highTicks, Math.floor(period * (1 + REACH))),
  );
}

/** Tops of one lane near a wanted period: all or a dense choice within the tolerance, a thin one beyond. */
function nearTops(series: TopSeries, wanted: TickRequirement, period: number): number[] {
  const middle = period / series.unit - series.shift;
  const meeting = topsWithin(series, wanted.lowTicks, wanted.highTicks);
  return [
    ...new Set([
      ...listedTops(meeting, middle, series, wanted.dutyCounts),
      ...thinnedTops(reachOf(series, wanted, period), middle),
      ...nearestTops(series, period),
    ]),
  ];
}

/** Tops of one lane that are fast enough and fine enough: round numbers of steps and both ends. */
function minTops(
  series: TopSeries,
  wanted: TickRequirement,
  grain: number,
  spread: boolean,
): { tops: number[]; count: number } {
  const first = Math.max(series.min, Math.ceil(wanted.requirement.minSteps / grain) - series.shift);
  const within = topsWithin(series, wanted.lowTicks, wanted.highTicks);
  const least = Math.max(first, within.min);
  const last = spread ? series.max : Math.min(series.max, within.max);
  if (least > last) return { tops: [series.min, series.max], count: 0 };
  const round = roundSteps(least + series.shift, last + series.shift).map((steps) => steps - series.shift);
  const { lowTicks, highTicks } = wanted;
  const middle =
    lowTicks > 0 ? Math.round(Math.sqrt(lowTicks * highTicks) / series.unit) - series.shift : last;
  const balanced = Math.min(last, Math.max(least, middle));
  return { tops: [...new Set([least, ...round, balanced, last])], count: last - least + 1 };
}

/**
 * Divisions of a range whose numbers can be read: those with which one step of the compare value is 1, 2 or 5 times a power
 * of ten of a second, and those with which the wanted period is about so many steps.
 */
function roundDivisions(
  route: Route,
  wanted: TickRequirement,
  range: { min: number; max: number },
): number[] {
  const { unit, max } = topSeries(route.mode, 1, runsOf(route.drive));
  const grain = grainOf(route.mode);
  const found = new Set<number>();
  const take = (n: number): void => {
    const whole = Math.round(n);
    if (Math.abs(whole - n) < 1e-6 && whole >= range.min && whole <= range.max) found.add(whole);
  };
  for (let decade = 1e-9; decade <= 1; decade *= 10) {
    for (const digit of [1, 2, 5]) take((digit * decade * wanted.clockHz * grain) / unit);
  }
  if (wanted.periodFloat !== undefined) {
    for (const steps of roundSteps(100, max + 1)) take(Math.round(wanted.periodFloat / (unit * steps)));
  }
  return [...found];
}

/** The tops of a mode where they are few: one fixed, or the powers of two less one. */
function fewTops({ top }: Mode): number[] | undefined {
  if (top.kind === 'fixed') return [top.value];
  if (top.kind !== 'power') return undefined;
  return Array.from({ length: top.maxBits - top.minBits + 1 }, (_, at) => 2 ** (top.minBits + at) - 1);
}

/** How many n are listed on either side of the one that suits a given top. */
const BESIDE = 3;

/** Divisions worth trying for a top: all of a list; of a range those around the wanted period, or ever doubled ones. */
function divisionsFor(route: Route, top: number, wanted: TickRequirement): number[] {
  const { prescaler } = route.timer;
  if (prescaler.kind === 'list') return prescaler.options.map((one) => one.divide);
  const { unit, shift } = topSeries(route.mode, 1, runsOf(route.drive));
  const { min, max } = prescaler;
  const held = (n: number): number => Math.min(max, Math.max(min, n));
  if (wanted.periodFloat !== undefined) {
    const ideal = Math.floor(wanted.periodFloat / (unit * (top + shift)));
    const around = Array.from({ length: 2 * BESIDE + 2 }, (_, at) => held(ideal - BESIDE + at));
    return [...new Set(around)];
  }
  const slowest = Math.floor(wanted.highTicks / (unit * (top + shift)));
  const doubled = [held(slowest)];
  for (let n = min; n < slowest && n <= max; n *= 2) doubled.push(n);
  return [...new Set(doubled)];
}

function fewTopSeries(
  route: Route,
  tops: readonly number[],
  wanted: TickRequirement,
): { considered: number; seriesList: DivisionTops[] } {
  let considered = 0;
  const seriesList = tops.flatMap((top) =>
    divisionsFor(route, top, wanted).map((n): DivisionTops => {
      const series = topSeries(route.mode, n, runsOf(route.drive));
      const period = series.unit * (top + series.shift);
      const near = wanted.periodFloat;
      const within =
        near === undefined
          ? period >= wanted.lowTicks && period <= wanted.highTicks
          : Math.abs(near / period - 1) <= REACH;
      if (within) considered += 1;
      return { n, series, tops: [top] };
    }),
  );
  return { considered, seriesList };
}

function seriesAt(
  route: Route,
  divisions: readonly number[],
  wanted: TickRequirement,
): { considered: number; seriesList: DivisionTops[] } {
  let considered = 0;
  const seriesList = divisions.map((n): DivisionTops => {
    const series = topSeries(route.mode, n, runsOf(route.drive));
    if (wanted.periodFloat === undefined) {
      const { tops, count } = minTops(series, wanted, grainOf(route.mode), route.mode.pwm?.spread === true);
      considered += count;
      return { n, series, tops };
    }
    const reach = reachOf(series, wanted, wanted.periodFloat);
    considered += Math.max(0, reach.max - reach.min + 1);
    return { n, series, tops: nearTops(series, wanted, wanted.periodFloat) };
  });
  return { considered, seriesList };
}

/**
 * All candidates of one route: every division of a list with its tops; of a range of divisions the pairs that
 * are Pareto-optimal, the exact ones, and the best of each resolution.
 */
export function topsFor(
  route: Route,
  wanted: TickRequirement,
): { considered: number; seriesList: DivisionTops[] } {
  const few = fewTops(route.mode);
  if (few) return fewTopSeries(route, few, wanted);
  const { prescaler } = route.timer;
  if (prescaler.kind === 'list')
    return seriesAt(route, divisionsFor(route, topRange(route.mode).max, wanted), wanted);
  const { min, max } = divisionRange(prescaler);
  const runs = runsOf(route.drive);
  if (wanted.periodFloat === undefined) {
    const doubled: number[] = [];
    for (let n = min; n <= max; n *= 2) doubled.push(n);
    return seriesAt(
      route,
      [...new Set([...doubled, ...roundDivisions(route, wanted, { min, max })])],
      wanted,
    );
  }
  const { unit, shift } = topSeries(route.mode, 1, runs);
  const found = rangePairs({
    unit,
    shift,
    n: { min, max },
    tops: topRange(route.mode),
    scale: prescaler.scale,
    period: wanted.periodFloat,
    reach: REACH,
  });
  const round = roundDivisions(route, wanted, { min, max });
  const finest = seriesAt(route, [found.finest, ...round], wanted);
  const seriesList = found.pairs.map(({ n, top }): DivisionTops => ({
    n,
    series: topSeries(route.mode, n, runs),
    tops: [top],
  }));
  return { considered: found.considered, seriesList: [...finest.seriesList, ...seriesList] };
}
