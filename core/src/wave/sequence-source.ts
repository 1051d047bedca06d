import { closeTo } from './clock.ts';
import { pulsesOf } from '../timer/outcome.ts';
import {
  passTicks,
  sequenceEdges,
  sequenceLevel,
  rowAt,
  type SequenceWaveform,
} from './sequence-waveform.ts';
import type { EdgeSource } from './edge-source.ts';

/** Ranges with more edges than this are counted by arithmetic, to within a few of them. */
const COUNTED = 4000;

/** Edges within [from, to) ticks, from the share of each row that lies in it. */
function roughly(waveform: SequenceWaveform, from: number, to: number): number {
  const pass = passTicks(waveform);
  const inPass = waveform.rows.reduce((sum, { cycle, periods }) => sum + 2 * pulsesOf(cycle) * periods, 0);
  const begin = Math.max(0, from - waveform.leadTicks);
  const end = Math.max(0, to - waveform.leadTicks);
  const max = waveform.once ? pass : Infinity;
  const upTo = (tick: number): number => {
    const held = Math.min(tick, max);
    const whole = Math.floor(held / pass);
    let rest = held - whole * pass;
    let sum = whole * inPass;
    for (const { cycle, periods } of waveform.rows) {
      const part = Math.min(rest, cycle.periodTicks * periods);
      sum += (part / cycle.periodTicks) * 2 * pulsesOf(cycle);
      rest -= part;
      if (rest <= 0) break;
    }
    return sum;
  };
  return Math.max(0, upTo(end) - upTo(begin));
}

/** The last edge before a tick, looked for row by row. */
function lastBefore(waveform: SequenceWaveform, before: number): number | undefined {
  let upper = Math.ceil(before);
  const max = 3 * waveform.rows.length + 6;
  for (let tried = 0; tried < max && upper > 0; tried += 1) {
    const { cycle, start } = rowAt(waveform, upper - 1);
    const from = 'level' in cycle.edges ? start : Math.max(start, upper - 3 * cycle.periodTicks);
    let last: number | undefined;
    for (const edge of sequenceEdges(waveform, from, upper)) last = edge;
    if (last !== undefined) return last;
    upper = from;
  }
  return undefined;
}

/** A pin that follows a sequence as a source of edges, in seconds. */
export function sequenceSource(waveform: SequenceWaveform, tickHz: number): EdgeSource {
  const pass = passTicks(waveform);
  const ticks = (fromS: number): number => fromS * tickHz - closeTo(fromS * tickHz);
  return {
    count: (fromS, toS) => {
      const about = roughly(waveform, fromS * tickHz, toS * tickHz);
      if (about > COUNTED) return Math.round(about);
      let count = 0;
      for (const edge of sequenceEdges(waveform, ticks(fromS), ticks(toS))) if (edge >= 0) count += 1;
      return count;
    },
    edges: (fromS, toS) =>
      Float64Array.from(sequenceEdges(waveform, ticks(fromS), ticks(toS)), (tick) => tick / tickHz),
    level: (atS) => sequenceLevel(waveform, Math.floor(atS * tickHz + closeTo(atS * tickHz))),
    next: (afterS) => {
      const from = Math.max(0, afterS * tickHz + 0.5);
      const [first] = sequenceEdges(waveform, from, from + waveform.leadTicks + 2 * pass + 1, 4);
      return first === undefined ? undefined : first / tickHz;
    },
    previous: (beforeS) => {
      const last = lastBefore(waveform, beforeS * tickHz - 0.5);
      return last === undefined ? undefined : last / tickHz;
    },
  };
}
