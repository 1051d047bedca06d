import { waveformEdges, type Waveform } from './stream.ts';

/** A signal's waveform with its name and the length of its ticks in s. */
export type NamedWaveform = { name: string; waveform: Waveform; tickHz: number };

/** A pin's edges as they were played, with its name and the length of their ticks in s; it is low before the first of them. */
type PlayedLane = { name: string; edges: Float64Array; tickHz: number };

/** What a file shows of a pin: its waveform, or edges that were played. */
export type Lane = NamedWaveform | PlayedLane;

/** The edges of a lane from the start to a time in s, in ticks, in pieces that are made as they are asked for. */
export function lanePieces(lane: Lane, seconds: number): Iterable<Float64Array> {
  const to = Math.ceil(seconds * lane.tickHz);
  return 'edges' in lane ? [lane.edges.filter((edge) => edge < to)] : waveformEdges(lane.waveform, to);
}

/** All that happens at one moment: the time in units, and which signals change to which level. */
export type Moment = { time: number; changes: { signal: number; level: 0 | 1 }[] };

type Head = { next: () => number | undefined; signal: number; level: 0 | 1; time: number | undefined };

function headOf(lane: Lane, signal: number, unitHz: number, seconds: number): Head {
  const { tickHz } = lane;
  const pieces = lanePieces(lane, seconds)[Symbol.iterator]();
  let piece = new Float64Array(0);
  let at = 0;
  const factor = unitHz / tickHz;
  const next = (): number | undefined => {
    while (at >= piece.length) {
      const more = pieces.next();
      if (more.done) return undefined;
      piece = more.value as Float64Array<ArrayBuffer>;
      at = 0;
    }
    const tick = piece[at] ?? 0;
    at += 1;
    return Math.round(tick * factor);
  };
  return { next, signal, level: 0, time: next() };
}

/**
 * The changes of several lanes in the order of time, in units of which `unitHz` make a second, from 0 to a time in s.
 * Made as they are asked for.
 */
export function* moments(lanes: readonly Lane[], unitHz: number, seconds: number): Generator<Moment> {
  const heads = lanes.map((lane, signal) => headOf(lane, signal, unitHz, seconds));
  for (;;) {
    let time = Infinity;
    for (const head of heads) if (head.time !== undefined && head.time < time) time = head.time;
    if (time === Infinity) return;
    const changed = heads.filter((head) => takeEdges(head, time));
    if (changed.length > 0) yield { time, changes: changed.map(({ signal, level }) => ({ signal, level })) };
  }
}

/** Takes all edges of a lane at one time; gives whether its level is another then. */
function takeEdges(head: Head, time: number): boolean {
  const before = head.level;
  while (head.time === time) {
    head.level = head.level === 1 ? 0 : 1;
    head.time = head.next();
  }
  return head.level !== before;
}

/** Units of time that files know, in how many make a second. */
const UNITS = [1, 10, 100, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15];

/**
 * The coarsest decimal unit in which every tick of the lanes is a whole number; if there is none, the finest in which
 * the whole time still is a whole number below 2^53, so that no edge is off by more than half of it.
 */
export function unitFor(lanes: readonly Lane[], seconds: number): number {
  const able = UNITS.filter((unit) => unit * seconds < 2 ** 53);
  const exact = able.find((unit) => lanes.every(({ tickHz }) => Number.isInteger(unit / tickHz)));
  return exact ?? able[able.length - 1] ?? 1;
}
