import type { EdgeList } from './edges.ts';

/** Pulses that follow one another without a rest: the edge its first rise is, and how many rises it has. */
export type PulseGroup = { first: number; rises: number };

/** The groups of a trace: a new one begins where a rise comes more than a gap (ticks) after the one before. */
export function groupsOf({ start, edges }: EdgeList, gapTicks: number): PulseGroup[] {
  const groups: PulseGroup[] = [];
  let last: PulseGroup | undefined;
  for (let at = start === 0 ? 0 : 1; at < edges.length; at += 2) {
    const since = (edges[at] ?? 0) - (edges[at - 2] ?? -Infinity);
    if (last && since <= gapTicks) last.rises += 1;
    else {
      last = { first: at, rises: 1 };
      groups.push(last);
    }
  }
  return groups;
}

/** The rate (periods per tick) and duty of the whole periods within groups; undefined without a whole period. */
export function rateInGroups(
  { edges }: EdgeList,
  groups: readonly PulseGroup[],
): { periodTicks: number; duty: number; periods: number } | undefined {
  let [span, high, periods] = [0, 0, 0];
  for (const { first, rises } of groups) {
    const end = first + 2 * (rises - 1);
    span += (edges[end] ?? 0) - (edges[first] ?? 0);
    periods += rises - 1;
    for (let at = first; at < end; at += 2) high += (edges[at + 1] ?? 0) - (edges[at] ?? 0);
  }
  return periods > 0 && span > 0 ? { periodTicks: span / periods, duty: high / span, periods } : undefined;
}

/** A trace cut to its longest group, from its first rise to its last fall. */
export function longestGroup(trace: EdgeList, groups: readonly PulseGroup[]): EdgeList {
  const longest = groups.reduce<PulseGroup | undefined>(
    (best, group) => (!best || group.rises > best.rises ? group : best),
    undefined,
  );
  if (!longest) return { ...trace, edges: new Float64Array(0) };
  const edges = trace.edges.slice(longest.first, longest.first + 2 * longest.rises);
  return { start: 0, edges, from: edges[0] ?? trace.from, to: edges[edges.length - 1] ?? trace.to };
}

/** The typical period in ticks: the lower quartile of the distances between rising edges, so that rests do not count. */
export function quickPeriod({ start, edges }: EdgeList): number | undefined {
  const distances: number[] = [];
  const stride = Math.max(2, 2 * Math.floor(edges.length / 8000));
  for (let at = start === 0 ? 0 : 1; at + 2 < edges.length; at += stride) {
    distances.push((edges[at + 2] ?? 0) - (edges[at] ?? 0));
  }
  distances.sort((one, other) => one - other);
  return distances[Math.floor(distances.length / 4)];
}
