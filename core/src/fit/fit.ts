import { clockOf, type ClockPath } from '../clock/path.ts';
import { timerPins } from '../part/find.ts';
import type { Part, Timer } from '../part/schema.ts';
import type { Goal } from '../target/goal.ts';
import { scaleOf } from '../part/division.ts';
import { topRange } from '../timer/setting.ts';
import { candidateOf, rateTop, tickGoal, type Candidate, type Rating, type TickGoal } from './candidate.ts';
import { lanesOf } from './lanes.ts';
import { closestFirst, frontOf } from './rank.ts';
import { reasonOf, type Refusal } from './refuse.ts';
import { softFit } from './soft.ts';
import { waysOf, type Way } from './ways.ts';

/** All settings that can serve one signal. */
export type Fit = {
  /** How many combinations of output, prescaler and top lie within reach of the target; thinned ones count too. */
  considered: number;
  /** Those that meet the target, best first. */
  candidates: Candidate[];
  /** Some that do not, in no order; the nearest of every way is among them. */
  near: Candidate[];
  /** Of the candidates, those that nothing beats, from few steps to many. */
  front: Candidate[];
  /** Timers that cannot serve it, and modes that cannot of timers that can. */
  refused: Refusal[];
};

function timersOf(candidates: readonly Candidate[]): Set<string> {
  return new Set(candidates.flatMap(({ setting }) => (setting.drive === 'busy' ? [] : [setting.timer])));
}

type Found = { considered: number; all: Candidate[] };
type Rated = { considered: number; ratings: Rating[] };

function rate(way: Way, wanted: TickGoal): Rated {
  const { considered, lanes } = lanesOf(way, wanted);
  const ratings = lanes.flatMap(({ n, lane, tops }) => tops.map((top) => rateTop(way, n, top, lane, wanted)));
  return { considered, ratings };
}

/** All that a rating depends on: ways of one shape, on whatever timer, share it. */
function shapeOf({ timer, mode, drive, outputs }: Way): string {
  const { prescaler } = timer;
  const divides =
    prescaler.kind === 'list' ? prescaler.options.map((one) => one.divide) : { ...prescaler, writes: 0 };
  const polarities = outputs.map((output) => output.polarity);
  const compare = { ...mode.compare, channels: 0 };
  const top = { ...topRange(mode), kind: mode.top.kind, writes: 0 };
  return JSON.stringify([
    timer.clock,
    timer.width,
    divides,
    mode.count,
    mode.base,
    mode.lag,
    top,
    compare,
    drive,
    polarities,
  ]);
}

function searchTimer(ways: readonly Way[], wanted: TickGoal, known: Map<string, Rated>): Searched[] {
  return ways.map((way) => {
    const shape = shapeOf(way);
    const rated = known.get(shape) ?? rate(way, wanted);
    known.set(shape, rated);
    const all = rated.ratings.map((rating) => candidateOf(way, rating));
    return { way, found: { considered: rated.considered, all } };
  });
}

function pinReason(part: Part, timer: Timer, pin: string): string {
  const own = [...new Set(timer.channels.flatMap((channel) => channel.outputs.map((output) => output.pin)))];
  const others = timerPins(part);
  return others.includes(pin)
    ? `${pin} is no output of ${timer.name}; its outputs are ${own.join(' and ')}.`
    : `${pin} is no timer output on this part; ${others.join(', ')} are.`;
}

/** The first of a list by an order, without sorting it. */
function firstBy<T>(list: readonly T[], order: (one: T, other: T) => number): T | undefined {
  return list.reduce<T | undefined>(
    (best, item) => (best === undefined || order(item, best) < 0 ? item : best),
    undefined,
  );
}

type Searched = { way: Way; found: Found };
type Refused = { refusal: Refusal; nearest: Candidate };

function refuseMode(ways: readonly Searched[], wanted: TickGoal): Refused | undefined {
  const order = closestFirst(wanted.goal);
  const closest = ways.flatMap(({ way, found }) => {
    const nearest = firstBy(found.all, order);
    return nearest ? [{ way, nearest }] : [];
  });
  const best = firstBy(
    closest,
    (one, other) => weight(one.way) - weight(other.way) || order(one.nearest, other.nearest),
  );
  if (!best) return undefined;
  const { timer, mode } = best.way;
  const reason = reasonOf(best.way, wanted, best.nearest);
  return { refusal: { timer: timer.id, mode: mode.id, reason }, nearest: best.nearest };
}

/** The modes of a timer that cannot serve; where none can, first the timer itself, with the reason of its nearest mode. */
function refusals(timer: Timer, searched: readonly Searched[], wanted: TickGoal): Refusal[] {
  const modes = timer.modes
    .map((mode) => searched.filter(({ way }) => way.mode === mode))
    .filter((ways) => ways.length > 0);
  const unable = modes.filter(
    (ways) => !ways.some(({ found }) => found.all.some((candidate) => candidate.meets)),
  );
  const refused = unable.flatMap((ways) => refuseMode(ways, wanted) ?? []);
  const each = refused.map(({ refusal }) => refusal);
  if (unable.length < modes.length) return each;
  const order = closestFirst(wanted.goal);
  const free = refused.filter(({ nearest }) => nearest.setting.drive === 'compare');
  const telling = firstBy(free.length > 0 ? free : refused, (one, other) =>
    order(one.nearest, other.nearest),
  );
  return telling ? [{ timer: timer.id, reason: telling.refusal.reason }, ...each] : each;
}

/** Outputs with a free duty come before toggled ones when a mode's reason is looked for. */
function weight(way: Way): number {
  return way.drive === 'compare' ? 0 : 1;
}

/** Which drives to search: those of the hardware alone, or the program's too. */
export type Drives = 'hardware' | 'all';

function refuseTicks(part: Part, able: ReadonlySet<string>): Refusal[] {
  return part.timers
    .filter((timer) => !able.has(timer.id))
    .map((timer) => ({ timer: timer.id, reason: `${timer.name} cannot interrupt at this rate.` }));
}

/**
 * Every setting of the part that can serve a goal on a pin (or on any), ranked, with the reasons of those that cannot.
 * Complete: for each output, mode and prescaler the tops nearest to the target are always evaluated, so nothing beats
 * the first candidate; tops farther away are thinned.
 */
export function fitGoal(part: Part, path: ClockPath, goal: Goal, pin?: string, drives: Drives = 'all'): Fit {
  const fit: Fit = { considered: 0, candidates: [], near: [], front: [], refused: [] };
  const ways = goal.pin ? waysOf(part, pin) : [];
  const known = new Map<string, Rated>();
  for (const timer of part.timers) {
    const own = ways.filter((way) => way.timer === timer);
    if (own.length === 0) {
      if (goal.pin && pin !== undefined)
        fit.refused.push({ timer: timer.id, reason: pinReason(part, timer, pin) });
      continue;
    }
    const wanted = tickGoal(
      goal,
      clockOf(path, timer.clock).mul(scaleOf(timer.prescaler)),
      scaleOf(timer.prescaler),
    );
    const searched = searchTimer(own, wanted, known);
    for (const { found } of searched) {
      fit.considered += found.considered;
      for (const candidate of found.all) (candidate.meets ? fit.candidates : fit.near).push(candidate);
    }
    fit.refused.push(...refusals(timer, searched, wanted));
  }
  if (drives === 'all') {
    const soft = softFit(part, path, goal, pin);
    fit.considered += soft.length;
    for (const candidate of soft) (candidate.meets ? fit.candidates : fit.near).push(candidate);
    if (!goal.pin) fit.refused.push(...refuseTicks(part, timersOf(fit.candidates)));
  }
  fit.candidates.sort(closestFirst(goal));
  fit.front = frontOf(fit.candidates, goal);
  return fit;
}
