import type { EdgeList } from './edges.ts';

/** A straight line through the rising edges: their mean period and phase in ticks, and how far they stand off it. */
export type EdgeLine = {
  rises: number;
  periodTicks: number;
  /** Where the line has its rise number 0, near the first. */
  phaseTicks: number;
  /** The farthest and the root mean square distance of an edge from its place on the line. */
  peakTicks: number;
  sigmaTicks: number;
};

/**
 * The line of least squares through the rising edges by their number. It uses all edges, so its period is better than
 * one from the first and the last. Undefined with less than three.
 */
export function lineOf({ start, edges }: EdgeList): EdgeLine | undefined {
  const first = start === 0 ? 0 : 1;
  const rises = Math.max(0, Math.ceil((edges.length - first) / 2));
  if (rises < 3) return undefined;
  const origin = edges[first] ?? 0;
  const middle = (rises - 1) / 2;
  let mean = 0;
  for (let at = 0; at < rises; at += 1) mean += (edges[first + 2 * at] ?? 0) - origin;
  mean /= rises;
  let product = 0;
  for (let at = 0; at < rises; at += 1)
    product += (at - middle) * ((edges[first + 2 * at] ?? 0) - origin - mean);
  const periodTicks = product / ((rises * (rises * rises - 1)) / 12);
  const phase = mean - periodTicks * middle;
  let peak = 0;
  let squares = 0;
  for (let at = 0; at < rises; at += 1) {
    const off = (edges[first + 2 * at] ?? 0) - origin - phase - periodTicks * at;
    peak = Math.max(peak, Math.abs(off));
    squares += off * off;
  }
  return {
    rises,
    periodTicks,
    phaseTicks: origin + phase,
    peakTicks: peak,
    sigmaTicks: Math.sqrt(squares / rises),
  };
}

/** Pulses, high or low, shorter than a limit: the number of the edge each begins with. */
export function shortPulses({ edges }: EdgeList, limitTicks: number, max = 10_000): number[] {
  const found: number[] = [];
  for (let at = 0; at + 1 < edges.length && found.length < max; at += 1) {
    if ((edges[at + 1] ?? 0) - (edges[at] ?? 0) < limitTicks) found.push(at);
  }
  return found;
}

/** So many pulses are enough to tell a usual length. */
const SAMPLED = 4001;

/** The usual lengths (medians) of low and high pulses in ticks, from some of them; undefined with less than three. */
export function usualLengths({ start, edges }: EdgeList): { low: number; high: number } | undefined {
  if (edges.length < 6) return undefined;
  const stride = Math.max(2, 2 * Math.floor(edges.length / (2 * SAMPLED)));
  const median = (first: number): number => {
    const lengths: number[] = [];
    for (let at = first; at + 1 < edges.length; at += stride) {
      lengths.push((edges[at + 1] ?? 0) - (edges[at] ?? 0));
    }
    lengths.sort((one, other) => one - other);
    return lengths[Math.floor(lengths.length / 2)] ?? 0;
  };
  const [even, odd] = [median(0), median(1)];
  return start === 0 ? { high: even, low: odd } : { high: odd, low: even };
}

/** A trace without its pulses shorter than a limit, as if they had not been there. */
export function withoutShort(trace: EdgeList, limitTicks: number): EdgeList {
  const { edges } = trace;
  const kept = new Float64Array(edges.length);
  let count = 0;
  for (let at = 0; at < edges.length; at += 1) {
    const edge = edges[at] ?? 0;
    const next = edges[at + 1];
    if (next !== undefined && next - edge < limitTicks) {
      at += 1;
      continue;
    }
    kept[count] = edge;
    count += 1;
  }
  return count === edges.length ? trace : { ...trace, edges: kept.slice(0, count) };
}

/** Pulses shorter than this share of the usual ones are not part of a signal. */
export const GLITCH = 0.2;

/** A trace without its pulses that are far shorter than its usual ones. */
export function withoutGlitches(trace: EdgeList): EdgeList {
  const usual = usualLengths(trace);
  return usual ? withoutShort(trace, GLITCH * Math.min(usual.low, usual.high)) : trace;
}

/** How often lengths fall into each of some equal bins between the minimum and maximum of them. */
export type Histogram = { min: number; max: number; bins: number[]; total: number };

/** A histogram of the periods between rising edges, or of the high widths, in ticks. Undefined without a whole period or pulse. */
export function histogramOf(
  { start, edges }: EdgeList,
  of: 'period' | 'width',
  count = 48,
): Histogram | undefined {
  const first = start === 0 ? 0 : 1;
  const reach = of === 'period' ? 2 : 1;
  const lengthAt = (at: number): number => (edges[at + reach] ?? 0) - (edges[at] ?? 0);
  let min = Infinity;
  let max = -Infinity;
  let total = 0;
  for (let at = first; at + reach < edges.length; at += 2) {
    const length = lengthAt(at);
    if (length < min) min = length;
    if (length > max) max = length;
    total += 1;
  }
  if (total === 0) return undefined;
  const bins = new Array<number>(count).fill(0);
  const span = max - min || 1;
  for (let at = first; at + reach < edges.length; at += 2) {
    const bin = Math.min(count - 1, Math.floor(((lengthAt(at) - min) / span) * count));
    bins[bin] = (bins[bin] ?? 0) + 1;
  }
  return { min, max, bins, total };
}
