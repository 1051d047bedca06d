import { clockOf } from '../../clock/path.ts';
import type { Setting } from '../../timer/setting.ts';
import { isHardware, type Bounds } from './bounds.ts';
import { columnsWithin, type GroupColumn } from './columns.ts';
import { bestCover, coverOf, type Cover } from './cover.ts';
import { partialSettings, partOf, objectiveOf, type PartialAssignment, type Problem } from './partial.ts';
import { placesFor, type Unplaced } from '../place/places.ts';
import { cpuSteps } from '../counter/quality.ts';
import type { Option, Request } from '../request.ts';
import { compareObjectives, type Objective } from '../objective.ts';
import { rootOf } from '../../part/find.ts';

/** More signals have too many sets. */
const MAX_SIGNALS = 18;

/** How far a price is raised when nothing fits at it: by a minimum number of steps, or by a factor if that is more. */
const RAISED = { min: 200, times: 3 };

/** So often `mayContinue` is asked before the search stops by itself: others are better then. */
const MAX_ASKED = 500;

/** So many pins that two timers want are parted, one after the other. */
const MAX_PARTED = 32;

/**
 * The best assignment; `none` if nothing fits; `bound` where only pins or registers conflict with what is best
 * otherwise, which then nothing can beat; or nothing is known.
 */
export type Covered =
  | { kind: 'best'; settings: Setting[]; objective: Objective; columns: number }
  | { kind: 'bound'; objective: Objective }
  | { kind: 'none' }
  | { kind: 'unknown' };

function partialOf({ requests }: Problem, { columns }: Cover): PartialAssignment {
  const partial: PartialAssignment = { groups: new Map(), taken: requests.map(() => undefined) };
  for (const { root, group, members } of columns) {
    partial.groups.set(root, group);
    for (const { at, option } of members) partial.taken[at] = option;
  }
  return partial;
}

function unplacedOn({ requests }: Problem, { members }: GroupColumn): Unplaced[] {
  return members.flatMap(({ at, option }) => {
    const request = requests[at];
    return request ? [{ request, option }] : [];
  });
}

/** Whether a group cannot do without a pin. */
function needs(problem: Problem, column: GroupColumn, pin: string): boolean {
  const without = unplacedOn(problem, column).map(({ request, option }) => ({
    request,
    option: { ...option, places: option.places.filter((place) => place.pin !== pin) },
  }));
  return placesFor(without).places === undefined;
}

/** A pin that two groups of a cover both need, with their timers. */
function wantedTwice(
  problem: Problem,
  { columns }: Cover,
): { pin: string; roots: [string, string] } | undefined {
  const pinsOf = (column: GroupColumn): Set<string> =>
    new Set(column.members.flatMap(({ option }) => option.places.flatMap(({ pin }) => pin ?? [])));
  for (const [at, one] of columns.entries()) {
    const own = pinsOf(one);
    for (const other of columns.slice(at + 1)) {
      const shared = [...pinsOf(other)].filter((pin) => own.has(pin));
      if (
        shared.length === 0 ||
        placesFor([one, other].flatMap((column) => unplacedOn(problem, column))).places
      )
        continue;
      const pin = shared.find((id) => needs(problem, one, id) && needs(problem, other, id));
      if (pin !== undefined) return { pin, roots: [one.root, other.root] };
    }
  }
  return undefined;
}

/** A problem in which one timer loses a pin. */
function withoutPin(problem: Problem, root: string, pin: string): Problem {
  const able = (option: Option): Option[] => {
    if (rootOf(option.timer) !== root) return [option];
    const places = option.places.filter((place) => place.pin !== pin);
    return places.length === option.places.length
      ? [option]
      : places.length > 0
        ? [{ ...option, places }]
        : [];
  };
  return { ...problem, options: problem.options.map((list) => list.flatMap(able)) };
}

type Search = {
  shapes: ReadonlyMap<string, string>;
  ceiling: number;
  mayContinue: () => boolean;
  parted: { count: number };
};

/**
 * The best cover that pins allow: where two of its groups need one pin, either timer gives it up, whichever is better.
 * `parted` counts how often that was done.
 */
function placeable(problem: Problem, search: Search): Covered {
  const { shapes, ceiling, mayContinue, parted } = search;
  const byRoot = columnsWithin(problem, shapes, ceiling, mayContinue);
  const cover = byRoot && bestCover(byRoot, problem.requests.length, ceiling);
  if (!byRoot || cover === 'spent') return { kind: 'unknown' };
  if (!cover) return { kind: 'none' };
  const partial = partialOf(problem, cover);
  const objective = objectiveOf(partial);
  const settings = partialSettings(problem, partial);
  const columns = byRoot.reduce((sum, { length }) => sum + length, 0);
  if (settings) return { kind: 'best', settings, objective, columns };
  const twice = wantedTwice(problem, cover);
  parted.count += 1;
  if (!twice || parted.count > MAX_PARTED) return { kind: 'bound', objective };
  const branches = twice.roots.map((root) => placeable(withoutPin(problem, root, twice.pin), search));
  const known = branches.filter((one) => one.kind === 'best' || one.kind === 'bound');
  if (branches.some(({ kind }) => kind === 'unknown')) return { kind: 'bound', objective };
  return known.sort((one, other) => compareObjectives(one.objective, other.objective))[0] ?? { kind: 'none' };
}

/**
 * Whether signals that only the hardware can make do not fit together, whatever the others do: few groups of them are
 * possible, so this is soon known.
 */
export function impossible(
  problem: Problem,
  shapes: ReadonlyMap<string, string>,
  mayContinue: () => boolean,
): boolean {
  const hard = problem.options.flatMap((list, at) => (list.every(isHardware) ? [at] : []));
  if (hard.length < 2 || hard.length > MAX_SIGNALS) return false;
  const own = partOf(problem, hard);
  const max = cpuSteps(1) * problem.part.timers.length;
  const byRoot = columnsWithin(own, shapes, max, mayContinue);
  if (!byRoot) return false;
  const { cover, spent } = coverOf(byRoot, hard.length, max);
  return !cover && !spent;
}

/**
 * A problem at the lowest possible price: there the program makes nothing that the hardware can make, since that would
 * cost at least a step more (two handlers in each period, even on a timer that is used anyway).
 */
function atMinPrice(problem: Problem, { able }: Bounds): Problem {
  const { part, path, requests, options } = problem;
  const cpuHz = clockOf(path, part.cpu.clock).valueOf();
  const costs = ({ requirement }: Request): boolean =>
    cpuSteps((2 * requirement.frequency.low.valueOf() * part.cpu.handlerCycles) / cpuHz) >= 1;
  return {
    ...problem,
    options: options.map((list, at) => {
      const request = requests[at];
      return able[at] && request && costs(request) ? list.filter(isHardware) : list;
    }),
  };
}

/**
 * The best assignment as far as timers, channels and pins go: every group of signals that a timer can serve within a price,
 * and the cheapest cover of all signals by them. If no cover exists the price is raised, so the first cover found is the
 * cheapest. Among equal ones it takes the largest margin, then the fewest timers, then the fewest moved signals.
 */
export function exactAssignment(
  problem: Problem,
  shapes: ReadonlyMap<string, string>,
  bounds: Bounds,
  mayContinue: () => boolean,
): Covered {
  if (problem.requests.length > MAX_SIGNALS) return { kind: 'unknown' };
  const max = cpuSteps(1) * problem.part.timers.length;
  let asked = 0;
  const patient = (): boolean => {
    asked += 1;
    return asked <= MAX_ASKED && mayContinue();
  };
  let ceiling = cpuSteps(bounds.cpu);
  let field = atMinPrice(problem, bounds);
  for (;;) {
    const found = placeable(field, { shapes, ceiling, mayContinue: patient, parted: { count: 0 } });
    if (found.kind !== 'none' || ceiling >= max) return found;
    field = problem;
    ceiling = Math.min(max, Math.max(ceiling + RAISED.min, ceiling * RAISED.times));
  }
}
