import type { Cycle } from '../timer/outcome.ts';
import { onWholeClocks } from './clock.ts';
import { levelAt, periodicEdges, pieceTicks } from './edges.ts';

/** So many whole periods of one cycle, in a sequence. */
export type SequenceRow = { cycle: Cycle; periods: number };

/**
 * A pin that follows a sequence. Its counter runs on all the time; after `leadTicks` (the counter's first run, the pin low)
 * the rows follow one another, each from a bottom of the counter to another, since that is when new values are
 * taken over; then again from the first, or, if `once`, the pin stays low.
 */
export type SequenceWaveform = {
  scale: number;
  leadTicks: number;
  rows: readonly SequenceRow[];
  once: boolean;
};

/** A row at its place: its cycle starts at `start`, and it lasts from there to `end`, in ticks. */
export type PlacedRow = { cycle: Cycle; start: number; end: number };

function ticksOf({ cycle, periods }: SequenceRow): number {
  return cycle.periodTicks * periods;
}

/** The length of one pass through the rows, in ticks. */
export function passTicks({ rows }: SequenceWaveform): number {
  return rows.reduce((sum, row) => sum + ticksOf(row), 0);
}

const LOW: Cycle['edges'] = { level: 0 };

/** The row that a tick (0 or later) lies in; before the sequence and after its end a low level. */
export function rowAt(waveform: SequenceWaveform, tick: number): PlacedRow {
  const { leadTicks, rows, once } = waveform;
  if (tick < leadTicks) return { cycle: { periodTicks: leadTicks, edges: LOW }, start: 0, end: leadTicks };
  const pass = passTicks(waveform);
  const number = Math.floor((tick - leadTicks) / pass);
  if (once && number > 0) {
    return { cycle: { periodTicks: 1, edges: LOW }, start: leadTicks + pass, end: Infinity };
  }
  let start = leadTicks + number * pass;
  for (const row of rows) {
    const end = start + ticksOf(row);
    if (tick < end) return { cycle: row.cycle, start, end };
    start = end;
  }
  throw new RangeError(`a sequence has no row at ${tick}`);
}

/** The level at a tick. */
export function sequenceLevel(waveform: SequenceWaveform, tick: number): 0 | 1 {
  if (tick < 0) return 0;
  const { cycle, start } = rowAt(waveform, tick);
  return levelAt(cycle, tick - start);
}

/** The edges within [from, to) ticks, one after the other, generated at most a fixed number of periods ahead. */
export function* sequenceEdges(
  waveform: SequenceWaveform,
  from: number,
  to: number,
  max = Infinity,
): Generator<number> {
  let at = Math.max(0, Math.ceil(from));
  let level = sequenceLevel(waveform, at - 1);
  while (at < to) {
    const { cycle, start, end } = rowAt(waveform, at);
    if ('level' in cycle.edges) {
      if (cycle.edges.level !== level) yield Math.floor(at / waveform.scale) * waveform.scale;
      level = cycle.edges.level;
      at = Math.min(end, Math.ceil(to));
      continue;
    }
    const piece = Math.min(pieceTicks(cycle), max * cycle.periodTicks);
    const until = Math.min(end, Math.ceil(to), at + piece);
    const trace = periodicEdges(cycle, at - start, until - start);
    if (trace.start !== level && trace.edges[0] !== at - start) {
      yield Math.floor(at / waveform.scale) * waveform.scale;
      level = trace.start;
    }
    const placed = { ...trace, edges: trace.edges.map((edge) => edge + start) };
    const { edges } = onWholeClocks(placed, waveform.scale);
    const skip = trace.start !== level ? 1 : 0;
    for (let each = skip; each < edges.length; each += 1) yield edges[each] ?? 0;
    if ((edges.length - skip) % 2 === 1) level = level === 1 ? 0 : 1;
    at = until;
  }
}
