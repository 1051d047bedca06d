import { allot, type AllotRules } from '../allot/allot.ts';
import { optionsOf, rootOf, type Option, type Request } from '../allot/request.ts';
import { sharer, type Sharer } from '../allot/sharer.ts';
import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/schema.ts';
import { printHz } from '../quantity/print.ts';
import type { Goal } from '../target/goal.ts';

/** What keeps signals from going: timers that are reserved, and the signals that stay or must have their pin. */
export type Rules = { reserved: string[]; stays: string[]; pins: string[] };

/**
 * Why signals cannot go together: a least set of them and of the rules that hold for them (without any one of either, the
 * others go), and a sentence with the numbers.
 */
export type AllotConflict = { signals: string[]; rules: Rules; reason: string };

type Problem = { requests: Request[]; reserved: string[] };

/** So many conflicts of a plan are named at the most. */
const MOST = 8;

/** A problem of which nothing can be left out: first signals, then rules are dropped while it still does not go. */
function leastProblem(
  part: Part,
  path: ClockPath,
  requests: readonly Request[],
  { reserved = new Set(), goOn }: AllotRules,
): Problem {
  let least: Problem = { requests: [...requests], reserved: [...reserved] };
  const keepIfStuck = (next: Problem): void => {
    const rules = { reserved: new Set(next.reserved), anyWill: true, ...(goOn ? { goOn } : {}) };
    const found = allot(part, path, next.requests, rules);
    if (!found.feasible && found.optimal) least = next;
  };
  for (const one of requests)
    keepIfStuck({ ...least, requests: least.requests.filter((other) => other !== one) });
  for (const id of reserved)
    keepIfStuck({ ...least, reserved: least.reserved.filter((other) => other !== id) });
  for (const key of ['stays', 'pin'] as const) {
    for (const { id } of least.requests) {
      const own = least.requests.find((one) => one.id === id);
      if (own?.[key] === undefined || (key === 'pin' && own.stays)) continue;
      const freed = { ...own };
      delete freed[key];
      keepIfStuck({ ...least, requests: least.requests.map((one) => (one === own ? freed : one)) });
    }
  }
  return least;
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

function listed(words: readonly string[], last = 'and'): string {
  const end = words[words.length - 1] ?? '';
  return words.length < 2 ? end : `${words.slice(0, -1).join(', ')} ${last} ${end}`;
}

function placedName({ name, pin, stays }: Request): string {
  return pin === undefined || stays ? name : `${name} on ${pin}`;
}

/** Whether some timer could serve all of the signals, if it had channels enough. */
function oneCounter(options: readonly Option[][], share: Sharer): boolean {
  return (options[0] ?? []).some((first) => {
    const uses = options.flatMap((list, at) => {
      const option = list.find((one) => one.timer === first.timer && one.mode === first.mode);
      return option ? [{ at, option }] : [];
    });
    return uses.length === options.length && share(first, uses) !== undefined;
  });
}

/** What stands between the signals of a least problem, without its rules. */
function coreReason(part: Part, path: ClockPath, { requests: set, reserved }: Problem): string {
  const nameOf = (id: string): string => part.timers.find((timer) => timer.id === id)?.name ?? id;
  const [first] = set;
  if (set.length === 1 && first) {
    if (reserved.length === 0)
      return `Nothing of this part can make ${first.name} (${asks(first.goal)})${first.pin === undefined ? '' : ` on ${first.pin}`} within its tolerance`;
    const one = reserved.length === 1;
    return `${placedName(first)} could only be made by ${listed(reserved.map(nameOf), 'or')}, which ${one ? 'is' : 'are'} reserved`;
  }
  const pins = set.map(({ pin, stays }) => stays?.pin ?? pin);
  const same = pins.find((pin, at) => pin !== undefined && pins.indexOf(pin) !== at);
  if (same !== undefined) {
    const both = set.filter((_, at) => pins[at] === same).map(({ name }) => name);
    return `${listed(both)} both want the pin ${same}; a pin can do one thing`;
  }
  const share = sharer(part, path, set, { hit: false });
  const options = set.map((request, at) =>
    optionsOf(part, path, request, new Set(reserved)).filter((option) => share(option, [{ at, option }])),
  );
  const roots = [...new Set(options.flatMap((list) => list.map(({ timer }) => rootOf(timer))))];
  const names = listed(set.map(placedName));
  const wishes = set.map(({ name, goal }) => `${asks(goal)} for ${name}`);
  if (roots.length > 1) {
    const many = roots.length > 4 ? `the ${roots.length} timers of this part` : listed(roots.map(nameOf));
    return `${names} do not fit on ${many} together: a timer has one frequency (${wishes.join(', ')}) and so many channels`;
  }
  const only = `${names} can only have ${listed(roots.map(nameOf))}`;
  if (!oneCounter(options, share)) return `${only}, and one timer has one frequency: ${listed(wishes)}`;
  const channels = set.map(({ name }, at) => {
    const ids = (options[at] ?? []).flatMap(({ places }) => places.flatMap(({ channel }) => channel ?? []));
    return `${listed([...new Set(ids)], 'or')} for ${name}`;
  });
  return `${only}, and not each a channel of it: ${listed(channels)}`;
}

function reasonFor(part: Part, path: ClockPath, problem: Problem): string {
  const { requests, reserved } = problem;
  const nameOf = (id: string): string => part.timers.find((timer) => timer.id === id)?.name ?? id;
  const kept =
    reserved.length > 0 && requests.length > 1
      ? [`${listed(reserved.map(nameOf))} ${reserved.length > 1 ? 'are' : 'is'} reserved`]
      : [];
  const staying = requests.filter(({ stays }) => stays).map(({ name }) => name);
  const stays =
    staying.length > 0
      ? [`${listed(staying)} ${staying.length > 1 ? 'stay where they are' : 'stays where it is'}`]
      : [];
  const rules = [...kept, ...stays];
  return `${coreReason(part, path, problem)}${rules.length > 0 ? `, while ${listed(rules)}` : ''}.`;
}

/** All conflicts of requests that do not go, each with signals of its own, in the order of the plan: what is left goes. */
export function conflictsOf(
  part: Part,
  path: ClockPath,
  requests: readonly Request[],
  rules: AllotRules,
): AllotConflict[] {
  const conflicts: AllotConflict[] = [];
  let left = [...requests];
  while (left.length > 0 && conflicts.length < MOST) {
    const found = allot(part, path, left, { ...rules, anyWill: true });
    if (found.feasible || !found.optimal) break;
    const least = leastProblem(part, path, left, rules);
    const ids = least.requests.map(({ id }) => id);
    conflicts.push({
      signals: ids,
      rules: {
        reserved: least.reserved,
        stays: least.requests.filter(({ stays }) => stays).map(({ id }) => id),
        pins: least.requests.filter(({ pin, stays }) => pin !== undefined && !stays).map(({ id }) => id),
      },
      reason: reasonFor(part, path, least),
    });
    left = left.filter(({ id }) => !ids.includes(id));
  }
  const place = ({ signals: [first] }: AllotConflict): number => requests.findIndex(({ id }) => id === first);
  return conflicts.sort((one, other) => place(one) - place(other));
}
