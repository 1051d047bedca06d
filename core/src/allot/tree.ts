import { clockOf } from '../clock/path.ts';
import type { Setting } from '../timer/setting.ts';
import { apartFrom, isHardware, type Bounds } from './bounds.ts';
import {
  canMove,
  dealt,
  movesInTurn,
  movesOf,
  seatedOf,
  wantedBy,
  worthOf,
  type Hand,
  type Searched,
} from './hand.ts';
import { channelsSuffice, placesFor } from './place.ts';
import { cpuSteps, LEVELS } from './quality.ts';
import { rootOf, type Request } from './request.ts';
import { compareWorth, type Worth } from './worth.ts';

/**
 * Signals that must have a pin and can be made by the hardware come first, then what only the program can make, then
 * those whose pin is free: so the first try seldom has to be taken back.
 */
const RANK = 1e6;

/** So many places are looked at before `goOn` is asked. */
const ASKED_EVERY = 64;

/** So many places are looked at however little time there is, until something goes. */
const FEWEST_NODES = 512;

/** Without a time limit the search gives up after so many places. */
const MOST_NODES = 200_000;

/** What a search gives: the best that it met, and whether the whole tree was looked at. */
export type Searching = {
  best?: { worth: Worth; settings: Setting[]; hand: Hand };
  whole: boolean;
  nodes: number;
};

/**
 * Branch and bound: signals with few timers to choose from first; a branch is left where even its best cannot beat what is
 * known, or some signal has no timer left. It ends where something equals `worth`, which nothing can beat.
 */
export function searchTree(
  searched: Searched,
  shapes: ReadonlyMap<string, string>,
  { bounds, worth: bound }: { bounds: Bounds; worth: Worth },
  rules: { goOn?: () => boolean; anyWill?: boolean },
): Searching {
  const { part, path, requests, options } = searched;
  const { levels, able, apart } = bounds;
  const order = requests.map((_, at) => at);
  const likely = options.map((list, at) => (able[at] ? list.filter(isHardware) : list));
  const rank = (at: number): number =>
    !able[at] ? 1 : requests[at]?.pin === undefined && !requests[at]?.stays ? 2 : 0;
  const freedom = (at: number): number =>
    1e3 * RANK * new Set((likely[at] ?? []).map(({ timer }) => rootOf(timer))).size +
    RANK * rank(at) +
    (likely[at] ?? []).reduce((sum, { places }) => sum + places.length, 0);
  order.sort((one, other) => freedom(one) - freedom(other));
  const wanted = wantedBy(likely);
  const hand: Hand = { desks: new Map(), taken: requests.map(() => undefined) };
  let best: Searching['best'];
  const fixed = new Map(
    requests.map((request, at) => [at, request.pin !== undefined || request.stays !== undefined]),
  );
  /** Timers of one shape stand for each other, unless a signal on them or still to come must have a pin of its own. */
  const stateOf = (depth: number, { desks, taken }: Hand): string => {
    const named = order.slice(depth).some((at) => fixed.get(at));
    const list = [...desks].map(([root, { mode, seated }]) => {
      const own = named || seated.some((at) => fixed.get(at)) ? root : shapes.get(root);
      return `${own} ${mode.id} ${seated
        .map((at) => `${at}${taken[at]?.drive}`)
        .sort()
        .join()}`;
    });
    return `${depth}|${list.sort().join('|')}`;
  };
  let nodes = 0;
  let stopped = false;
  let unsure = false;

  const goingOn = (): boolean => {
    nodes += 1;
    if (nodes % ASKED_EVERY !== 0) return !stopped;
    stopped =
      nodes >= MOST_NODES || ((best !== undefined || nodes >= FEWEST_NODES) && rules.goOn?.() === false);
    return !stopped;
  };

  /** What it costs at least if the program makes a signal: two handlers a period, even on a tick that is there anyway. */
  const softCpu = (at: number): number =>
    (2 * (requests[at]?.goal.frequency.low.valueOf() ?? 0) * part.cpu.handlerCycles) /
    clockOf(path, part.cpu.clock).valueOf();

  /** Whether it can win nothing to let the program make what the hardware can: what is known costs less already. */
  const settled = (at: number): boolean =>
    best !== undefined &&
    able[at] === true &&
    (cpuSteps(best.worth.cpu) <= cpuSteps(bound.cpu) ||
      cpuSteps(best.worth.cpu) < cpuSteps(bound.cpu + softCpu(at)));

  /** What the signals that only the program can make will cost at least, as things stand; endless where one cannot be made. */
  const ahead = (depth: number): number =>
    Math.max(
      0,
      ...order
        .slice(depth)
        .filter((at) => !able[at])
        .map((at) =>
          Math.min(
            ...movesOf(searched, hand, at, options[at] ?? [], wanted).map(
              ({ root, desk }) => desk.shared.cpu - (hand.desks.get(root)?.shared.cpu ?? 0),
            ),
          ),
        ),
    );

  /** Timers that signals still to come will open at least: those that fit none in use, and no two of them together. */
  const opened = (depth: number): number => {
    if (!best || cpuSteps(best.worth.cpu) > cpuSteps(bound.cpu)) return 0;
    const seated = seatedOf(searched, hand);
    const joins = (at: number): boolean =>
      movesOf(searched, hand, at, likely[at] ?? [], wanted).some(
        ({ fresh, option }) =>
          !fresh && channelsSuffice([...seated, { request: requests[at] as Request, option }]),
      );
    const alone = order.slice(depth).filter((at) => !joins(at));
    return apartFrom(alone, apart);
  };

  /** States that were searched through to their end, no places or registers standing against them. */
  const done = new Set<string>();
  let refused = 0;

  /** Whether the search is over: stopped, or nothing better can exist. */
  const search = (depth: number): boolean => {
    const state = stateOf(depth, hand);
    if (done.has(state)) return false;
    const before = refused;
    const over = look(depth);
    if (!over && refused === before) done.add(state);
    return over;
  };

  const look = (depth: number): boolean => {
    if (!goingOn()) return true;
    const at = order[depth];
    const now = worthOf(hand);
    if (at === undefined) {
      const settings = dealt(searched, hand);
      if (!settings) {
        unsure = true;
        refused += 1;
        return false;
      }
      best = { worth: now, settings, hand: { desks: new Map(hand.desks), taken: [...hand.taken] } };
      return rules.anyWill === true || compareWorth(now, bound) <= 0;
    }
    for (const { option, root, desk } of movesInTurn(searched, hand, at, wanted, settled)) {
      const before = hand.desks.get(root);
      hand.desks.set(root, desk);
      hand.taken[at] = option;
      const next = worthOf(hand);
      const left = order.slice(depth + 1).map((one) => levels[one] ?? LEVELS);
      const reach: Worth = {
        cpu: Math.max(next.cpu, bound.cpu),
        level: Math.min(next.level, ...left),
        timers: next.timers,
      };
      if (best && compareWorth(reach, best.worth) < 0)
        reach.cpu = Math.max(reach.cpu, next.cpu + ahead(depth + 1));
      if (best && compareWorth(reach, best.worth) < 0) reach.timers += opened(depth + 1);
      const worthwhile = !best || compareWorth(reach, best.worth) < 0;
      const seated = seatedOf(searched, hand);
      const dealing =
        worthwhile &&
        order.slice(depth + 1).every((one) => canMove(searched, hand, one)) &&
        channelsSuffice(seated);
      const { places, spent } = dealing ? placesFor(seated) : { spent: false };
      unsure ||= spent;
      if (dealing && !places) refused += 1;
      const over = places !== undefined && search(depth + 1);
      if (before) hand.desks.set(root, before);
      else hand.desks.delete(root);
      hand.taken[at] = undefined;
      if (over) return true;
    }
    return false;
  };

  search(0);
  return { ...(best ? { best } : {}), whole: !stopped && !unsure, nodes };
}
