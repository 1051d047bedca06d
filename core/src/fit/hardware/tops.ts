import type { Mode } from '../../part/types.ts';
import { topRange } from '../../timer/setting.ts';

/** How many tops are listed singly on either side of the wanted one; farther ones are thinned. */
const DENSE = 8;

/** Ranges below this size are listed whole. */
const WHOLE = 64;

/** Tops up to this one are always listed whole: a low top has so few duty values that each may be the only right one. */
const LOW = 255;

/** A lane of settings that differ in their top alone: the period is `unit` ticks x (top + shift). */
export type TopSeries = { unit: number; shift: number; min: number; max: number };

/** The lane of a mode whose counter is divided by n parts of a clock. `runs` is 2 for toggled outputs. */
export function topSeries(mode: Mode, n: number, runs: number): TopSeries {
  const { min, max } = topRange(mode);
  return { unit: (mode.count === 'up' ? 1 : 2) * n * runs, shift: mode.base, min, max };
}

/**
 * Tops whose period lies within [low, high] whole ticks; empty when min > max. Exact: for whole numbers below 2^53 a
 * rounded quotient never passes over a whole number.
 */
export function topsWithin(series: TopSeries, low: number, high: number): { min: number; max: number } {
  return {
    min: Math.max(series.min, Math.ceil(low / series.unit) - series.shift),
    max: Math.min(series.max, Math.floor(high / series.unit) - series.shift),
  };
}

/** The tops on either side of a wanted period in ticks, clamped to the lane's range. */
export function nearestTops(series: TopSeries, period: number): number[] {
  const ideal = period / series.unit - series.shift;
  const held = [Math.floor(ideal), Math.ceil(ideal)].map((top) =>
    Math.min(series.max, Math.max(series.min, top)),
  );
  return [...new Set(held)];
}

/**
 * Tops of a range: all of them where it is narrow or low, else those near `middle` densely and the others thinned, and
 * with them those around the middle whose period is a multiple of `whole` counts, which hit a duty of n / whole exactly.
 */
export function listedTops(
  range: { min: number; max: number },
  middle: number,
  series: TopSeries,
  whole: number,
): number[] {
  const { min, max } = range;
  if (max <= LOW || max - min < WHOLE) {
    return Array.from({ length: Math.max(0, max - min + 1) }, (_, at) => min + at);
  }
  const below = Math.floor((middle + series.shift) / whole) * whole - series.shift;
  const exact = [below - whole, below, below + whole, below + 2 * whole];
  return [...thinnedTops(range, middle), ...exact.filter((top) => top >= min && top <= max)];
}

/**
 * Tops from a range, ever sparser with the distance from `middle`. Both ends of the range and the top nearest to the
 * middle are always among them.
 */
export function thinnedTops(range: { min: number; max: number }, middle: number): number[] {
  const { min, max } = range;
  if (min > max) return [];
  const start = Math.min(max, Math.max(min, Math.round(middle)));
  const tops = new Set<number>([min, start, max]);
  for (const direction of [-1, 1]) {
    let stride = 1;
    for (let at = start, count = 0; at >= min && at <= max; at += direction * stride, count += 1) {
      tops.add(at);
      if (count > DENSE) stride = Math.ceil(stride * 1.5);
    }
  }
  return [...tops];
}
