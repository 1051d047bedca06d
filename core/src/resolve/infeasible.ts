import { assign, type AssignRules } from '../assign/assign.ts';
import { optionsOf, type Option, type Request } from '../assign/request.ts';
import { counterSolver, type CounterSolver } from '../assign/counter/counter-solver.ts';
import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { printHz } from '../quantity/print.ts';
import type { Requirement } from '../signal/requirement.ts';
import { rootOf } from '../part/find.ts';

/** What keeps signals from going: timers that are reserved, and the signals that stay or must have their pin. */
type Rules = { reserved: string[]; locked: string[]; pins: string[] };

/**
 * Why signals do not fit together: a minimal set of them and of the rules that hold for them (without any one of either, the
 * others go), and a sentence with the numbers.
 */
export type Infeasibility = { signals: string[]; rules: Rules; reason: string };

type Core = { requests: Request[]; reserved: string[] };

/** So many conflicts of a plan are named at most. */
const MAX = 8;

/** A problem of which nothing can be left out: first signals, then rules are dropped while it still does not fit. */
function minimalCore(
  part: Part,
  path: ClockPath,
  requests: readonly Request[],
  { reserved = new Set(), mayContinue }: AssignRules,
): Core {
  let min: Core = { requests: [...requests], reserved: [...reserved] };
  const keepIfStuck = (next: Core): void => {
    const rules = {
      reserved: new Set(next.reserved),
      anyFeasible: true,
      ...(mayContinue ? { mayContinue } : {}),
    };
    const found = assign(part, path, next.requests, rules);
    if (!found.feasible && found.optimal) min = next;
  };
  for (const one of requests)
    keepIfStuck({ ...min, requests: min.requests.filter((other) => other !== one) });
  for (const id of reserved) keepIfStuck({ ...min, reserved: min.reserved.filter((other) => other !== id) });
  for (const key of ['locked', 'pin'] as const) {
    for (const { id } of min.requests) {
      const own = min.requests.find((one) => one.id === id);
      if (own?.[key] === undefined || (key === 'pin' && own.locked)) continue;
      const freed = { ...own };
      delete freed[key];
      keepIfStuck({ ...min, requests: min.requests.map((one) => (one === own ? freed : one)) });
    }
  }
  return min;
}

/** What a signal asks of a timer's frequency, in words: "0.5 Hz", "at least 200 Hz", "0.5 Hz … 120 Hz". */
function asks({ frequency, input, span }: Requirement): string {
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

function placedName({ name, pin, locked }: Request): string {
  return pin === undefined || locked ? name : `${name} on ${pin}`;
}

/** Whether some timer could serve all of the signals, if it had channels enough. */
function oneCounter(options: readonly Option[][], share: CounterSolver): boolean {
  return (options[0] ?? []).some((first) => {
    const uses = options.flatMap((list, at) => {
      const option = list.find((one) => one.timer === first.timer && one.mode === first.mode);
      return option ? [{ at, option }] : [];
    });
    return uses.length === options.length && share(first, uses) !== undefined;
  });
}

/** What stands between the signals of a minimal conflict, without its rules. */
function coreReason(part: Part, path: ClockPath, { requests: set, reserved }: Core): string {
  const nameOf = (id: string): string => part.timers.find((timer) => timer.id === id)?.name ?? id;
  const [first] = set;
  if (set.length === 1 && first) {
    if (first.locked) return `${first.name} does not pass its own checks`;
    if (reserved.length === 0)
      return `Nothing of this part can make ${first.name} (${asks(first.requirement)})${first.pin === undefined ? '' : ` on ${first.pin}`} within its tolerance`;
    const one = reserved.length === 1;
    return `${placedName(first)} could only be made by ${listed(reserved.map(nameOf), 'or')}, which ${one ? 'is' : 'are'} reserved`;
  }
  const pins = set.map(({ pin, locked }) => locked?.pin ?? pin);
  const same = pins.find((pin, at) => pin !== undefined && pins.indexOf(pin) !== at);
  if (same !== undefined) {
    const both = set.filter((_, at) => pins[at] === same).map(({ name }) => name);
    return `${listed(both)} both want the pin ${same}; a pin can do one thing`;
  }
  const share = counterSolver(part, path, set, { hit: false });
  const options = set.map((request, at) =>
    optionsOf(part, path, request, new Set(reserved)).filter((option) => share(option, [{ at, option }])),
  );
  const roots = [...new Set(options.flatMap((list) => list.map(({ timer }) => rootOf(timer))))];
  const names = listed(set.map(placedName));
  const wishes = set.map(({ name, requirement }) => `${asks(requirement)} for ${name}`);
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

function reasonFor(part: Part, path: ClockPath, core: Core): string {
  const { requests, reserved } = core;
  const nameOf = (id: string): string => part.timers.find((timer) => timer.id === id)?.name ?? id;
  const kept =
    reserved.length > 0 && requests.length > 1
      ? [`${listed(reserved.map(nameOf))} ${reserved.length > 1 ? 'are' : 'is'} reserved`]
      : [];
  const lockedNames = requests.filter(({ locked }) => locked).map(({ name }) => name);
  const locked =
    lockedNames.length > 0
      ? [`${listed(lockedNames)} ${lockedNames.length > 1 ? 'stay where they are' : 'stays where it is'}`]
      : [];
  const rules = [...kept, ...locked];
  return `${coreReason(part, path, core)}${rules.length > 0 ? `, while ${listed(rules)}` : ''}.`;
}

/** All conflicts of requests that do not fit, each with signals of its own, in the order of the plan: what is left goes. */
export function infeasibilitiesOf(
  part: Part,
  path: ClockPath,
  requests: readonly Request[],
  rules: AssignRules,
): Infeasibility[] {
  const conflicts: Infeasibility[] = [];
  let left = [...requests];
  while (left.length > 0 && conflicts.length < MAX) {
    const found = assign(part, path, left, { ...rules, anyFeasible: true });
    if (found.feasible || !found.optimal) break;
    const min = minimalCore(part, path, left, rules);
    const ids = min.requests.map(({ id }) => id);
    conflicts.push({
      signals: ids,
      rules: {
        reserved: min.reserved,
        locked: min.requests.filter(({ locked }) => locked).map(({ id }) => id),
        pins: min.requests.filter(({ pin, locked }) => pin !== undefined && !locked).map(({ id }) => id),
      },
      reason: reasonFor(part, path, min),
    });
    left = left.filter(({ id }) => !ids.includes(id));
  }
  const place = ({ signals: [first] }: Infeasibility): number => requests.findIndex(({ id }) => id === first);
  return conflicts.sort((one, other) => place(one) - place(other));
}
