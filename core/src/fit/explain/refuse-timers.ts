import { timerPins } from '../../part/find.ts';
import type { Part, Timer } from '../../part/types.ts';
import type { Requirement } from '../../signal/requirement.ts';
import { togglesTwice } from '../../timer/count.ts';
import { driveById } from '../../timer/drives/index.ts';
import { candidateOf, type Rating, type TickRequirement } from '../candidate.ts';
import { modeSuits, type Route } from '../hardware/routes.ts';
import type { Order } from '../rank.ts';
import { reasonOf, type Refusal } from './refusal.ts';

/** Ways that differ in nothing a rating depends on, with all their candidates. */
export type RouteGroup = {
  routes: Route[];
  wanted: TickRequirement;
  considered: number;
  ratings: Rating[];
  nearest?: Rating;
};

/** Names as in a sentence: "PD5, PD6 and PB1". */
function listed(names: readonly string[]): string {
  return [names.slice(0, -1).join(', '), names.at(-1)].filter(Boolean).join(' and ');
}

function pinReason(part: Part, timer: Timer, pin: string): string {
  const own = [...new Set(timer.channels.flatMap((channel) => channel.outputs.map((output) => output.pin)))];
  const others = timerPins(part);
  if (own.length === 0) return `${pin} is not an output of ${timer.name}, which has none.`;
  return others.includes(pin)
    ? `${pin} is not an output of ${timer.name}; its outputs are ${listed(own)}.`
    : `${pin} is not a timer output on this part; ${others.join(', ')} are.`;
}

/** The first of a list by an order, without sorting it. */
export function firstBy<T>(list: readonly T[], order: (one: T, other: T) => number): T | undefined {
  return list.reduce<T | undefined>(
    (best, item) => (best === undefined || order(item, best) < 0 ? item : best),
    undefined,
  );
}

/** A way with the best of its ratings, and whether any of them meets the requirement. */
type Problem = { route: Route; wanted: TickRequirement; nearest: Rating; able: boolean };
type Refused = { refusal: Refusal; nearest: Rating; drive: Route['drive'] };

function refuseMode(routes: readonly Problem[], order: Order): Refused | undefined {
  const best = firstBy(
    routes,
    (one, other) => weight(one.route) - weight(other.route) || order(one.nearest, other.nearest),
  );
  if (!best) return undefined;
  const { timer, mode, drive } = best.route;
  const reason = reasonOf(best.route, best.wanted, candidateOf(best.route, best.nearest));
  return { refusal: { timer: timer.id, mode: mode.id, reason }, nearest: best.nearest, drive };
}

/** The modes of a timer that cannot serve; where none can, first the timer itself, with the reason of its nearest mode. */
function refusals(timer: Timer, problem: readonly Problem[], order: Order): Refusal[] {
  const modes = timer.modes
    .map((mode) => problem.filter(({ route }) => route.mode === mode))
    .filter((routes) => routes.length > 0);
  const unable = modes.filter((routes) => !routes.some(({ able }) => able));
  const refused = unable.flatMap((routes) => refuseMode(routes, order) ?? []);
  const each = refused.map(({ refusal }) => refusal);
  if (unable.length < modes.length) return each;
  const free = refused.filter((one) => weight(one) === 0);
  const telling = firstBy(free.length > 0 ? free : refused, (one, other) =>
    order(one.nearest, other.nearest),
  );
  return telling ? [{ timer: timer.id, reason: telling.refusal.reason }, ...each] : each;
}

/** Why the PWM of a timer that could come out on the pin is left out altogether: it cannot move, and the signal does. */
function stillReason(timer: Timer, requirement: Requirement, pin: string | undefined): string | undefined {
  const left = timer.modes.find((mode) => togglesTwice(mode) && !modeSuits(mode, requirement));
  const able = timer.channels.some(
    ({ id, outputs }) =>
      left?.pwm?.channels.includes(id) &&
      outputs.some((one) => one.drive === 'pwm' && (pin === undefined || one.pin === pin)),
  );
  return able ? 'Its PWM stays as it is while the counter runs, and this signal moves.' : undefined;
}

/** Timers that cannot serve, and modes that cannot of timers that can, each with its reason. */
export function refuseAll(
  part: Part,
  groups: readonly RouteGroup[],
  order: Order,
  requirement: Requirement,
  pin: string | undefined,
): Refusal[] {
  const problem = groups.flatMap(({ routes, wanted, ratings, nearest }) => {
    const able = ratings.some((rating) => rating.meets);
    return nearest ? routes.map((route): Problem => ({ route, wanted, nearest, able })) : [];
  });
  return part.timers.flatMap((timer) => {
    const own = problem.filter(({ route }) => route.timer === timer);
    const still = stillReason(timer, requirement, pin);
    const each = refusals(timer, own, order);
    if (still !== undefined && !own.some(({ able }) => able))
      return [{ timer: timer.id, reason: still }, ...each.filter(({ mode }) => mode !== undefined)];
    if (own.length > 0) return each;
    return pin === undefined ? [] : [{ timer: timer.id, reason: pinReason(part, timer, pin) }];
  });
}

/** Outputs with a free duty come before toggled ones when a mode's reason is looked for. */
function weight({ drive }: { drive: Route['drive'] }): number {
  return driveById(drive).duty === 'match' ? 0 : 1;
}

/** Timers that cannot make a tick. */
export function refuseTicks(part: Part, able: ReadonlySet<string>): Refusal[] {
  return part.timers
    .filter((timer) => !able.has(timer.id))
    .map((timer) => ({ timer: timer.id, reason: `${timer.name} cannot interrupt at this rate.` }));
}
