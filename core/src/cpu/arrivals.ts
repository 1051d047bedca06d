import type { Arrivals, CpuTask, ReloadedArrivals } from './model.ts';
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
    case 'times': {
      const { at } = arrivals;
      if (k > at.length) return Infinity;
      let least = Infinity;
      for (let i = k - 1; i < at.length; i += 1) least = Math.min(least, (at[i] ?? 0) - (at[i - k + 1] ?? 0));
      return least;
    }
    case 'reloaded':
      return Math.floor((k - 1) * (arrivals.count * arrivals.counts + arrivals.hold));
  }
}

/** The most events of a task in any stretch of so many cycles; its last cycle counts where it is `closed`. */
export function mostEvents(arrivals: Arrivals, cycles: number, closed: boolean): number {
  const within = (k: number): boolean => {
    const span = leastSpan(arrivals, k);
    return closed ? span <= cycles : span < cycles;
  };
  if (!within(1)) return 0;
  let high = 2;
  while (high < 2 ** 50 && within(high)) high *= 2;
  let low = high / 2;
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2);
    if (within(middle)) low = middle;
    else high = middle;
  }
  return low;
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
