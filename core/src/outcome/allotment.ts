import { allot, type AllotRules } from '../allot/allot.ts';
import { optionsOf, rootOf, type Request } from '../allot/request.ts';
import type { Worth } from '../allot/worth.ts';
import { ClockError, clockPath, type ClockPath } from '../clock/path.ts';
import type { Plan, PlanSignal } from '../format/plan.ts';
import type { Part } from '../part/schema.ts';
import { printHz } from '../quantity/print.ts';
import { goalOf, type Goal } from '../target/goal.ts';
import type { Setting } from '../timer/setting.ts';
import { meansOf } from '../timer/words.ts';

/** Why signals cannot go together: the least set of them that cannot, and a sentence with the numbers. */
export type AllotConflict = { signals: string[]; reason: string };

/** A plan with every signal placed, or why that does not go. */
export type PlanAllotment = {
  feasible: boolean;
  optimal: boolean;
  settings: { signal: string; setting: Setting }[];
  worth?: Worth;
  nodes: number;
  conflicts: AllotConflict[];
};

/** A signal of a plan as allotment sees it. */
export function requestOf(signal: PlanSignal): Request {
  return {
    id: signal.id,
    name: signal.name,
    goal: goalOf(signal),
    ...(signal.pin === undefined ? {} : { pin: signal.pin }),
    ...(signal.stays && signal.setting ? { stays: signal.setting } : {}),
    ...(signal.setting && signal.setting.drive !== 'busy' ? { present: signal.setting } : {}),
    ...(signal.complement ? { opposite: signal.complement } : {}),
  };
}

function reservedOf(plan: Plan): Set<string> {
  return new Set(plan.reserved ?? []);
}

/** The least set of signals that cannot be placed together: one after the other is left out while it still does not go. */
function leastConflict(
  part: Part,
  path: ClockPath,
  requests: readonly Request[],
  rules: AllotRules,
): Request[] {
  let set = [...requests];
  for (const one of requests) {
    const without = set.filter((other) => other !== one);
    const found = allot(part, path, without, { ...rules, anyWill: true });
    if (!found.feasible && found.optimal) set = without;
  }
  return set;
}

/** What a signal asks of a timer's frequency, in words: "0.5 Hz", "at least 200 Hz", "0.5 Hz … 120 Hz". */
function asks({ frequency, input, span }: Goal): string {
  if (input) return `an input from ${printHz(input.slowest.valueOf(), 4)}`;
  if (span?.of === 'frequency')
    return `${printHz(span.low.valueOf(), 4)} … ${printHz(span.high.valueOf(), 4)}`;
  return frequency.kind === 'near'
    ? printHz(frequency.ideal.valueOf())
    : `at least ${printHz(frequency.low.valueOf())}`;
}

function listed(words: readonly string[]): string {
  const last = words[words.length - 1] ?? '';
  return words.length < 2 ? last : `${words.slice(0, -1).join(', ')} and ${last}`;
}

/** Why a set of signals cannot go together, from the timers, channels and pins they could have. */
function reasonFor(
  part: Part,
  path: ClockPath,
  set: readonly Request[],
  reserved: ReadonlySet<string>,
): string {
  const options = set.map((request) => optionsOf(part, path, request, reserved));
  const [first] = set;
  if (set.length === 1 && first) {
    const free = optionsOf(part, path, first, new Set());
    if ((options[0] ?? []).length === 0 && free.length > 0) {
      return `${first.name} could only be made by ${namesOf(part, free)}, which is reserved.`;
    }
    const where = first.pin === undefined ? '' : ` on ${first.pin}`;
    return `Nothing of this part can make ${first.name} (${asks(first.goal)})${where} within its tolerance.`;
  }
  const pins = set.map(({ pin, stays }) => stays?.pin ?? pin);
  const same = pins.find((pin, at) => pin !== undefined && pins.indexOf(pin) !== at);
  if (same !== undefined) {
    const both = set.filter((_, at) => pins[at] === same).map(({ name }) => name);
    return `${listed(both)} both want the pin ${same}; a pin can do one thing.`;
  }
  const roots = new Set(options.flatMap((list) => list.map(({ timer }) => rootOf(timer))));
  const timers = [...roots].map((root) => part.timers.find(({ id }) => id === root)?.name ?? root);
  const wishes = set.map(({ name, goal }) => `${asks(goal)} for ${name}`);
  const many = timers.length > 4 ? `the ${timers.length} timers of this part` : listed(timers);
  return timers.length === 1
    ? `${listed(set.map(({ name }) => name))} can only have ${many}, and one timer has one frequency: ${listed(wishes)}.`
    : `${listed(set.map(({ name }) => name))} do not fit on ${many} together: a timer has one frequency (${wishes.join(', ')}) and so many channels.`;
}

function namesOf(part: Part, options: readonly { timer: { id: string } }[]): string {
  const ids = new Set(options.map(({ timer }) => timer.id));
  return listed(part.timers.filter(({ id }) => ids.has(id)).map(({ name }) => name));
}

/** All conflicts of a plan that does not go, each with signals of its own: what is left goes. */
function conflictsOf(
  part: Part,
  path: ClockPath,
  requests: readonly Request[],
  rules: AllotRules,
): AllotConflict[] {
  const conflicts: AllotConflict[] = [];
  let left = [...requests];
  while (left.length > 0 && conflicts.length < 8) {
    const found = allot(part, path, left, { ...rules, anyWill: true });
    if (found.feasible || !found.optimal) break;
    const set = leastConflict(part, path, left, rules);
    const reason = reasonFor(part, path, set, rules.reserved ?? new Set());
    conflicts.push({ signals: set.map(({ id }) => id), reason });
    left = left.filter((one) => !set.includes(one));
  }
  return conflicts;
}

/** Places all signals of a plan on its part. `goOn` is asked whether the search may still go on. */
export function allotPlan(plan: Plan, part: Part, goOn?: () => boolean): PlanAllotment {
  const path = clockPath(part, plan.clock);
  const rules: AllotRules = { reserved: reservedOf(plan), ...(goOn ? { goOn } : {}) };
  const requests = plan.signals.map(requestOf);
  const { feasible, optimal, settings, worth, nodes } = allot(part, path, requests, rules);
  return {
    feasible,
    optimal,
    settings: settings.map((setting, at) => ({ signal: requests[at]?.id ?? '', setting })),
    ...(worth ? { worth } : {}),
    nodes,
    conflicts: feasible || !optimal ? [] : conflictsOf(part, path, requests, rules),
  };
}

/** Where a setting is, in words: "TIM3 CH3 on PB0", "TIM10 · tick". */
export function placeText(part: Part, setting: Setting): string {
  if (setting.drive === 'busy') return `a delay loop on ${setting.pin}`;
  const name = part.timers.find(({ id }) => id === setting.timer)?.name ?? setting.timer;
  const channel = 'channel' in setting ? ` ${setting.channel}` : '';
  const how = 'channel' in setting ? '' : ` (${meansOf(setting)})`;
  return `${name}${channel}${setting.pin === undefined ? '' : ` on ${setting.pin}`}${how}`;
}

/** A plan's clock under other settings; undefined where those are not legal. */
export function pathUnder(part: Part, clock: Plan['clock']): ClockPath | undefined {
  try {
    return clockPath(part, clock);
  } catch (error) {
    if (error instanceof ClockError) return undefined;
    throw error;
  }
}
