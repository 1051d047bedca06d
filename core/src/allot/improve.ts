import type { Setting } from '../timer/setting.ts';
import { columnsWithin } from './columns.ts';
import { bestCover } from './cover.ts';
import { dealt, partOf, worthOf, type Desk, type Hand, type Searched } from './hand.ts';
import { cpuSteps } from './quality.ts';
import { rootOf } from './request.ts';
import { compareWorth, type Worth } from './worth.ts';

/** So many signals are placed anew at once. */
const MOST_FREED = 10;

/** So many timers are taken apart at once. */
const MOST_ROOTS = 3;

/** What a price is raised by, from so few steps on. */
const RAISED = { from: 200, times: 4 };

/** All sets of up to so many of a list. */
function setsOf<T>(list: readonly T[], most: number): T[][] {
  if (most === 0) return [[]];
  return list.reduce<T[][]>(
    (sets, one, at) => [...sets, ...setsOf(list.slice(at + 1), most - 1).map((rest) => [one, ...rest])],
    [[]],
  );
}

/** The signals of some timers placed anew, as well as can be, on these and on the free ones; undefined where there is no way. */
function placedAnew(
  searched: Searched,
  shapes: ReadonlyMap<string, string>,
  hand: Hand,
  roots: readonly string[],
  goOn: () => boolean,
): Hand | undefined {
  const desks = roots.flatMap((root) => hand.desks.get(root) ?? []);
  const ats = desks.flatMap(({ seated }) => seated);
  const all = searched.options.flatMap((list) => list.map(({ timer }) => rootOf(timer)));
  const open = new Set(all.filter((root) => roots.includes(root) || !hand.desks.has(root)));
  const own = partOf(searched, ats, open);
  const cost = desks.reduce((sum, { shared }) => sum + cpuSteps(shared.cpu), 0);
  for (let ceiling = Math.min(cost, RAISED.from); ; ceiling = Math.min(cost, ceiling * RAISED.times)) {
    const byRoot = columnsWithin(own, shapes, ceiling, goOn);
    const cover = byRoot && bestCover(byRoot, ats.length, ceiling);
    if (!byRoot || cover === 'spent') return undefined;
    if (cover) {
      const next: Hand = { desks: new Map(hand.desks), taken: [...hand.taken] };
      for (const root of roots) next.desks.delete(root);
      for (const { root, desk, seats } of cover.columns) {
        next.desks.set(root, { ...desk, seated: seats.map(({ at }) => ats[at] ?? at) });
        for (const { at, option } of seats) next.taken[ats[at] ?? at] = option;
      }
      return next;
    }
    if (ceiling >= cost) return undefined;
  }
}

/** A timer with other users; undefined where it cannot serve them. Without any it is free. */
function seatedAnew(
  { share }: Searched,
  hand: Hand,
  desk: Desk,
  seated: readonly number[],
): Desk | undefined {
  const uses = seated.flatMap((at) => {
    const option = hand.taken[at];
    return option ? [{ at, option }] : [];
  });
  const [first] = uses;
  const shared = first && share(first.option, uses);
  return shared && { ...desk, seated: [...seated], shared };
}

/** All hands in which one signal is on another timer, or made in another way on its own. */
function* withOneMoved(searched: Searched, hand: Hand): Generator<Hand> {
  for (const [at, before] of hand.taken.entries()) {
    const own = before && rootOf(before.timer);
    const desk = own === undefined ? undefined : hand.desks.get(own);
    if (!before || own === undefined || !desk || searched.requests[at]?.stays) continue;
    const rest = desk.seated.filter((one) => one !== at);
    const left = rest.length > 0 ? seatedAnew(searched, hand, desk, rest) : undefined;
    if (rest.length > 0 && !left) continue;
    for (const option of searched.options[at] ?? []) {
      const root = rootOf(option.timer);
      const taken = [...hand.taken];
      taken[at] = option;
      const desks = new Map(hand.desks);
      if (left) desks.set(own, left);
      else desks.delete(own);
      const other = desks.get(root) ?? {
        timer: option.timer,
        mode: option.mode,
        seated: [],
        shared: desk.shared,
      };
      if (option === before || other.timer !== option.timer || other.mode !== option.mode) continue;
      const joined = seatedAnew(searched, { desks, taken }, other, [...other.seated, at]);
      if (joined) yield { desks: desks.set(root, joined), taken };
    }
  }
}

/**
 * An allotment made better piece by piece: the signals of up to three timers, the dearest first, are placed anew by exact
 * search on these and the free ones, then single signals moved, as long as anything is won and `goOn` allows. No proof
 * that nothing better exists.
 */
export function improved(
  searched: Searched,
  shapes: ReadonlyMap<string, string>,
  start: { hand: Hand; settings: Setting[] },
  goOn: () => boolean,
): { worth: Worth; settings: Setting[] } {
  let { hand, settings } = start;
  const tried = new Set<string>();
  const better = (next: Hand | undefined): boolean => {
    if (!next || compareWorth(worthOf(next), worthOf(hand)) >= 0) return false;
    const made = dealt(searched, next);
    if (!made) return false;
    [hand, settings] = [next, made];
    return true;
  };
  const step = (): boolean => {
    const cost = (root: string): number => hand.desks.get(root)?.shared.cpu ?? 0;
    const sets = setsOf([...hand.desks.keys()], MOST_ROOTS).filter((roots) => roots.length > 0);
    const sum = (roots: readonly string[]): number => roots.reduce((all, root) => all + cost(root), 0);
    for (const roots of sets.sort((one, other) => sum(other) - sum(one))) {
      const ats = roots.flatMap((root) => hand.desks.get(root)?.seated ?? []);
      const key = [...roots].sort().join() + ats.sort((one, other) => one - other).join() + hand.desks.size;
      if (ats.length > MOST_FREED || tried.has(key)) continue;
      if (!goOn()) return false;
      tried.add(key);
      if (better(placedAnew(searched, shapes, hand, roots, goOn))) return true;
    }
    for (const next of withOneMoved(searched, hand)) {
      if (!goOn()) return false;
      if (better(next)) return true;
    }
    return false;
  };
  while (step());
  return { worth: worthOf(hand), settings };
}
