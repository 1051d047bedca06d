import { column, type Column, type Wire } from './capture.ts';

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

/** Samples in the order of their times, wherever they are kept. */
export type SampleSource = { count: number; time: (at: number) => number; value: (at: number) => number };

/**
 * The levels of sampled values: high once a value reaches the upper threshold, low once it is at or below the lower one,
 * each change placed between its two samples where a straight line crosses the middle of the thresholds, on a whole tick.
 */
export function levelsOf({ count, time, value }: SampleSource, { rise, fall }: Threshold): Column {
  const changes = column();
  if (count === 0) return changes;
  const cross = (rise + fall) / 2;
  let level = value(0) >= cross ? 1 : 0;
  let last = time(0);
  changes.push(last, level);
  // The sample after which the signal last lay on the old side of the middle.
  let before = 0;
  for (let at = 1; at < count; at += 1) {
    const now = value(at);
    if (level === 1 ? now >= cross : now < cross) before = at;
    if (level === 1 ? now > fall : now < rise) continue;
    const [t0, t1] = [time(before), time(before + 1)];
    const [v0, v1] = [value(before), value(before + 1)];
    const share = v1 === v0 ? 1 : Math.min(1, Math.max(0, (cross - v0) / (v1 - v0)));
    level = 1 - level;
    last = Math.max(last, Math.round(t0 + share * (t1 - t0)));
    changes.push(last, level);
    before = at;
  }
  return changes;
}

/** A wire from its samples, which it keeps, so that its thresholds can be moved. */
export function thresholded(
  name: string,
  times: Float64Array,
  values: Float32Array,
  threshold: Threshold,
): Wire {
  const source = {
    count: values.length,
    time: (at: number) => times[at] ?? 0,
    value: (at: number) => values[at] ?? 0,
  };
  return { ...levelsOf(source, threshold).wire(name), analog: { times, values, ...threshold } };
}
