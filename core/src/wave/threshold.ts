import type { Wire } from './capture.ts';

/** Where a voltage counts as high from (rising) and as low from (falling); between them the level stays. */
export type Threshold = { rise: number; fall: number };

const BINS = 256;

/** Of the distance between the two levels so much lies between the thresholds. */
const HYSTERESIS = 0.2;

/**
 * Thresholds proposed from a histogram: the value that parts the samples into two groups which differ most between
 * each other and least within (Otsu 1979), with a hysteresis around it. Undefined where all samples are alike.
 */
export function proposeThreshold(values: ArrayLike<number>): Threshold | undefined {
  let min = Infinity;
  let max = -Infinity;
  for (let at = 0; at < values.length; at += 1) {
    const value = values[at] ?? 0;
    if (value < min) min = value;
    if (value > max) max = value;
  }
  if (!(max > min)) return undefined;
  const bins = new Float64Array(BINS);
  const width = (max - min) / BINS;
  for (let at = 0; at < values.length; at += 1) {
    const bin = Math.min(BINS - 1, Math.floor(((values[at] ?? 0) - min) / width));
    bins[bin] = (bins[bin] ?? 0) + 1;
  }
  return parted(bins, min, width, values.length);
}

function parted(bins: Float64Array, min: number, width: number, total: number): Threshold {
  const middle = (bin: number): number => min + (bin + 0.5) * width;
  let sum = 0;
  for (let bin = 0; bin < BINS; bin += 1) sum += (bins[bin] ?? 0) * middle(bin);
  let best = { between: -1, low: min, high: min, at: min };
  let count = 0;
  let part = 0;
  for (let bin = 0; bin < BINS - 1; bin += 1) {
    count += bins[bin] ?? 0;
    part += (bins[bin] ?? 0) * middle(bin);
    if (count === 0 || count === total) continue;
    const low = part / count;
    const high = (sum - part) / (total - count);
    const between = count * (total - count) * (high - low) ** 2;
    if (between > best.between) best = { between, low, high, at: (low + high) / 2 };
  }
  const band = (best.high - best.low) * HYSTERESIS;
  return { rise: best.at + band / 2, fall: best.at - band / 2 };
}

/**
 * The levels of sampled values: high once a value reaches the upper threshold, low once it is at or below the lower one,
 * each change placed between its two samples where a straight line crosses the middle of the thresholds, on a whole tick.
 */
export function thresholded(
  name: string,
  times: Float64Array,
  values: Float32Array,
  { rise, fall }: Threshold,
): Wire {
  const edges: number[] = [times[0] ?? 0];
  const cross = (rise + fall) / 2;
  let level = (values[0] ?? 0) >= cross ? 1 : 0;
  const levels: number[] = [level];
  // The sample after which the signal last lay on the old side of the middle.
  let before = 0;
  for (let at = 1; at < values.length; at += 1) {
    const value = values[at] ?? 0;
    if (level === 1 ? value >= cross : value < cross) before = at;
    if (level === 1 ? value > fall : value < rise) continue;
    const [t0, t1] = [times[before] ?? 0, times[before + 1] ?? 0];
    const [v0, v1] = [values[before] ?? 0, values[before + 1] ?? 0];
    const share = v1 === v0 ? 1 : Math.min(1, Math.max(0, (cross - v0) / (v1 - v0)));
    level = 1 - level;
    edges.push(Math.max(edges[edges.length - 1] ?? 0, Math.round(t0 + share * (t1 - t0))));
    levels.push(level);
    before = at;
  }
  return {
    name,
    times: Float64Array.from(edges),
    levels: Uint8Array.from(levels),
    analog: { times, values, rise, fall },
  };
}
