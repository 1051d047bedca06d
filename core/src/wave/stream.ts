import type { Cycle } from '../timer/outcome.ts';
import { onWholeClocks } from './clock.ts';
import { sequenceEdges, type SequenceWaveform } from './sequence-waveform.ts';
import { periodicEdges, pieceTicks, type EdgeList } from './edges.ts';

/** A periodic waveform: the edges before it settles, and the cycle that repeats from then on. */
export type SteadyWaveform = {
  cycle: Cycle;
  /** Parts of a clock in a tick, where edges can lie on whole clocks only. */
  scale: number;
  /** Ticks after which the cycle holds, and the edges before them. */
  settled: number;
  begin: Float64Array;
};

/** A pin from its start on. */
export type Waveform = SteadyWaveform | SequenceWaveform;

/** Edges of a sequence that are handed on at once. */
const HANDED = 4096;

function* sequencePieces(waveform: SequenceWaveform, to: number): Generator<Float64Array> {
  const piece = new Float64Array(HANDED);
  let count = 0;
  for (const edge of sequenceEdges(waveform, 0, to)) {
    piece[count] = edge;
    count += 1;
    if (count < HANDED) continue;
    yield piece.slice();
    count = 0;
  }
  yield piece.slice(0, count);
}

/**
 * The edges of a lane from its start at 0 to `to` (without), in ticks, in pieces of ascending times that are made as
 * they are asked for: a day of a slow signal and a second of a fast one need the same memory. The pin is low before.
 */
export function* waveformEdges(waveform: Waveform, to: number): Generator<Float64Array> {
  if ('rows' in waveform) {
    yield* sequencePieces(waveform, to);
    return;
  }
  const { cycle, scale, settled, begin } = waveform;
  let level: 0 | 1 = begin.length % 2 === 1 ? 1 : 0;
  yield begin.filter((edge) => edge < to);
  const step = pieceTicks(cycle);
  for (let from = settled; from < to;) {
    const until = Math.min(to, from + step);
    const piece = onWholeClocks(periodicEdges(cycle, from, until), scale);
    const joined = joinedTo(level, piece, from);
    if (joined.length % 2 === 1) level = level === 1 ? 0 : 1;
    yield joined;
    from = until;
  }
}

/** The edges of a piece after a level: where its first level is another one, an edge at its beginning. */
function joinedTo(level: 0 | 1, piece: EdgeList, from: number): Float64Array {
  if (piece.start === level) return piece.edges;
  const { edges } = piece;
  if (edges[0] === from) return edges.slice(1);
  const more = new Float64Array(edges.length + 1);
  more[0] = from;
  more.set(edges, 1);
  return more;
}

/** All edges of a lane up to a time, as one trace. */
export function waveformEdgeList(waveform: Waveform, to: number): EdgeList {
  const pieces = [...waveformEdges(waveform, to)];
  const edges = new Float64Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    edges.set(piece, at);
    at += piece.length;
  }
  return { start: 0, edges, from: 0, to };
}
