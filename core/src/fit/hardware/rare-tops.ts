import { divisionRange } from '../../part/division.ts';
import { countsFor, grainOf } from '../../timer/count.ts';
import { driveById, runsOf } from '../../timer/drives/index.ts';
import { topRange } from '../../timer/setting.ts';
import type { TickRequirement } from '../candidate.ts';
import type { DivisionTops } from './divisions.ts';
import type { Route } from './routes.ts';
import { topSeries, topsWithin } from './tops.ts';

/** The maximum number of settings listed for one division, and in all; those nearest to the wanted period come first. */
const LISTED = { each: 8, all: 64 };

/** The maximum number of tops that are looked at for one division, or of counts for a range of divisions. */
const MAX_LOOKED = 1_000_000;

/** Whether some number of counts of a whole hits the wanted duty. */
function hitsDuty({ share, dutyLow, dutyHigh }: TickRequirement, whole: number): boolean {
  const made = countsFor(share, whole) / whole;
  return made >= dutyLow - 1e-15 && made <= dutyHigh + 1e-15;
}

/** Tops of a range that hit the wanted duty, those nearest to the middle first. */
function hitsAround(
  wanted: TickRequirement,
  { min, max }: { min: number; max: number },
  middle: number,
  wholeOf: (top: number) => number,
): number[] {
  const start = Math.min(max, Math.max(min, Math.round(middle)));
  const hits: number[] = [];
  for (let away = 0; away <= Math.min(max - min, MAX_LOOKED) && hits.length < LISTED.each; away += 1) {
    for (const top of away === 0 ? [start] : [start - away, start + away]) {
      if (top >= min && top <= max && hitsDuty(wanted, wholeOf(top))) hits.push(top);
    }
  }
  return hits;
}

/**
 * Tops for a duty so narrow that only some numbers of counts hit it, which a thinned choice of tops may all miss: every
 * top within the frequency's tolerance is looked at. For a range of divisions every number of counts is, with the division
 * that brings it nearest to the period. Nothing for modes whose tops are few, and where a width is wanted rather than a duty.
 */
export function rareTops(route: Route, wanted: TickRequirement): DivisionTops[] {
  const { mode, timer, drive } = route;
  const { periodFloat: period } = wanted;
  if (mode.top.kind === 'fixed' || mode.top.kind === 'power' || wanted.widths.length > 0) return [];
  // Where the match does not decide the share of high time, no top brings it nearer.
  if (period === undefined || driveById(drive).duty !== 'match') return [];
  const runs = runsOf(drive);
  const grain = grainOf(mode);
  const { prescaler } = timer;
  if (prescaler.kind === 'list') {
    return prescaler.options.flatMap(({ divide: n }): DivisionTops[] => {
      const series = topSeries(mode, n, runs);
      const range = topsWithin(series, wanted.lowTicks, wanted.highTicks);
      const middle = period / series.unit - series.shift;
      const tops = hitsAround(wanted, range, middle, (top) => (top + series.shift) * grain);
      return tops.length > 0 ? [{ n, series, tops }] : [];
    });
  }
  const { min, max } = divisionRange(prescaler);
  const tops = topRange(mode);
  const { unit, shift } = topSeries(mode, 1, runs);
  const fewest = Math.max(tops.min + shift, Math.floor(wanted.lowTicks / (unit * max)), 1);
  const most = Math.min(tops.max + shift, Math.ceil(wanted.highTicks / (unit * min)), fewest + MAX_LOOKED);
  const found: { n: number; top: number; error: number }[] = [];
  for (let counts = fewest; counts <= most; counts += 1) {
    if (!hitsDuty(wanted, counts * grain)) continue;
    const n = Math.min(max, Math.max(min, Math.round(period / (unit * counts))));
    const made = n * unit * counts;
    if (made >= wanted.lowTicks && made <= wanted.highTicks)
      found.push({ n, top: counts - shift, error: Math.abs(made / period - 1) });
  }
  return found
    .sort((one, other) => one.error - other.error || other.top - one.top)
    .slice(0, LISTED.all)
    .map(({ n, top }) => ({ n, series: topSeries(mode, n, runs), tops: [top] }));
}
