import { divisionRange } from '../part/division.ts';
import type { Band } from './bands.ts';
import { runOf, type Bench } from './bench.ts';

/** The highest counts of a division whose run lies within a band. */
export function topsIn(
  bench: Bench,
  n: number,
  { low, high }: Band,
  leastSteps: number,
): { least: number; most: number } {
  const { factor, shift, least, most, hold, latency } = bench.counter;
  const unit = factor * n;
  const held = hold + (latency % n);
  return {
    least: Math.max(least, leastSteps - shift, Math.ceil((low - held) / unit) - shift),
    most: Math.min(most, Math.floor((high - held) / unit) - shift),
  };
}

/** The tops from one to another, those nearest to an aim first. */
export function* outward(aim: number, least: number, most: number): Generator<number> {
  const start = Math.min(most, Math.max(least, Math.round(aim)));
  yield start;
  for (let off = 1; start - off >= least || start + off <= most; off += 1) {
    if (start + off <= most) yield start + off;
    if (start - off >= least) yield start - off;
  }
}

/** Divisions by n parts of the clock in ascending order, of a range those that can reach a band. */
export function divisionsIn(
  bench: Bench,
  { low, high }: Band,
  leastSteps: number,
): { list?: number[]; from: number; to: number } {
  const { prescaler } = bench.timer;
  if (prescaler.kind === 'list') return { list: prescaler.options.map((one) => one.divide), from: 0, to: 0 };
  const { factor, shift, least: leastTop, most: mostTop } = bench.counter;
  const { least, most } = divisionRange(prescaler);
  const fewest = Math.max(leastTop, leastSteps - shift) + shift;
  return {
    from: Math.max(least, Math.ceil(low / factor / (mostTop + shift))),
    to: Math.min(most, Math.floor(high / factor / Math.max(1, fewest))),
  };
}

/** The shortest and the longest run that a counter can make at all; what holds it makes none shorter. */
export function reachOf(bench: Bench): Band {
  const { prescaler } = bench.timer;
  const divisions =
    prescaler.kind === 'list'
      ? prescaler.options.map((one) => one.divide)
      : [prescaler.least, prescaler.most];
  const [first, last] = [Math.min(...divisions), Math.max(...divisions)];
  const { factor, shift, least, most } = bench.counter;
  return { low: factor * first * (least + shift), high: runOf(bench.counter, last, most) + last };
}
