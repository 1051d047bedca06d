import { ratio, type Exact } from '../quantity/exact.ts';
import type { EdgeList } from './edges.ts';

/** What can be read off a trace, in ticks; periods are taken between rising edges, so at least two are needed. */
export type Measured = {
  rising: number;
  /** Mean period and mean high time over whole periods, exact; absent when there is no whole period. */
  period?: Exact;
  duty?: Exact;
  /** Shortest and longest period. */
  shortest?: number;
  longest?: number;
  /** The level, where it never changes. */
  level?: 0 | 1;
};

/** Measures a trace over the whole periods it holds. Ticks stay whole numbers, so mean values are exact fractions. */
export function measure(trace: EdgeList): Measured {
  const { edges } = trace;
  if (edges.length === 0) return { rising: 0, level: trace.start };
  const firstRise = trace.start === 0 ? 0 : 1;
  let rising = 0;
  let high = 0;
  let shortest = Infinity;
  let longest = 0;
  for (let at = firstRise; at < edges.length; at += 2) {
    rising += 1;
    const next = edges[at + 2];
    const fall = edges[at + 1];
    const rise = edges[at];
    if (next === undefined || fall === undefined || rise === undefined) continue;
    high += fall - rise;
    shortest = Math.min(shortest, next - rise);
    longest = Math.max(longest, next - rise);
  }
  if (rising < 2) return { rising };
  const span = (edges[firstRise + 2 * (rising - 1)] ?? 0) - (edges[firstRise] ?? 0);
  return { rising, period: ratio(span, rising - 1), duty: ratio(high, span), shortest, longest };
}
