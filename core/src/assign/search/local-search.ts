import type { Setting } from '../../timer/setting.ts';
import { columnsWithin } from './columns.ts';
import { bestCover } from './cover.ts';
import {
  partialSettings,
  partOf,
  objectiveOf,
  type TimerGroup,
  type PartialAssignment,
  type Problem,
} from './partial.ts';
import { cpuSteps } from '../counter/quality.ts';
import type { Option } from '../request.ts';
import { compareObjectives, type Objective } from '../objective.ts';
import { rootOf } from '../../part/find.ts';

/** So many signals are placed anew at once. */
const MAX_FREED = 10;

/** So many timers are taken apart at once. */
const MAX_ROOTS = 3;

/** What a price is raised by, from so few steps on. */
const RAISED = { from: 200, times: 4 };

/** All subsets of a list up to a size. */
function setsOf<T>(list: readonly T[], max: number): T[][] {
  if (max === 0) return [[]];
  return list.reduce<T[][]>(
    (sets, one, at) => [...sets, ...setsOf(list.slice(at + 1), max - 1).map((rest) => [one, ...rest])],
    [[]],
  );
}

/** The signals of some timers placed anew, as well as can be, on these and on the free ones; undefined where there is no way. */
function reassigned(
  problem: Problem,
  shapes: ReadonlyMap<string, string>,
  partial: PartialAssignment,
  roots: readonly string[],
  mayContinue: () => boolean,
): PartialAssignment | undefined {
  const groups = roots.flatMap((root) => partial.groups.get(root) ?? []);
  const ats = groups.flatMap(({ members }) => members);
  const all = problem.options.flatMap((list) => list.map(({ timer }) => rootOf(timer)));
  const open = new Set(all.filter((root) => roots.includes(root) || !partial.groups.has(root)));
  const own = partOf(problem, ats, open);
  const cost = groups.reduce((sum, { shared }) => sum + cpuSteps(shared.cpu), 0);
  for (let ceiling = Math.min(cost, RAISED.from); ; ceiling = Math.min(cost, ceiling * RAISED.times)) {
    const byRoot = columnsWithin(own, shapes, ceiling, mayContinue);
    const cover = byRoot && bestCover(byRoot, ats.length, ceiling);
    if (!byRoot || cover === 'spent') return undefined;
    if (cover) {
      const next: PartialAssignment = { groups: new Map(partial.groups), taken: [...partial.taken] };
      for (const root of roots) next.groups.delete(root);
      for (const { root, group, members } of cover.columns) {
        next.groups.set(root, { ...group, members: members.map(({ at }) => ats[at] ?? at) });
        for (const { at, option } of members) next.taken[ats[at] ?? at] = option;
      }
      return next;
    }
    if (ceiling >= cost) return undefined;
  }
}

/** A timer with other users; undefined where it cannot serve them. Without any it is free. */
function regrouped(
  { share }: Problem,
  partial: PartialAssignment,
  group: TimerGroup,
  members: readonly number[],
): TimerGroup | undefined {
  const uses = members.flatMap((at) => {
    const option = partial.taken[at];
    return option ? [{ at, option }] : [];
  });
  const [first] = uses;
  const shared = first && share(first.option, uses);
  return shared && { ...group, members: [...members], shared };
}

/** A signal that is in no group added to the group of an option's timer; undefined where that does not fit. */
function joinedBy(
  problem: Problem,
  { groups, taken: before }: PartialAssignment,
  at: number,
  option: Option,
  { shared }: TimerGroup,
): PartialAssignment | undefined {
  const { timer, mode } = option;
  const root = rootOf(timer);
  const taken = [...before];
  taken[at] = option;
  const other = groups.get(root) ?? { timer, mode, members: [], shared };
  if (other.timer !== timer || other.mode !== mode) return undefined;
  const joined = regrouped(problem, { groups, taken }, other, [...other.members, at]);
  return joined && { groups: new Map(groups).set(root, joined), taken };
}

/** The groups once a signal has left its own; undefined where the rest of that does not fit together any more. */
function groupsWithout(
  problem: Problem,
  partial: PartialAssignment,
  at: number,
  group: TimerGroup,
): Map<string, TimerGroup> | undefined {
  const root = rootOf(group.timer);
  const groups = new Map(partial.groups);
  const rest = group.members.filter((one) => one !== at);
  if (rest.length === 0) {
    groups.delete(root);
    return groups;
  }
  const left = regrouped(problem, partial, group, rest);
  return left && groups.set(root, left);
}

/** All partial assignments in which one signal is on another timer, or made in another way on its own. */
function* withOneMoved(problem: Problem, partial: PartialAssignment): Generator<PartialAssignment> {
  for (const [at, before] of partial.taken.entries()) {
    const group = before && partial.groups.get(rootOf(before.timer));
    const without = group && !problem.requests[at]?.locked && groupsWithout(problem, partial, at, group);
    if (!group || !without) continue;
    for (const option of problem.options[at] ?? []) {
      if (option === before) continue;
      const moved = joinedBy(problem, { groups: without, taken: partial.taken }, at, option, group);
      if (moved) yield moved;
    }
  }
}

/**
 * An assignment made better piece by piece: the signals of up to three timers, the most expensive first, are placed anew by exact
 * search on these and the free ones, then single signals moved, as long as anything is won and `mayContinue` allows. It is
 * no proof that nothing better exists.
 */
export function improved(
  problem: Problem,
  shapes: ReadonlyMap<string, string>,
  start: { partial: PartialAssignment; settings: Setting[] },
  mayContinue: () => boolean,
): { objective: Objective; settings: Setting[] } {
  let { partial, settings } = start;
  const tried = new Set<string>();
  const better = (next: PartialAssignment | undefined): boolean => {
    if (!next || compareObjectives(objectiveOf(next), objectiveOf(partial)) >= 0) return false;
    const made = partialSettings(problem, next);
    if (!made) return false;
    [partial, settings] = [next, made];
    return true;
  };
  const step = (): boolean => {
    const cost = (root: string): number => partial.groups.get(root)?.shared.cpu ?? 0;
    const sets = setsOf([...partial.groups.keys()], MAX_ROOTS).filter((roots) => roots.length > 0);
    const sum = (roots: readonly string[]): number => roots.reduce((all, root) => all + cost(root), 0);
    for (const roots of sets.sort((one, other) => sum(other) - sum(one))) {
      const ats = roots.flatMap((root) => partial.groups.get(root)?.members ?? []);
      const key =
        [...roots].sort().join() + ats.sort((one, other) => one - other).join() + partial.groups.size;
      if (ats.length > MAX_FREED || tried.has(key)) continue;
      if (!mayContinue()) return false;
      tried.add(key);
      if (better(reassigned(problem, shapes, partial, roots, mayContinue))) return true;
    }
    for (const next of withOneMoved(problem, partial)) {
      if (!mayContinue()) return false;
      if (better(next)) return true;
    }
    return false;
  };
  while (step());
  return { objective: objectiveOf(partial), settings };
}
