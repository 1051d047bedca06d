import type { EdgeList } from './edges.ts';

/** How near to a whole tick a time in s may come out and still be meant for it. */
export function closeTo(tick: number): number {
  return 1e-3 + Math.abs(tick) * 1e-15;
}

/**
 * Edges as a divider with a fraction really makes them: it can pass only whole clocks on, so the k-th count comes with
 * clock floor(k x n / scale). A trace in parts of a clock (`scale` of them) becomes one whose edges lie on whole clocks,
 * in the same ticks: periods of two lengths that alternate so that the mean is exact.
 */
export function onWholeClocks(trace: EdgeList, scale: number): EdgeList {
  if (scale === 1) return trace;
  return { ...trace, edges: trace.edges.map((edge) => Math.floor(edge / scale) * scale) };
}

/**
 * Two outputs that are never high together: the trace, and its opposite, each going high only `dead` ticks after the
 * other went low. Pulses shorter than the dead time vanish.
 */
export function withDeadTime(
  { start, edges, from, to }: EdgeList,
  dead: number,
): { main: EdgeList; complement: EdgeList } {
  const delayed = (first: 0 | 1): EdgeList => {
    const kept: number[] = [];
    for (let at = first === 0 ? 0 : 1; at < edges.length + 1; at += 2) {
      const rise = edges[at];
      const fall = edges[at + 1] ?? to;
      if (rise === undefined || rise + dead >= fall) continue;
      kept.push(rise + dead, fall);
    }
    if (first === 1 && edges[0] !== undefined) kept.unshift(edges[0]);
    const within = kept.filter((edge) => edge < to);
    return { start: first, edges: Float64Array.from(within), from, to };
  };
  return { main: delayed(start), complement: delayed(start === 1 ? 0 : 1) };
}

/** A trace that starts `ticks` later, the pin holding its first level until then. */
export function shifted({ start, edges, from, to }: EdgeList, ticks: number): EdgeList {
  return { start, edges: edges.map((edge) => edge + ticks), from: from + ticks, to: to + ticks };
}
