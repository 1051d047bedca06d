import { clockOf, type ClockPath } from '../clock/path.ts';
import { timerPins } from '../part/find.ts';
import type { Part, Timer } from '../part/schema.ts';
import type { Goal } from '../target/goal.ts';
import { scaleOf } from '../part/division.ts';
import { topRange } from '../timer/setting.ts';
import { candidateOf, rateTop, tickGoal, type Candidate, type Rating, type TickGoal } from './candidate.ts';
import { inputFit, refuseInputs } from './inputs.ts';
import { lanesOf } from './lanes.ts';
import { closestFirst, frontOf, type Order } from './rank.ts';
import { reasonOf, type Refusal } from './refuse.ts';
import { softFit } from './soft.ts';
import { steadyTimers } from './steady.ts';
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

/** Ways that differ in nothing a rating depends on, with all that is worth rating for them. */
type Group = { ways: Way[]; wanted: TickGoal; considered: number; ratings: Rating[]; nearest?: Rating };

function rate(way: Way, wanted: TickGoal, order: Order): Group {
  const { considered, lanes } = lanesOf(way, wanted);
  const ratings = lanes.flatMap(({ n, lane, tops }) => tops.map((top) => rateTop(way, n, top, lane, wanted)));
  const nearest = firstBy(ratings, order);
  const kept = thinned(ratings, order, wanted.goal);
  return { ways: [], wanted, considered, ratings: kept, ...(nearest ? { nearest } : {}) };
}

/** So many of the best ratings of a shape stay, and about as many of the others. */
const KEPT = 24;

/** The best of a list by an order, and of all others every so manieth; a short list stays whole. */
function sample(ratings: Rating[], order: Order): Rating[] {
  if (ratings.length <= 2 * KEPT) return ratings;
  ratings.sort(order);
  const stride = Math.ceil((ratings.length - KEPT) / KEPT);
  return ratings.filter((_, at) => at < KEPT || (at - KEPT) % stride === 0);
}

/**
 * Ratings thinned to what is worth a place: of those that meet a sample, all that nothing beats, and all that are exact;
 * of the others a sample.
 */
function thinned(ratings: readonly Rating[], order: Order, goal: Goal): Rating[] {
  if (ratings.length <= 2 * KEPT) return [...ratings];
  const meeting = ratings.filter((rating) => rating.meets);
  const others = ratings.filter((rating) => !rating.meets);
  const exact = goal.frequency.kind === 'near' ? meeting.filter(({ errorPpm }) => errorPpm === 0) : [];
  const kept = new Set([...sample(meeting, order), ...frontOf(meeting, goal), ...exact]);
  return [...kept, ...sample(others, order)];
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

/** All ways of the part, grouped by shape, each group rated once. */
function groupsOf(part: Part, path: ClockPath, goal: Goal, ways: readonly Way[], order: Order): Group[] {
  const groups = new Map<string, Group>();
  const goals = new Map<Timer, TickGoal>();
  for (const way of ways) {
    const { timer } = way;
    const scale = scaleOf(timer.prescaler);
    const wanted = goals.get(timer) ?? tickGoal(goal, clockOf(path, timer.clock).mul(scale), scale);
    goals.set(timer, wanted);
    const shape = shapeOf(way);
    const group = groups.get(shape) ?? rate(way, wanted, order);
    groups.set(shape, group);
    group.ways.push(way);
  }
  return [...groups.values()];
}

/** Those that meet the goal, best first, each on every way of its group; the front of them; and all the others. */
function spread(
  groups: readonly Group[],
  order: Order,
  goal: Goal,
): { meeting: Candidate[]; near: Candidate[]; front: Candidate[] } {
  const waysOfRating = new Map<Rating, readonly Way[]>();
  const near: Candidate[] = [];
  for (const { ways, ratings } of groups) {
    for (const rating of ratings) {
      if (rating.meets) waysOfRating.set(rating, ways);
      else for (const way of ways) near.push(candidateOf(way, rating));
    }
  }
  const ranked = [...waysOfRating.keys()].sort(order);
  const unbeaten = new Set(frontOf(ranked, goal));
  const meeting: Candidate[] = [];
  const front: Candidate[] = [];
  for (const rating of ranked) {
    const candidates = (waysOfRating.get(rating) ?? []).map((way) => candidateOf(way, rating));
    const [first] = candidates;
    if (first && unbeaten.has(rating)) front.push(first);
    meeting.push(...candidates);
  }
  return { meeting, near, front: front.sort((one, other) => one.steps - other.steps) };
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

/** A way with the best of its ratings, and whether any of them meets the goal. */
type Searched = { way: Way; wanted: TickGoal; nearest: Rating; able: boolean };
type Refused = { refusal: Refusal; nearest: Rating; drive: Way['drive'] };

function refuseMode(ways: readonly Searched[], order: Order): Refused | undefined {
  const best = firstBy(
    ways,
    (one, other) => weight(one.way) - weight(other.way) || order(one.nearest, other.nearest),
  );
  if (!best) return undefined;
  const { timer, mode, drive } = best.way;
  const reason = reasonOf(best.way, best.wanted, candidateOf(best.way, best.nearest));
  return { refusal: { timer: timer.id, mode: mode.id, reason }, nearest: best.nearest, drive };
}

/** The modes of a timer that cannot serve; where none can, first the timer itself, with the reason of its nearest mode. */
function refusals(timer: Timer, searched: readonly Searched[], order: Order): Refusal[] {
  const modes = timer.modes
    .map((mode) => searched.filter(({ way }) => way.mode === mode))
    .filter((ways) => ways.length > 0);
  const unable = modes.filter((ways) => !ways.some(({ able }) => able));
  const refused = unable.flatMap((ways) => refuseMode(ways, order) ?? []);
  const each = refused.map(({ refusal }) => refusal);
  if (unable.length < modes.length) return each;
  const free = refused.filter(({ drive }) => drive === 'compare');
  const telling = firstBy(free.length > 0 ? free : refused, (one, other) =>
    order(one.nearest, other.nearest),
  );
  return telling ? [{ timer: timer.id, reason: telling.refusal.reason }, ...each] : each;
}

function refuseAll(part: Part, groups: readonly Group[], order: Order, pin: string | undefined): Refusal[] {
  const searched = groups.flatMap(({ ways, wanted, ratings, nearest }) => {
    const able = ratings.some((rating) => rating.meets);
    return nearest ? ways.map((way): Searched => ({ way, wanted, nearest, able })) : [];
  });
  return part.timers.flatMap((timer) => {
    const own = searched.filter(({ way }) => way.timer === timer);
    if (own.length > 0) return refusals(timer, own, order);
    return pin === undefined ? [] : [{ timer: timer.id, reason: pinReason(part, timer, pin) }];
  });
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

/** Every way to measure an input. */
function measureFit(
  part: Part,
  path: ClockPath,
  goal: Goal,
  pin: string | undefined,
  taken: ReadonlySet<string> = new Set(),
): Fit {
  const { input } = goal;
  const all = input ? inputFit(part, path, input, pin, taken) : [];
  const candidates = all.filter((one) => one.meets).sort(closestFirst(goal));
  return {
    considered: all.length,
    candidates,
    near: all.filter((one) => !one.meets),
    front: frontOf(candidates, goal),
    refused: input ? refuseInputs(part, input, all, pin) : [],
  };
}

/**
 * Every setting of the part that can serve a goal on a pin (or on any), ranked, with the reasons of those that cannot.
 * Complete: for each output, mode and prescaler the tops nearest to the target are always evaluated, so nothing beats
 * the first candidate; tops farther away are thinned. Where any pin will do, each channel stands with one that is not
 * taken.
 */
export function fitGoal(
  whole: Part,
  path: ClockPath,
  goal: Goal,
  pin?: string,
  drives: Drives = 'all',
  taken?: ReadonlySet<string>,
): Fit {
  const { timers, refused: loose } = steadyTimers(whole, path, goal);
  const part = timers.length < whole.timers.length ? { ...whole, timers } : whole;
  if (goal.input) return measureFit(part, path, goal, pin, taken);
  const order = closestFirst(goal);
  const groups = groupsOf(
    part,
    path,
    goal,
    goal.pin ? waysOf(part, pin, taken, goal.frequency.kind === 'near') : [],
    order,
  );
  const { meeting, near, front } = spread(groups, order, goal);
  const considered = groups.reduce((sum, group) => sum + group.considered * group.ways.length, 0);
  const soft = drives === 'all' ? softFit(part, path, goal, pin, taken) : [];
  const able = soft.filter((candidate) => candidate.meets).sort(order);
  const candidates = [...meeting, ...able];
  return {
    considered: considered + soft.length,
    candidates,
    near: [...near, ...soft.filter((candidate) => !candidate.meets)],
    front: meeting.length > 0 ? front : frontOf(candidates, goal),
    refused: [
      ...loose,
      ...(goal.pin ? refuseAll(part, groups, order, pin) : refuseTicks(part, timersOf(able))),
    ],
  };
}
