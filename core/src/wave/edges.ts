import type { Cycle, Spread } from '../timer/outcome.ts';

/** Edges in time: ascending ticks at which the level changes, and the level before the first of them. */
export type EdgeList = { start: 0 | 1; edges: Float64Array; from: number; to: number };

/** The running sum after a number of counts: counts x high modulo whole, exact also where the product has more than 53 bits. */
function sumAfter({ high, whole }: Spread, counts: number): number {
  const at = counts % whole;
  const product = at * high;
  return product <= Number.MAX_SAFE_INTEGER
    ? product % whole
    : Number((BigInt(at) * BigInt(high)) % BigInt(whole));
}

/** Whether a count is high when the high counts are spread evenly over a cycle: where the running sum overflows. */
function spreadLevel(spread: Spread, tick: number): 0 | 1 {
  const at = Math.floor(tick / spread.count);
  return sumAfter(spread, (((at % spread.whole) + spread.whole) % spread.whole) + 1) < spread.high ? 1 : 0;
}

function spreadEdges(cycle: Cycle & { edges: { spread: Spread } }, from: number, to: number): EdgeList {
  const { spread } = cycle.edges;
  const { count, high, whole } = spread;
  const start = spreadLevel(spread, from - 1);
  const edges: number[] = [];
  let level = start;
  const first = Math.ceil(from / count);
  let sum = sumAfter(spread, first);
  for (let at = first; at * count < to; at += 1) {
    sum = (sum + high) % whole;
    const next = sum < high ? 1 : 0;
    if (next !== level) edges.push(at * count);
    level = next;
  }
  return { start, edges: Float64Array.from(edges), from, to };
}

/** The level of a cycle at a tick counted from its start. */
export function levelAt(cycle: Cycle, tick: number): 0 | 1 {
  if ('level' in cycle.edges) return cycle.edges.level;
  if ('spread' in cycle.edges) return spreadLevel(cycle.edges.spread, tick);
  const { rise, fall } = cycle.edges;
  const at = ((tick % cycle.periodTicks) + cycle.periodTicks) % cycle.periodTicks;
  return rise < fall ? (at >= rise && at < fall ? 1 : 0) : at >= rise || at < fall ? 1 : 0;
}

/** Edges in a piece, at most. */
const PIECE = 65_536;

/** Ticks in which a cycle has at most as many edges as a piece of a stream holds. */
export function pieceTicks({ edges, periodTicks }: Cycle): number {
  if ('level' in edges) return Infinity;
  if ('spread' in edges) return Math.max(1, Math.floor(PIECE / 2)) * edges.spread.count;
  return Math.max(1, Math.floor(PIECE / 2 - 2)) * periodTicks;
}

/**
 * The edges of a periodic signal within [from, to) in ticks, once it runs in its steady state. `start` is the level just
 * before `from`, so an edge at `from` itself is among them. Ticks are exact up to 2^53.
 */
export function periodicEdges(cycle: Cycle, from: number, to: number): EdgeList {
  const start = levelAt(cycle, from - 1);
  if ('level' in cycle.edges) return { start, edges: new Float64Array(0), from, to };
  const { periodTicks } = cycle;
  if ('spread' in cycle.edges) return spreadEdges({ ...cycle, edges: cycle.edges }, from, to);
  const [first, second] = [cycle.edges.rise, cycle.edges.fall].sort((one, other) => one - other) as [
    number,
    number,
  ];
  const cycles = Math.ceil((to - from) / periodTicks) + 1;
  const edges = new Float64Array(2 * cycles + 2);
  let count = 0;
  for (let base = Math.floor(from / periodTicks) * periodTicks; base < to; base += periodTicks) {
    const [one, other] = [base + first, base + second];
    if (one >= from && one < to) edges[count++] = one;
    if (other >= from && other < to) edges[count++] = other;
  }
  return { start, edges: edges.subarray(0, count), from, to };
}
