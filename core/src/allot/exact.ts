import { clockOf } from '../clock/path.ts';
import type { Setting } from '../timer/setting.ts';
import { isHardware, type Bounds } from './bounds.ts';
import { columnsWithin, type Column } from './columns.ts';
import { bestCover, coverOf, type Cover } from './cover.ts';
import { dealt, partOf, worthOf, type Hand, type Searched } from './hand.ts';
import { placesFor, type Seated } from './place.ts';
import { cpuSteps } from './quality.ts';
import { rootOf, type Option, type Request } from './request.ts';
import { compareWorth, type Worth } from './worth.ts';

/** More signals have too many sets. */
const MOST_SIGNALS = 18;

/** What a price is raised by where nothing goes at it: at least so many steps, else so many times as much. */
const RAISED = { least: 200, times: 3 };

/** So often `goOn` is asked before the search gives up by itself: others are better then. */
const MOST_ASKED = 500;

/** So many pins that two timers want are parted, one after the other. */
const MOST_PARTED = 32;

/**
 * The best allotment; `none` where nothing goes; `bound` where only pins or registers stand against what is best
 * otherwise, which then nothing can beat; or nothing is known.
 */
export type Covered =
  | { kind: 'best'; settings: Setting[]; worth: Worth; columns: number }
  | { kind: 'bound'; worth: Worth }
  | { kind: 'none' }
  | { kind: 'unknown' };

function handOf({ requests }: Searched, { columns }: Cover): Hand {
  const hand: Hand = { desks: new Map(), taken: requests.map(() => undefined) };
  for (const { root, desk, seats } of columns) {
    hand.desks.set(root, desk);
    for (const { at, option } of seats) hand.taken[at] = option;
  }
  return hand;
}

function seatedOn({ requests }: Searched, { seats }: Column): Seated[] {
  return seats.flatMap(({ at, option }) => {
    const request = requests[at];
    return request ? [{ request, option }] : [];
  });
}

/** Whether a group cannot do without a pin. */
function needs(searched: Searched, column: Column, pin: string): boolean {
  const without = seatedOn(searched, column).map(({ request, option }) => ({
    request,
    option: { ...option, places: option.places.filter((place) => place.pin !== pin) },
  }));
  return placesFor(without).places === undefined;
}

/** A pin that two groups of a cover both need, with their timers. */
function wantedTwice(
  searched: Searched,
  { columns }: Cover,
): { pin: string; roots: [string, string] } | undefined {
  const pinsOf = (column: Column): Set<string> =>
    new Set(column.seats.flatMap(({ option }) => option.places.flatMap(({ pin }) => pin ?? [])));
  for (const [at, one] of columns.entries()) {
    const own = pinsOf(one);
    for (const other of columns.slice(at + 1)) {
      const shared = [...pinsOf(other)].filter((pin) => own.has(pin));
      if (
        shared.length === 0 ||
        placesFor([one, other].flatMap((column) => seatedOn(searched, column))).places
      )
        continue;
      const pin = shared.find((id) => needs(searched, one, id) && needs(searched, other, id));
      if (pin !== undefined) return { pin, roots: [one.root, other.root] };
    }
  }
  return undefined;
}

/** A problem in which one timer does without a pin. */
function withoutPin(searched: Searched, root: string, pin: string): Searched {
  const able = (option: Option): Option[] => {
    if (rootOf(option.timer) !== root) return [option];
    const places = option.places.filter((place) => place.pin !== pin);
    return places.length === option.places.length
      ? [option]
      : places.length > 0
        ? [{ ...option, places }]
        : [];
  };
  return { ...searched, options: searched.options.map((list) => list.flatMap(able)) };
}

type Search = {
  shapes: ReadonlyMap<string, string>;
  ceiling: number;
  goOn: () => boolean;
  parted: { count: number };
};

/**
 * The best cover that pins allow: where two of its groups need one pin, either timer does without it, whichever is better.
 * `parted` counts how often that was done.
 */
function placeable(searched: Searched, search: Search): Covered {
  const { shapes, ceiling, goOn, parted } = search;
  const byRoot = columnsWithin(searched, shapes, ceiling, goOn);
  const cover = byRoot && bestCover(byRoot, searched.requests.length, ceiling);
  if (!byRoot || cover === 'spent') return { kind: 'unknown' };
  if (!cover) return { kind: 'none' };
  const hand = handOf(searched, cover);
  const worth = worthOf(hand);
  const settings = dealt(searched, hand);
  const columns = byRoot.reduce((sum, { length }) => sum + length, 0);
  if (settings) return { kind: 'best', settings, worth, columns };
  const twice = wantedTwice(searched, cover);
  parted.count += 1;
  if (!twice || parted.count > MOST_PARTED) return { kind: 'bound', worth };
  const branches = twice.roots.map((root) => placeable(withoutPin(searched, root, twice.pin), search));
  const known = branches.filter((one) => one.kind === 'best' || one.kind === 'bound');
  if (branches.some(({ kind }) => kind === 'unknown')) return { kind: 'bound', worth };
  return known.sort((one, other) => compareWorth(one.worth, other.worth))[0] ?? { kind: 'none' };
}

/**
 * Whether signals that only the hardware can make do not go together, whatever the others do: few groups of them are
 * possible, so this is soon known.
 */
export function impossible(
  searched: Searched,
  shapes: ReadonlyMap<string, string>,
  goOn: () => boolean,
): boolean {
  const hard = searched.options.flatMap((list, at) => (list.every(isHardware) ? [at] : []));
  if (hard.length < 2 || hard.length > MOST_SIGNALS) return false;
  const own = partOf(searched, hard);
  const most = cpuSteps(1) * searched.part.timers.length;
  const byRoot = columnsWithin(own, shapes, most, goOn);
  if (!byRoot) return false;
  const { cover, spent } = coverOf(byRoot, hard.length, most);
  return !cover && !spent;
}

/**
 * A problem at the least price there can be: there the program makes nothing that the hardware can make, since that would
 * cost at least a step more (two handlers in each period, even on a timer that is used anyway).
 */
function atLeastPrice(searched: Searched, { able }: Bounds): Searched {
  const { part, path, requests, options } = searched;
  const cpuHz = clockOf(path, part.cpu.clock).valueOf();
  const costs = ({ goal }: Request): boolean =>
    cpuSteps((2 * goal.frequency.low.valueOf() * part.cpu.handlerCycles) / cpuHz) >= 1;
  return {
    ...searched,
    options: options.map((list, at) => {
      const request = requests[at];
      return able[at] && request && costs(request) ? list.filter(isHardware) : list;
    }),
  };
}

/**
 * The best allotment as far as timers, channels and pins go: every group of signals that a timer can serve within a price,
 * and the cheapest cover of all signals by them; where there is none the price is raised, so the first cover is the
 * cheapest. Among its equals the one that leaves most of what is scarce, then the one on the fewest timers, then the one
 * with the fewest signals moved.
 */
export function exactAllotment(
  searched: Searched,
  shapes: ReadonlyMap<string, string>,
  bounds: Bounds,
  goOn: () => boolean,
): Covered {
  if (searched.requests.length > MOST_SIGNALS) return { kind: 'unknown' };
  const most = cpuSteps(1) * searched.part.timers.length;
  let asked = 0;
  const patient = (): boolean => {
    asked += 1;
    return asked <= MOST_ASKED && goOn();
  };
  let ceiling = cpuSteps(bounds.cpu);
  let field = atLeastPrice(searched, bounds);
  for (;;) {
    const found = placeable(field, { shapes, ceiling, goOn: patient, parted: { count: 0 } });
    if (found.kind !== 'none' || ceiling >= most) return found;
    field = searched;
    ceiling = Math.min(most, Math.max(ceiling + RAISED.least, ceiling * RAISED.times));
  }
}
