import type { Mode } from '../part/schema.ts';
import { topRange } from '../timer/setting.ts';

/** How many tops are listed singly on either side of the wanted one; farther ones are thinned. */
const DENSE = 8;

/** Ranges below this size are listed whole. */
const WHOLE = 64;

/** Tops up to this one are always listed whole: a low top has so few duty values that each may be the only right one. */
const LOW = 255;

/** A lane of settings that differ in their top alone: the period is `unit` ticks x (top + shift). */
export type Lane = { unit: number; shift: number; least: number; most: number };

/** The lane of a mode whose counter is divided by n parts of a clock. `runs` is 2 for toggled outputs. */
export function laneOf(mode: Mode, n: number, runs: number): Lane {
  const { least, most } = topRange(mode);
  return { unit: (mode.count === 'up' ? 1 : 2) * n * runs, shift: mode.base, least, most };
}

/**
 * Tops whose period lies within [low, high] whole ticks; empty when least > most. Exact: for whole numbers below 2^53 a
 * rounded quotient never passes over a whole number.
 */
export function topsWithin(lane: Lane, low: number, high: number): { least: number; most: number } {
  return {
    least: Math.max(lane.least, Math.ceil(low / lane.unit) - lane.shift),
    most: Math.min(lane.most, Math.floor(high / lane.unit) - lane.shift),
  };
}

/** The tops on either side of a wanted period in ticks, held to the lane's range. */
export function nearestTops(lane: Lane, period: number): number[] {
  const ideal = period / lane.unit - lane.shift;
  const held = [Math.floor(ideal), Math.ceil(ideal)].map((top) =>
    Math.min(lane.most, Math.max(lane.least, top)),
  );
  return [...new Set(held)];
}

/**
 * Tops of a range: all of them where it is narrow or low, else those near `middle` densely and the others thinned, and
 * with them those around the middle whose period is a multiple of `whole` counts, which hit a duty of n / whole exactly.
 */
export function listedTops(
  range: { least: number; most: number },
  middle: number,
  lane: Lane,
  whole: number,
): number[] {
  const { least, most } = range;
  if (most <= LOW || most - least < WHOLE) {
    return Array.from({ length: Math.max(0, most - least + 1) }, (_, at) => least + at);
  }
  const below = Math.floor((middle + lane.shift) / whole) * whole - lane.shift;
  const exact = [below - whole, below, below + whole, below + 2 * whole];
  return [...thinnedTops(range, middle), ...exact.filter((top) => top >= least && top <= most)];
}

/**
 * Tops from a range, ever sparser with the distance from `middle`. Both ends of the range and the top nearest to the
 * middle are always among them.
 */
export function thinnedTops(range: { least: number; most: number }, middle: number): number[] {
  const { least, most } = range;
  if (least > most) return [];
  const start = Math.min(most, Math.max(least, Math.round(middle)));
  const tops = new Set<number>([least, start, most]);
  for (const direction of [-1, 1]) {
    let stride = 1;
    for (let at = start, count = 0; at >= least && at <= most; at += direction * stride, count += 1) {
      tops.add(at);
      if (count > DENSE) stride = Math.ceil(stride * 1.5);
    }
  }
  return [...tops];
}

/** Round numbers of steps people ask for: powers of two and 1, 2, 2.5, 4, 5, 8 x 10^n, within [least, most]. */
export function roundSteps(least: number, most: number): number[] {
  const steps = new Set<number>();
  for (let power = 1; power <= most; power *= 2) steps.add(power);
  for (let decade = 1; decade <= most; decade *= 10) {
    for (const digit of [1, 2, 2.5, 4, 5, 8]) if (Number.isInteger(digit * decade)) steps.add(digit * decade);
  }
  return [...steps].filter((step) => step >= least && step <= most).sort((one, other) => one - other);
}
