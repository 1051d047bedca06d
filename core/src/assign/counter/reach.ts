import { divisionRange } from '../../part/division.ts';
import type { RunBand } from './bands.ts';
import { runOf, type CounterContext } from './context.ts';

/** The highest counts of a division whose run lies within a band. */
export function topsIn(
  context: CounterContext,
  n: number,
  { low, high }: RunBand,
  minSteps: number,
): { min: number; max: number } {
  const { factor, shift, min, max, hold, latency } = context.counter;
  const unit = factor * n;
  const held = hold + (latency % n);
  return {
    min: Math.max(min, minSteps - shift, Math.ceil((low - held) / unit) - shift),
    max: Math.min(max, Math.floor((high - held) / unit) - shift),
  };
}

/** The tops from one to another, those nearest to an aim first. */
export function* outward(aim: number, min: number, max: number): Generator<number> {
  const start = Math.min(max, Math.max(min, Math.round(aim)));
  yield start;
  for (let off = 1; start - off >= min || start + off <= max; off += 1) {
    if (start + off <= max) yield start + off;
    if (start - off >= min) yield start - off;
  }
}

/** Divisions by n parts of the clock in ascending order, of a range those that can reach a band. */
export function divisionsIn(
  context: CounterContext,
  { low, high }: RunBand,
  minSteps: number,
): { list?: number[]; from: number; to: number } {
  const { prescaler } = context.timer;
  if (prescaler.kind === 'list') return { list: prescaler.options.map((one) => one.divide), from: 0, to: 0 };
  const { factor, shift, min: minTop, max: maxTop } = context.counter;
  const { min, max } = divisionRange(prescaler);
  const fewest = Math.max(minTop, minSteps - shift) + shift;
  return {
    from: Math.max(min, Math.ceil(low / factor / (maxTop + shift))),
    to: Math.min(max, Math.floor(high / factor / Math.max(1, fewest))),
  };
}

/** The shortest and the longest run that a counter can make at all; what holds it makes none shorter. */
export function counterReach(context: CounterContext): RunBand {
  const { prescaler } = context.timer;
  const divisions =
    prescaler.kind === 'list' ? prescaler.options.map((one) => one.divide) : [prescaler.min, prescaler.max];
  const [first, last] = [Math.min(...divisions), Math.max(...divisions)];
  const { factor, shift, min, max } = context.counter;
  return { low: factor * first * (min + shift), high: runOf(context.counter, last, max) + last };
}
