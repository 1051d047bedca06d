import { clockAt, clockOf, type ClockPath } from '../clock/path.ts';
import type { Part, Timer } from '../part/types.ts';
import { heldOn } from '../signal/drift.ts';
import type { Requirement } from '../signal/requirement.ts';
import { scaleOf } from '../part/division.ts';
import { feeding } from '../timer/run.ts';
import { hasTimer, topRange } from '../timer/setting.ts';
import {
  candidateOf,
  rateTop,
  tickRequirement,
  type Candidate,
  type Rating,
  type TickRequirement,
} from './candidate.ts';
import { inputFit, refuseInputs } from './inputs/input-fit.ts';
import { topsFor, type DivisionTops } from './hardware/divisions.ts';
import { rareTops } from './hardware/rare-tops.ts';
import { closestFirst, frontOf, type Order } from './rank.ts';
import type { Refusal } from './explain/refusal.ts';
import { firstBy, refuseAll, refuseTicks, type RouteGroup } from './explain/refuse-timers.ts';
import { softwareFit } from './software/software-fit.ts';
import { steadyTimers } from './explain/oscillator.ts';
import { routesOf, type Route } from './hardware/routes.ts';

/** All settings that can serve one signal. */
export type Fit = {
  /** How many combinations of output, prescaler and top lie within reach of the target; thinned ones count too. */
  considered: number;
  /** Those that meet the target, best first. */
  candidates: Candidate[];
  /** Some that do not, in no order; the nearest of every way is among them. */
  near: Candidate[];
  /** Of the candidates, the Pareto-optimal ones, from few steps to many. */
  front: Candidate[];
  /** Timers that cannot serve it, and modes that cannot of timers that can. */
  refused: Refusal[];
};

function timersOf(candidates: readonly Candidate[]): Set<string> {
  return new Set(candidates.flatMap(({ setting }) => (hasTimer(setting) ? [setting.timer] : [])));
}

function rate(route: Route, wanted: TickRequirement, order: Order): RouteGroup {
  const { considered, seriesList } = topsFor(route, wanted);
  const known = new Map<number, Set<number>>();
  /** Whether a division comes with a top for the first time: lists of one division may overlap. */
  const isNew = (n: number, top: number): boolean => {
    const tops = known.get(n) ?? new Set<number>();
    known.set(n, tops);
    return !tops.has(top) && tops.add(top).size > 0;
  };
  const rated = (list: readonly DivisionTops[]): Rating[] =>
    list.flatMap(({ n, series, tops }) =>
      tops.filter((top) => isNew(n, top)).map((top) => rateTop(route, n, top, series, wanted)),
    );
  const first = rated(seriesList);
  const ratings = first.some(({ meets }) => meets) ? first : [...first, ...rated(rareTops(route, wanted))];
  const nearest = firstBy(ratings, order);
  const kept = thinned(ratings, order, wanted.requirement);
  return { routes: [], wanted, considered, ratings: kept, ...(nearest ? { nearest } : {}) };
}

/** So many of the best ratings of a shape stay, and about as many of the others. */
const KEPT = 24;

/** The best of a list by an order, and a regular selection of all others; a short list stays whole. */
function sample(ratings: Rating[], order: Order): Rating[] {
  if (ratings.length <= 2 * KEPT) return ratings;
  ratings.sort(order);
  const stride = Math.ceil((ratings.length - KEPT) / KEPT);
  return ratings.filter((_, at) => at < KEPT || (at - KEPT) % stride === 0);
}

/**
 * Ratings thinned to those worth listing: of those that meet a sample, all Pareto-optimal ones, and all that are exact;
 * of the others a sample.
 */
function thinned(ratings: readonly Rating[], order: Order, requirement: Requirement): Rating[] {
  if (ratings.length <= 2 * KEPT) return [...ratings];
  const meeting = ratings.filter((rating) => rating.meets);
  const others = ratings.filter((rating) => !rating.meets);
  const exact = requirement.frequency.kind === 'near' ? meeting.filter(({ errorPpm }) => errorPpm === 0) : [];
  const kept = new Set([...sample(meeting, order), ...frontOf(meeting, requirement), ...exact]);
  return [...kept, ...sample(others, order)];
}

/** All that a rating depends on: ways of one shape, on whatever timer, share it. */
function shapeOf({ timer, mode, drive, outputs }: Route): string {
  const { prescaler } = timer;
  const divides =
    prescaler.kind === 'list' ? prescaler.options.map((one) => one.divide) : { ...prescaler, writes: 0 };
  const polarities = outputs.map((output) => output.polarity);
  const compare = { ...mode.pwm, channels: 0 };
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
function groupsOf(
  part: Part,
  path: ClockPath,
  requirement: Requirement,
  routes: readonly Route[],
  order: Order,
): RouteGroup[] {
  const groups = new Map<string, RouteGroup>();
  const requirements = new Map<Timer, TickRequirement>();
  for (const route of routes) {
    const { timer } = route;
    const scale = scaleOf(timer.prescaler);
    const { hz, tolerancePpm } = clockAt(path, timer.clock);
    const known = requirements.get(timer);
    // Settings are judged by what the oscillator leaves of the target; reasons name the target itself.
    const held = (): TickRequirement =>
      tickRequirement(heldOn(requirement, tolerancePpm), hz.mul(scale), scale);
    const wanted = known ?? { ...held(), requirement };
    requirements.set(timer, wanted);
    const shape = shapeOf(route);
    const group = groups.get(shape) ?? rate(route, wanted, order);
    groups.set(shape, group);
    group.routes.push(route);
  }
  return [...groups.values()];
}

/** Those that meet the requirement, best first, each on every way of its group; the front of them; and all the others. */
function spread(
  groups: readonly RouteGroup[],
  order: Order,
  requirement: Requirement,
): { meeting: Candidate[]; near: Candidate[]; front: Candidate[] } {
  const routesOfRating = new Map<Rating, readonly Route[]>();
  const near: Candidate[] = [];
  for (const { routes, ratings } of groups) {
    for (const rating of ratings) {
      if (rating.meets) routesOfRating.set(rating, routes);
      else for (const route of routes) near.push(candidateOf(route, rating));
    }
  }
  const ranked = [...routesOfRating.keys()].sort(order);
  const unbeaten = new Set(frontOf(ranked, requirement));
  const meeting: Candidate[] = [];
  const front: Candidate[] = [];
  for (const rating of ranked) {
    const candidates = (routesOfRating.get(rating) ?? []).map((route) => candidateOf(route, rating));
    const [first] = candidates;
    if (first && unbeaten.has(rating)) front.push(first);
    meeting.push(...candidates);
  }
  return { meeting, near, front: front.sort((one, other) => one.steps - other.steps) };
}

/** Which drives to search: those of the hardware alone, or the program's too. */
export type Drives = 'hardware' | 'all';

/** Every way to measure an input. */
function measureFit(
  part: Part,
  path: ClockPath,
  requirement: Requirement,
  pin: string | undefined,
  taken: ReadonlySet<string> = new Set(),
): Fit {
  const { input } = requirement;
  const all = input ? inputFit(part, path, input, pin, taken) : [];
  const candidates = all.filter((one) => one.meets).sort(closestFirst(requirement));
  return {
    considered: all.length,
    candidates,
    near: all.filter((one) => !one.meets),
    front: frontOf(candidates, requirement),
    refused: input ? refuseInputs(part, input, all, pin) : [],
  };
}

/** Why the program cannot hand over each bit in time, where the width changes from period to period. */
export function unfedReason(
  part: Part,
  path: ClockPath,
  { alsoWidths, frequency }: Requirement,
): string | undefined {
  if (!alsoWidths || alsoWidths.length === 0) return undefined;
  const cpuHz = clockOf(path, part.cpu.clock).valueOf();
  const { has, needs } = feeding(part.cpu, cpuHz, frequency.low.valueOf());
  return has >= needs
    ? undefined
    : `The program has ${has} cycles for each bit and needs ${needs} to hand it to a timer.`;
}

/**
 * Every setting of the part that can serve a requirement on a pin (or on any), ranked, with the reasons of those that cannot.
 * Complete: for each output, mode and prescaler the tops nearest to the target are always evaluated, so that none is better than
 * the first candidate; tops farther away are thinned. Where any pin will do, each channel stands with one that is not
 * taken.
 */
export function fitRequirement(
  whole: Part,
  path: ClockPath,
  requirement: Requirement,
  pin?: string,
  drives: Drives = 'all',
  taken?: ReadonlySet<string>,
): Fit {
  const { timers, refused: loose } = steadyTimers(whole, path, requirement);
  const part = timers.length < whole.timers.length ? { ...whole, timers } : whole;
  if (requirement.input) return measureFit(part, path, requirement, pin, taken);
  const unfed = unfedReason(part, path, requirement);
  const order = closestFirst(requirement);
  const groups = groupsOf(
    part,
    path,
    requirement,
    requirement.pin && unfed === undefined ? routesOf(part, requirement, pin, taken) : [],
    order,
  );
  const { meeting, near, front } = spread(groups, order, requirement);
  const considered = groups.reduce((sum, group) => sum + group.considered * group.routes.length, 0);
  const soft = drives === 'all' ? softwareFit(part, path, requirement, pin, taken) : [];
  const able = soft.filter((candidate) => candidate.meets).sort(order);
  const candidates = requirement.alsoWidths ? [...able, ...meeting] : [...meeting, ...able];
  return {
    considered: considered + soft.length,
    candidates,
    near: [...near, ...soft.filter((candidate) => !candidate.meets)],
    front: meeting.length > 0 ? front : frontOf(candidates, requirement),
    refused: [
      ...loose,
      ...(unfed !== undefined
        ? part.timers.map(({ id }) => ({ timer: id, reason: unfed }))
        : requirement.pin
          ? refuseAll(part, groups, order, requirement, pin)
          : refuseTicks(part, timersOf(able))),
    ],
  };
}
