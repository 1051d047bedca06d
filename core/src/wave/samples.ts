import { lowerBound, type Capture, type Samples } from './capture.ts';

/**
 * The minimum and maximum in each of `parts` equal slices of a time span, for drawing: pairs, one after the other; a
 * part without a sample of its own lies on the straight line between its neighbours, NaN outside of the samples. Times
 * are laid over a plan as `wireSource` lays edges.
 */
export function envelope(
  { times, values }: Samples,
  { tickHz }: Pick<Capture, 'tickHz'>,
  laid: { startS: number; ratio: number },
  fromS: number,
  toS: number,
  parts: number,
): Float32Array {
  const tick = (s: number): number => (s / laid.ratio + laid.startS) * tickHz;
  const pairs = new Float32Array(2 * parts).fill(NaN);
  const step = (toS - fromS) / parts;
  for (let part = 0; part < parts; part += 1) {
    const first = lowerBound(times, tick(fromS + part * step));
    const end = lowerBound(times, tick(fromS + (part + 1) * step));
    if (first >= end) {
      const value = between(times, values, tick(fromS + (part + 0.5) * step), first);
      pairs.set([value, value], 2 * part);
      continue;
    }
    let min = Infinity;
    let max = -Infinity;
    // Of very many samples in one part some are enough to see how far they reach.
    const stride = Math.max(1, Math.floor((end - first) / 64));
    for (let at = first; at < end; at += stride) {
      const value = values[at] ?? 0;
      if (value < min) min = value;
      if (value > max) max = value;
    }
    pairs.set([min, max], 2 * part);
  }
  return pairs;
}

function between(times: Float64Array, values: Float32Array, at: number, next: number): number {
  const [t0, t1] = [times[next - 1], times[next]];
  const [v0, v1] = [values[next - 1], values[next]];
  if (t0 === undefined || t1 === undefined || v0 === undefined || v1 === undefined) return NaN;
  return t1 === t0 ? v1 : v0 + ((at - t0) / (t1 - t0)) * (v1 - v0);
}

/** The minimum and maximum of all samples. */
export function reachOf({ values }: Samples): { min: number; max: number } {
  let min = Infinity;
  let max = -Infinity;
  for (const value of values) {
    if (value < min) min = value;
    if (value > max) max = value;
  }
  return { min, max };
}

/** The mean of the samples between two moments, each held until the next; undefined if there are no samples. */
export function meanBetween(
  { times, values }: Samples,
  { tickHz }: Pick<Capture, 'tickHz'>,
  laid: { startS: number; ratio: number },
  oneS: number,
  otherS: number,
): number | undefined {
  const tick = (s: number): number => (s / laid.ratio + laid.startS) * tickHz;
  const [from, to] = [tick(Math.min(oneS, otherS)), tick(Math.max(oneS, otherS))];
  const first = Math.max(0, lowerBound(times, from) - 1);
  let area = 0;
  let seen = 0;
  for (let at = first; at < times.length && (times[at] ?? 0) < to; at += 1) {
    const start = Math.max(from, times[at] ?? 0);
    const end = Math.min(to, times[at + 1] ?? times[at] ?? 0);
    if (end <= start) continue;
    area += (values[at] ?? 0) * (end - start);
    seen += end - start;
  }
  return seen > 0 ? area / seen : undefined;
}
