import { moving, type TimerGroup, type Problem } from './partial.ts';
import type { Requirement } from '../../signal/requirement.ts';
import { channelsSuffice } from '../place/places.ts';
import { cpuSteps } from '../counter/quality.ts';
import type { Option } from '../request.ts';
import type { Member } from '../counter/counter-solver.ts';
import { rootOf } from '../../part/find.ts';

/** Signals that one timer serves together: who, in which way, with which numbers; `mask` has a bit for each of them. */
export type GroupColumn = {
  root: string;
  mask: number;
  members: readonly Member[];
  group: TimerGroup;
  /** Processor time in whole steps, the level of what is scarce, and signals that are not where they were. */
  cpu: number;
  level: number;
  moved: number;
};

/** So many groups are kept at most. */
const MAX_COLUMNS = 40_000;

/** So many groups are looked at before `mayContinue` is asked. */
const ASKED_EVERY = 256;

/** The ways of all signals to use a timer in one of its modes, signal by signal. */
type Counter = { option: Option; routes: Member[] };

function countersOf(options: readonly (readonly Option[])[], root: string): Counter[] {
  const found = new Map<string, Counter>();
  options.forEach((list, at) => {
    for (const option of list) {
      if (rootOf(option.timer) !== root) continue;
      const key = `${option.timer.id} ${option.mode.id}`;
      const own = found.get(key) ?? { option, routes: [] };
      own.routes.push({ at, option });
      found.set(key, own);
    }
  });
  return [...found.values()];
}

/** Whether one of two columns of the same signals is nowhere worse than the other. */
function covers(one: GroupColumn, other: GroupColumn): boolean {
  return one.cpu <= other.cpu && one.level >= other.level && one.moved <= other.moved;
}

/** All that groups on a timer depend on: which signals can use it, in which ways, on which of its channels. */
function outlineOf({ options }: Problem, root: string, shape: string): string {
  const routes = options.map((list) =>
    list
      .filter(({ timer }) => rootOf(timer) === root)
      .map(({ drive, timer, mode, places }) => {
        const channels = places.map(({ channel }) => timer.channels.findIndex(({ id }) => id === channel));
        return [drive, timer.modes.indexOf(mode), [...new Set(channels)]];
      }),
  );
  return JSON.stringify([shape, routes]);
}

/** The columns of a timer on another one that can do the same. */
function columnsOn(
  { options, requests }: Problem,
  columns: readonly GroupColumn[],
  from: string,
  to: string,
): GroupColumn[] {
  const twins = new Map<Option, Option>();
  for (const list of options) {
    const [own, other] = [from, to].map((root) => list.filter(({ timer }) => rootOf(timer) === root));
    own?.forEach((option, at) => twins.set(option, other?.[at] ?? option));
  }
  return columns.map((column) => {
    const members = column.members.map(({ at, option }) => ({ at, option: twins.get(option) ?? option }));
    const { timer, mode } = members[0]?.option ?? column.group;
    const moved = members.reduce((sum, { at, option }) => sum + moving(option, requests[at]), 0);
    return { ...column, root: to, members, group: { ...column.group, timer, mode }, moved };
  });
}

/** From the slowest to the fastest frequency of a band, as a factor. */
function widthOf(frequency: Requirement['frequency']): number {
  return frequency.high ? frequency.high.div(frequency.low).valueOf() : 1;
}

/**
 * Every group of signals that some timer can serve together at no more than a price: a group whose part cannot be served,
 * or costs too much, is not looked at, since more users never make a timer cheaper (but for tolerances, which are allowed
 * for). Of those that are the same to all others the best are kept. Undefined where `mayContinue` ended it, or there are too many.
 */
export function columnsWithin(
  problem: Problem,
  shapes: ReadonlyMap<string, string>,
  maxCpu: number,
  mayContinue: () => boolean,
): GroupColumn[][] | undefined {
  const { requests, options, share } = problem;
  const roots = [...new Set(options.flatMap((list) => list.map(({ timer }) => rootOf(timer))))];
  const known = new Map<string, { root: string; columns: GroupColumn[] }>();
  const found: GroupColumn[][] = [];
  // A faster user may make a timer cheaper, by no more than a tolerance from end to end.
  const wide = Math.max(1, ...requests.map(({ requirement: { frequency } }) => widthOf(frequency)));
  const dearest = ((maxCpu + 0.5) / 1e7) * wide;
  let [looked, kept, over] = [0, 0, false];

  const suffices = (members: readonly Member[]): boolean =>
    channelsSuffice(
      members.flatMap(({ at, option }) => {
        const request = requests[at];
        return request ? [{ request, option }] : [];
      }),
    );
  const columnsOf = (root: string): GroupColumn[] => {
    const byMask = new Map<number, GroupColumn[]>();
    const keep = (column: GroupColumn): void => {
      const others = byMask.get(column.mask) ?? [];
      if (others.some((one) => covers(one, column))) return;
      const left = others.filter((one) => !covers(column, one));
      kept += 1 + left.length - others.length;
      byMask.set(column.mask, [...left, column]);
    };
    /** Adds each of the ways to a group; those that go with it may go with each other, no others. */
    const extend = (
      { timer, mode }: Option,
      before: readonly Member[],
      mask: number,
      routes: readonly Member[],
    ): void => {
      const able: { members: Member[]; route: Member }[] = [];
      for (const route of routes) {
        looked += 1;
        if ((looked % ASKED_EVERY === 0 && !mayContinue()) || kept > MAX_COLUMNS) over = true;
        if (over) return;
        const members = [...before, route];
        const shared = share(route.option, members, dearest);
        if (!shared || !suffices(members)) continue;
        able.push({ members, route });
        if (cpuSteps(shared.cpu) > maxCpu) continue;
        keep({
          root,
          mask: mask | (1 << route.at),
          members,
          group: { timer, mode, members: members.map(({ at }) => at), shared },
          cpu: cpuSteps(shared.cpu),
          level: shared.level,
          moved: members.reduce((sum, { at, option }) => sum + moving(option, requests[at]), 0),
        });
      }
      able.forEach(({ members, route }, place) => {
        const rest = able
          .slice(place + 1)
          .flatMap((other) => (other.route.at > route.at ? [other.route] : []));
        if (rest.length > 0) extend(route.option, members, mask | (1 << route.at), rest);
      });
    };
    for (const { option, routes } of countersOf(options, root)) extend(option, [], 0, routes);
    return [...byMask.values()].flat();
  };

  for (const root of roots) {
    const outline = outlineOf(problem, root, shapes.get(root) ?? root);
    const twin = known.get(outline);
    const columns = twin ? columnsOn(problem, twin.columns, twin.root, root) : columnsOf(root);
    if (over) return undefined;
    known.set(outline, { root, columns });
    found.push(columns);
  }
  return found;
}
