import type { Arrivals, CpuTask, ListedArrivals, ReloadedArrivals } from './model.ts';
import { drawn } from './random.ts';

/** Streams of random numbers of one task, so that they do not depend on each other. */
const STREAMS = 4;

/** Which random numbers of a task: how late it comes, how long it takes, how long the instruction before it takes. */
export type Stream = 'arrival' | 'cycles' | 'late' | 'between';
const STREAM: Record<Stream, number> = { arrival: 0, cycles: 1, late: 2, between: 3 };

/** The k-th random number of a task's stream, from 0 to `most`. */
export function drawnFor(seed: number, task: number, stream: Stream, k: number, most: number): number {
  return drawn(seed, task * STREAMS + STREAM[stream], k, most);
}

/** Cycle of the k-th event of a task, counted from 0; `before` is that of the one before. Infinity where none comes any more. */
export function arrivalOf(task: CpuTask, at: number, seed: number, k: number, before: number): number {
  const { arrivals } = task;
  switch (arrivals.kind) {
    case 'periodic': {
      const { n, d, first, jitter } = arrivals;
      const whole = first + Math.floor(k / d) * n;
      return whole + Math.ceil(((k % d) * n) / d) + drawnFor(seed, at, 'arrival', k, jitter);
    }
    case 'sporadic': {
      const apart = (k === 0 ? 0 : arrivals.min) + drawnFor(seed, at, 'arrival', k, arrivals.spread);
      return (k === 0 ? 0 : before) + apart;
    }
    case 'times':
      return arrivals.at[k] ?? Infinity;
    case 'reloaded':
      return k === 0 ? arrivals.first : Infinity;
  }
}

/**
 * Cycle of the next overflow of a counter that overflowed at one cycle and was written at another: counts that it made in
 * between are added or lost, and with them the part of a count that a cleared prescaler loses.
 */
export function nextOverflow(arrivals: ReloadedArrivals, overflow: number, written: number): number {
  const { count, counts, full, adds, clears, hold } = arrivals;
  const passed = Math.floor((written - overflow) / count + 1e-9);
  const from = clears ? written : overflow + passed * count;
  const left = adds ? counts - (passed % full) : counts;
  return Math.ceil(from + hold + (left > 0 ? left : left + full) * count - 1e-9);
}

/** The least cycles in which k events of a task can come, from the first to the last; Infinity where so many never come. */
export function leastSpan(arrivals: Arrivals, k: number): number {
  if (k <= 1) return 0;
  switch (arrivals.kind) {
    case 'periodic': {
      const { n, d, jitter } = arrivals;
      return Math.max(0, Math.floor(((k - 1) * n) / d) - jitter);
    }
    case 'sporadic':
      return (k - 1) * arrivals.min;
    case 'times':
      return k > arrivals.at.length ? Infinity : (spansOf(arrivals)[k] ?? Infinity);
    case 'reloaded':
      return (k - 1) * Math.max(1, Math.floor(arrivals.count * arrivals.counts + arrivals.hold));
  }
}

/** Of listed events the least stretch for each number of them, found once for each list. */
const spans = new WeakMap<ListedArrivals, number[]>();

function spansOf(arrivals: ListedArrivals): number[] {
  const known = spans.get(arrivals);
  if (known) return known;
  const { at } = arrivals;
  const found = [0, 0];
  for (let k = 2; k <= at.length; k += 1) {
    let least = Infinity;
    for (let i = k - 1; i < at.length; i += 1) least = Math.min(least, (at[i] ?? 0) - (at[i - k + 1] ?? 0));
    found.push(least);
  }
  spans.set(arrivals, found);
  return found;
}

/** The most steps of a distance that fit into so many cycles: all that begin before its end, or at it where it is `closed`. */
function stepsIn(cycles: number, n: number, d: number, closed: boolean): number {
  const whole = closed ? Math.floor(cycles) + 1 : Math.ceil(cycles);
  return Math.max(0, Math.ceil((whole * d) / n) - 1);
}

/** The most events of a task in any stretch of so many cycles; its last cycle counts where it is `closed`. */
export function mostEvents(arrivals: Arrivals, cycles: number, closed: boolean): number {
  if (cycles < 0 || (cycles === 0 && !closed)) return 0;
  switch (arrivals.kind) {
    case 'periodic':
      return 1 + stepsIn(cycles + arrivals.jitter, arrivals.n, arrivals.d, closed);
    case 'sporadic':
      return 1 + stepsIn(cycles, arrivals.min, 1, closed);
    case 'reloaded': {
      const distance = Math.max(1, Math.floor(arrivals.count * arrivals.counts + arrivals.hold));
      return 1 + stepsIn(cycles, distance, 1, closed);
    }
    case 'times': {
      const found = spansOf(arrivals);
      const end = closed ? bisectRight(found, cycles) : bisectLeft(found, cycles);
      return Math.min(arrivals.at.length, Math.max(1, end - 1));
    }
  }
}

function bisectLeft(values: readonly number[], value: number): number {
  let [low, high] = [0, values.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((values[middle] ?? 0) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

function bisectRight(values: readonly number[], value: number): number {
  return bisectLeft(values, value + 1);
}

/** The longest mean distance that events keep up: what utilisation and overload go by. Infinity where they come to an end. */
export function meanDistance(arrivals: Arrivals): number {
  switch (arrivals.kind) {
    case 'periodic':
      return arrivals.n / arrivals.d;
    case 'sporadic':
      return arrivals.min;
    case 'times':
      return Infinity;
    case 'reloaded':
      return arrivals.count * arrivals.counts + arrivals.hold;
  }
}
