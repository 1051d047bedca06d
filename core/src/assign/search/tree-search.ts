import { clockOf } from '../../clock/path.ts';
import type { Setting } from '../../timer/setting.ts';
import { apartFrom, isHardware, type Bounds } from './bounds.ts';
import {
  canMove,
  partialSettings,
  movesInTurn,
  movesOf,
  unplacedOf,
  wantedBy,
  objectiveOf,
  type PartialAssignment,
  type Problem,
} from './partial.ts';
import { channelsSuffice, placesFor } from '../place/places.ts';
import { cpuSteps, LEVELS } from '../counter/quality.ts';
import type { Request } from '../request.ts';
import { compareObjectives, type Objective } from '../objective.ts';
import { rootOf } from '../../part/find.ts';

/**
 * Signals that must have a pin and can be made by the hardware come first, then what only the program can make, then
 * those whose pin is free: so the first try seldom has to be taken back.
 */
const RANK = 1e6;

/** So many places are looked at before `mayContinue` is asked. */
const ASKED_EVERY = 64;

/** So many places are looked at however little time there is, until something goes. */
const FEWEST_NODES = 512;

/** Without a time limit the search stops after this many placements. */
const MAX_NODES = 200_000;

/** What a search gives: the best that it met, and whether the whole tree was looked at. */
export type Searching = {
  best?: { objective: Objective; settings: Setting[]; partial: PartialAssignment };
  whole: boolean;
  nodes: number;
};

/**
 * Branch and bound: signals with few timers to choose from first; a branch is left where even its best cannot beat what is
 * known, or some signal has no timer left. It ends where something equals `worth`, which nothing can beat.
 */
export function searchTree(
  problem: Problem,
  shapes: ReadonlyMap<string, string>,
  { bounds, objective: bound }: { bounds: Bounds; objective: Objective },
  rules: { mayContinue?: () => boolean; anyFeasible?: boolean },
): Searching {
  const { part, path, requests, options } = problem;
  const { levels, able, apart } = bounds;
  const order = requests.map((_, at) => at);
  const likely = options.map((list, at) => (able[at] ? list.filter(isHardware) : list));
  const rank = (at: number): number =>
    !able[at] ? 1 : requests[at]?.pin === undefined && !requests[at]?.locked ? 2 : 0;
  const freedom = (at: number): number =>
    1e3 * RANK * new Set((likely[at] ?? []).map(({ timer }) => rootOf(timer))).size +
    RANK * rank(at) +
    (likely[at] ?? []).reduce((sum, { places }) => sum + places.length, 0);
  order.sort((one, other) => freedom(one) - freedom(other));
  const wanted = wantedBy(likely);
  const partial: PartialAssignment = { groups: new Map(), taken: requests.map(() => undefined) };
  let best: Searching['best'];
  const fixed = new Map(
    requests.map((request, at) => [at, request.pin !== undefined || request.locked !== undefined]),
  );
  /** Timers of one shape stand for each other, unless a signal on them or still to come must have a pin of its own. */
  const stateOf = (depth: number, { groups, taken }: PartialAssignment): string => {
    const named = order.slice(depth).some((at) => fixed.get(at));
    const list = [...groups].map(([root, { mode, members }]) => {
      const own = named || members.some((at) => fixed.get(at)) ? root : shapes.get(root);
      return `${own} ${mode.id} ${members
        .map((at) => `${at}${taken[at]?.drive}`)
        .sort()
        .join()}`;
    });
    return `${depth}|${list.sort().join('|')}`;
  };
  let nodes = 0;
  let stopped = false;
  let unsure = false;

  const mayGoOn = (): boolean => {
    nodes += 1;
    if (nodes % ASKED_EVERY !== 0) return !stopped;
    stopped =
      nodes >= MAX_NODES ||
      ((best !== undefined || nodes >= FEWEST_NODES) && rules.mayContinue?.() === false);
    return !stopped;
  };

  /** What it costs at least if the program makes a signal: two handlers a period, even on a tick that is there anyway. */
  const softwareCpu = (at: number): number =>
    (2 * (requests[at]?.requirement.frequency.low.valueOf() ?? 0) * part.cpu.handlerCycles) /
    clockOf(path, part.cpu.clock).valueOf();

  /** Whether it can win nothing to let the program make what the hardware can: what is known costs less already. */
  const settled = (at: number): boolean =>
    best !== undefined &&
    able[at] === true &&
    (cpuSteps(best.objective.cpu) <= cpuSteps(bound.cpu) ||
      cpuSteps(best.objective.cpu) < cpuSteps(bound.cpu + softwareCpu(at)));

  /** What the signals that only the program can make will cost at least, as things stand; endless where one cannot be made. */
  const ahead = (depth: number): number =>
    Math.max(
      0,
      ...order
        .slice(depth)
        .filter((at) => !able[at])
        .map((at) =>
          Math.min(
            ...movesOf(problem, partial, at, options[at] ?? [], wanted).map(
              ({ root, group }) => group.shared.cpu - (partial.groups.get(root)?.shared.cpu ?? 0),
            ),
          ),
        ),
    );

  /** Timers that signals still to come will open at least: those that fit none in use, and no two of them together. */
  const opened = (depth: number): number => {
    if (!best || cpuSteps(best.objective.cpu) > cpuSteps(bound.cpu)) return 0;
    const members = unplacedOf(problem, partial);
    const joins = (at: number): boolean =>
      movesOf(problem, partial, at, likely[at] ?? [], wanted).some(
        ({ fresh, option }) =>
          !fresh && channelsSuffice([...members, { request: requests[at] as Request, option }]),
      );
    const alone = order.slice(depth).filter((at) => !joins(at));
    return apartFrom(alone, apart);
  };

  /** States that were searched through to their end, no places or registers standing against them. */
  const done = new Set<string>();
  let refused = 0;

  /** Whether the search is over: stopped, or nothing better can exist. */
  const search = (depth: number): boolean => {
    const state = stateOf(depth, partial);
    if (done.has(state)) return false;
    const before = refused;
    const over = look(depth);
    if (!over && refused === before) done.add(state);
    return over;
  };

  /** Every signal is placed: what was found is kept if its channels, pins and registers agree. */
  const reached = (objective: Objective): boolean => {
    const settings = partialSettings(problem, partial);
    if (!settings) {
      unsure = true;
      refused += 1;
      return false;
    }
    const { groups, taken } = partial;
    best = { objective, settings, partial: { groups: new Map(groups), taken: [...taken] } };
    return rules.anyFeasible === true || compareObjectives(objective, bound) <= 0;
  };

  /** Whether what is placed so far could still become better than the best. */
  const worthwhile = (next: number): boolean => {
    if (!best) return true;
    const now = objectiveOf(partial);
    const left = order.slice(next).map((one) => levels[one] ?? LEVELS);
    const reach: Objective = {
      cpu: Math.max(now.cpu, bound.cpu),
      level: Math.min(now.level, ...left),
      timers: now.timers,
    };
    if (compareObjectives(reach, best.objective) >= 0) return false;
    reach.cpu = Math.max(reach.cpu, now.cpu + ahead(next));
    if (compareObjectives(reach, best.objective) >= 0) return false;
    reach.timers += opened(next);
    return compareObjectives(reach, best.objective) < 0;
  };

  /** Whether channels and pins suffice for all that is placed so far, and every signal to come can still move. */
  const placeable = (next: number): boolean => {
    const members = unplacedOf(problem, partial);
    if (!order.slice(next).every((one) => canMove(problem, partial, one)) || !channelsSuffice(members))
      return false;
    const { places, spent } = placesFor(members);
    unsure ||= spent;
    if (!places) refused += 1;
    return places !== undefined;
  };

  const look = (depth: number): boolean => {
    if (!mayGoOn()) return true;
    const at = order[depth];
    if (at === undefined) return reached(objectiveOf(partial));
    for (const { option, root, group } of movesInTurn(problem, partial, at, wanted, settled)) {
      const before = partial.groups.get(root);
      partial.groups.set(root, group);
      partial.taken[at] = option;
      const over = worthwhile(depth + 1) && placeable(depth + 1) && search(depth + 1);
      if (before) partial.groups.set(root, before);
      else partial.groups.delete(root);
      partial.taken[at] = undefined;
      if (over) return true;
    }
    return false;
  };

  search(0);
  return { ...(best ? { best } : {}), whole: !stopped && !unsure, nodes };
}
