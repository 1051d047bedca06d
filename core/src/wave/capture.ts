import type { EdgeList } from './edges.ts';

/** A wire of a capture: ascending times in ticks, and the level from each of them on. */
export type Wire = { name: string; times: Float64Array; levels: Uint8Array; analog?: Samples };

/** What a wire was thresholded from, in volts (or in parts of full scale), and the two thresholds. */
export type Samples = { times: Float64Array; values: Float32Array; rise: number; fall: number };

/**
 * What came from the bench: wires over time, in ticks of `tickHz` a second, from the first to the last moment seen. Notes
 * say what of the file was left out.
 */
export type Capture = { tickHz: number; from: number; to: number; wires: Wire[]; notes?: string[] };

/** Thrown when a capture cannot be read: what is wrong, and where (a line, or a byte). */
export class CaptureError extends Error {}

/** Numbers that become more: a typed array that doubles. */
export type Column = {
  push: (time: number, level: number) => void;
  wire: (name: string) => Wire;
  count: number;
};

/** The changes of one wire as they come in; a level that does not change is not kept. */
export function column(): Column {
  let times = new Float64Array(16);
  let levels = new Uint8Array(16);
  let last = 255;
  const own: Column = {
    count: 0,
    push(time, level) {
      if (level === last) return;
      const before = own.count - 1;
      if (before >= 0 && times[before] === time) {
        levels[before] = level;
        last = level;
        return;
      }
      if (own.count === times.length) {
        const more = new Float64Array(2 * own.count);
        more.set(times);
        times = more;
        const wider = new Uint8Array(2 * own.count);
        wider.set(levels);
        levels = wider;
      }
      times[own.count] = time;
      levels[own.count] = level;
      own.count += 1;
      last = level;
    },
    wire: (name) => ({ name, times: times.slice(0, own.count), levels: levels.slice(0, own.count) }),
  };
  return own;
}

/** A stretch of time in ticks. */
export type CaptureSegment = { from: number; to: number };

/** The longest stretch of a wire whose level is known all the time; undefined where it never is. */
export function longestKnown({ times, levels }: Wire, to: number): CaptureSegment | undefined {
  let best: CaptureSegment | undefined;
  let from: number | undefined;
  const close = (end: number): void => {
    if (from !== undefined && (!best || end - from > best.to - best.from)) best = { from, to: end };
    from = undefined;
  };
  for (let at = 0; at < times.length; at += 1) {
    const known = (levels[at] ?? 2) < 2;
    const time = times[at] ?? 0;
    if (known) from ??= time;
    else close(time);
  }
  close(to);
  return best;
}

/** A wire as a trace of two levels, within its longest known stretch. Undefined where its level is never known. */
export function wireEdges(wire: Wire, to: number): EdgeList | undefined {
  const segment = longestKnown(wire, to);
  if (!segment) return undefined;
  const { times, levels } = wire;
  const first = lowerBound(times, segment.from);
  const start = (levels[first] ?? 0) as 0 | 1;
  const edges = new Float64Array(times.length - first);
  let count = 0;
  let level: number = start;
  for (let at = first + 1; at < times.length && (times[at] ?? 0) < segment.to; at += 1) {
    const next = levels[at] ?? 0;
    if (next === level) continue;
    edges[count] = times[at] ?? 0;
    count += 1;
    level = next;
  }
  return { start, edges: edges.slice(0, count), from: segment.from, to: segment.to };
}

/** The first place of ascending numbers that is not below a value. */
export function lowerBound(sorted: Float64Array, value: number): number {
  let low = 0;
  let high = sorted.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((sorted[middle] ?? 0) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}
