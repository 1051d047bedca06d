import { pulsesOf, type Cycle } from '../timer/outcome.ts';
import { lowerBound, type Capture, type Wire } from './capture.ts';
import { closeTo, onWholeClocks } from './clock.ts';
import type { EdgeSource, Level } from './edge-source.ts';
import { periodicEdges } from './edges.ts';
import { sequenceSource } from './sequence-source.ts';
import type { Waveform, SteadyWaveform } from './stream.ts';

/** Periods in which the next edge of a cycle is looked for; a fraction may put it into the one after. */
const AROUND = 2;

function edgesPerTick(cycle: Cycle): number {
  return (2 * pulsesOf(cycle)) / cycle.periodTicks;
}

/** Edges of a cycle before a tick, counted from its tick 0 on; a divider with a fraction puts each on the clock before it. */
function edgesBefore({ edges, periodTicks }: Cycle, scale: number, tick: number): number {
  if (!('rise' in edges)) return 0;
  const end = Math.ceil(tick / scale) * scale;
  const count = (first: number): number => Math.max(0, Math.ceil((end - first) / periodTicks));
  return count(edges.rise) + count(edges.fall);
}

/** A computed lane as a source. The pin is low before the lane's start at 0. */
export function waveformSource(waveform: Waveform, tickHz: number): EdgeSource {
  return 'rows' in waveform ? sequenceSource(waveform, tickHz) : steadySource(waveform, tickHz);
}

function steadySource({ cycle, scale, settled, begin }: SteadyWaveform, tickHz: number): EdgeSource {
  const steady = edgesPerTick(cycle);
  const ticks = (start: number, end: number): number[] => {
    const [fromTick, toTick] = [start - closeTo(start), end - closeTo(end)];
    const first = [...begin].filter((edge) => edge >= fromTick && edge < toTick);
    const from = Math.max(settled, Math.floor(fromTick) - scale);
    if (toTick <= settled) return first;
    const trace = onWholeClocks(periodicEdges(cycle, Math.max(0, from), Math.ceil(toTick)), scale);
    const later = [...trace.edges].filter((edge) => edge >= fromTick && edge < toTick && edge >= settled);
    const before = begin.length % 2 === 1 ? 1 : 0;
    if (from !== settled || settled < fromTick || trace.start === before) return [...first, ...later];
    // The cycle begins at another level than the pin has there: an edge more, or one less where both change at once.
    return later[0] === settled ? [...first, ...later.slice(1)] : [...first, settled, ...later];
  };
  // Pulses of a cycle are spread evenly over it.
  const step = AROUND * Math.ceil(cycle.periodTicks / Math.max(1, pulsesOf(cycle)));
  const steadyLevel = 'level' in cycle.edges;
  return {
    count: (fromS, toS) => {
      const [from, to] = [Math.max(0, fromS * tickHz), toS * tickHz];
      if (from > settled && to > from && 'rise' in cycle.edges) {
        const [start, end] = [from - closeTo(from), to - closeTo(to)];
        return edgesBefore(cycle, scale, end) - edgesBefore(cycle, scale, start);
      }
      if ((to - from) * steady < 4000) return ticks(from, to).length;
      return Math.round(Math.max(0, to - Math.max(from, settled)) * steady);
    },
    edges: (fromS, toS) =>
      Float64Array.from(ticks(Math.max(0, fromS * tickHz), toS * tickHz), (tick) => tick / tickHz),
    level: (atS) => {
      const tick = Math.floor(atS * tickHz + closeTo(atS * tickHz));
      if (tick < 0) return 0;
      if (tick < settled) return ([...begin].filter((edge) => edge <= tick).length % 2) as Level;
      return periodicEdges(cycle, tick + 1, tick + 1).start;
    },
    next: (afterS) => {
      const after = afterS * tickHz + 0.5;
      if (steadyLevel && after >= settled) return undefined;
      const found = ticks(Math.max(0, after), Math.max(0, after, settled) + step)[0];
      return found === undefined ? undefined : found / tickHz;
    },
    previous: (beforeS) => {
      const before = beforeS * tickHz - 0.5;
      if (before <= 0) return undefined;
      const found = ticks(Math.max(0, Math.min(before - step, steadyLevel ? 0 : before)), before);
      const last = found[found.length - 1];
      return last === undefined ? undefined : last / tickHz;
    },
  };
}

/** A captured wire as a source, whose level is unknown before its first entry and after the capture's end; its times shifted so that `startS` of the capture is 0, and stretched by a ratio. */
export function wireSource(
  { times, levels }: Wire,
  { tickHz, to }: Capture,
  startS = 0,
  ratio = 1,
): EdgeSource {
  const end = Math.max(to, times[times.length - 1] ?? to);
  const toTick = (s: number): number => (s / ratio + startS) * tickHz;
  const toS = (tick: number): number => (tick / tickHz - startS) * ratio;
  // The first entry is where the wire begins, not an edge of it.
  const place = (tick: number): number => Math.max(1, lowerBound(times, tick - closeTo(tick)));
  return {
    known: { fromS: toS(times[0] ?? 0), toS: toS(end) },
    count: (fromS, untilS) => Math.max(0, place(toTick(untilS)) - place(toTick(fromS))),
    edges: (fromS, untilS) =>
      Float64Array.from(times.subarray(place(toTick(fromS)), place(toTick(untilS))), toS),
    level: (atS) => {
      const tick = toTick(atS);
      if (tick > end + closeTo(tick)) return 2;
      const at = lowerBound(times, tick + closeTo(tick)) - 1;
      const level = at < 0 ? 2 : (levels[at] ?? 2);
      return (level > 1 ? 2 : level) as Level;
    },
    next: (afterS) => {
      const tick = times[place(toTick(afterS) + 0.5)];
      return tick === undefined ? undefined : toS(tick);
    },
    previous: (beforeS) => {
      const at = place(toTick(beforeS) - 0.5) - 1;
      return at < 1 ? undefined : toS(times[at] ?? 0);
    },
  };
}

/**
 * The next pulse after a moment, high or low, whose length in s satisfies a condition; searched up to a maximum number of edges away.
 * Gives where it begins and ends.
 */
export function nextPulse(
  source: EdgeSource,
  afterS: number,
  answers: (lengthS: number) => boolean,
  max = 200_000,
): { fromS: number; toS: number } | undefined {
  let from = source.next(afterS);
  for (let tried = 0; from !== undefined && tried < max; tried += 1) {
    const to = source.next(from);
    if (to === undefined) return undefined;
    if (answers(to - from)) return { fromS: from, toS: to };
    from = to;
  }
  return undefined;
}

/** The next period between rising edges after a moment whose length in s answers a question. */
export function nextPeriod(
  source: EdgeSource,
  afterS: number,
  answers: (lengthS: number) => boolean,
  max = 200_000,
): { fromS: number; toS: number } | undefined {
  let from = source.next(afterS);
  if (from !== undefined && source.level(from) !== 1) from = source.next(from);
  for (let tried = 0; from !== undefined && tried < max; tried += 1) {
    const fall = source.next(from);
    const to = fall === undefined ? undefined : source.next(fall);
    if (to === undefined) return undefined;
    if (answers(to - from)) return { fromS: from, toS: to };
    from = to;
  }
  return undefined;
}

/** What a source shows between two moments. */
export type Measurement = {
  seconds: number;
  rises: number;
  falls: number;
  duty: number;
  frequencyHz?: number;
};

/** Most edges that are looked at one by one between two cursors. */
const MAX_EDGES = 2_000_000;

/** Measures between two moments; undefined where too many edges lie between them to be looked at one by one. */
export function measureBetween(source: EdgeSource, oneS: number, otherS: number): Measurement | undefined {
  const [from, to] = oneS <= otherS ? [oneS, otherS] : [otherS, oneS];
  if (to <= from || source.count(from, to) > MAX_EDGES) return undefined;
  const edges = source.edges(from, to);
  let level = edges[0] === undefined ? source.level(from) : source.level(edges[0]) === 1 ? 0 : 1;
  let since = from;
  let high = 0;
  let rises = 0;
  let firstRise = 0;
  let lastRise = 0;
  for (const edge of edges) {
    if (level === 1) high += edge - since;
    else {
      if (rises === 0) firstRise = edge;
      lastRise = edge;
      rises += 1;
    }
    level = level === 1 ? 0 : 1;
    since = edge;
  }
  if (level === 1) high += to - since;
  // A cursor that stands on the rising edge itself closes the last period.
  const last = source.edges(to, to + (to - from) * 0.01)[0];
  const closes =
    level === 0 && last !== undefined && last - to <= 1e-9 * (to - from) && source.level(last) === 1;
  const span = closes ? to - firstRise : lastRise - firstRise;
  const periods = closes ? rises : rises - 1;
  return {
    seconds: to - from,
    rises,
    falls: edges.length - rises,
    duty: high / (to - from),
    ...(periods > 0 && span > 0 ? { frequencyHz: periods / span } : {}),
  };
}
