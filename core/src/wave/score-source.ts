import { closeTo } from './clock.ts';
import { pulsesOf } from '../timer/outcome.ts';
import { passTicks, scoreEdges, scoreLevel, stretchAt, type ScoredLane } from './score.ts';
import type { EdgeSource } from './source.ts';

/** Ranges with more edges than this are counted by arithmetic, to within a few of them. */
const COUNTED = 4000;

/** Edges within [from, to) ticks, from the share of each stretch that lies in it. */
function roughly(lane: ScoredLane, from: number, to: number): number {
  const pass = passTicks(lane);
  const inPass = lane.stretches.reduce((sum, { cycle, periods }) => sum + 2 * pulsesOf(cycle) * periods, 0);
  const begin = Math.max(0, from - lane.leadTicks);
  const end = Math.max(0, to - lane.leadTicks);
  const most = lane.once ? pass : Infinity;
  const upTo = (tick: number): number => {
    const held = Math.min(tick, most);
    const whole = Math.floor(held / pass);
    let rest = held - whole * pass;
    let sum = whole * inPass;
    for (const { cycle, periods } of lane.stretches) {
      const part = Math.min(rest, cycle.periodTicks * periods);
      sum += (part / cycle.periodTicks) * 2 * pulsesOf(cycle);
      rest -= part;
      if (rest <= 0) break;
    }
    return sum;
  };
  return Math.max(0, upTo(end) - upTo(begin));
}

/** The last edge before a tick, looked for stretch by stretch. */
function lastBefore(lane: ScoredLane, before: number): number | undefined {
  let upper = Math.ceil(before);
  const most = 3 * lane.stretches.length + 6;
  for (let tried = 0; tried < most && upper > 0; tried += 1) {
    const { cycle, start } = stretchAt(lane, upper - 1);
    const from = 'level' in cycle.edges ? start : Math.max(start, upper - 3 * cycle.periodTicks);
    let last: number | undefined;
    for (const edge of scoreEdges(lane, from, upper)) last = edge;
    if (last !== undefined) return last;
    upper = from;
  }
  return undefined;
}

/** A pin that follows a score as a source of edges, in seconds. */
export function scoreSource(lane: ScoredLane, tickHz: number): EdgeSource {
  const pass = passTicks(lane);
  const ticks = (fromS: number): number => fromS * tickHz - closeTo(fromS * tickHz);
  return {
    count: (fromS, toS) => {
      const about = roughly(lane, fromS * tickHz, toS * tickHz);
      if (about > COUNTED) return Math.round(about);
      let count = 0;
      for (const edge of scoreEdges(lane, ticks(fromS), ticks(toS))) if (edge >= 0) count += 1;
      return count;
    },
    edges: (fromS, toS) =>
      Float64Array.from(scoreEdges(lane, ticks(fromS), ticks(toS)), (tick) => tick / tickHz),
    level: (atS) => scoreLevel(lane, Math.floor(atS * tickHz + closeTo(atS * tickHz))),
    next: (afterS) => {
      const from = Math.max(0, afterS * tickHz + 0.5);
      const [first] = scoreEdges(lane, from, from + lane.leadTicks + 2 * pass + 1, 4);
      return first === undefined ? undefined : first / tickHz;
    },
    previous: (beforeS) => {
      const last = lastBefore(lane, beforeS * tickHz - 0.5);
      return last === undefined ? undefined : last / tickHz;
    },
  };
}
