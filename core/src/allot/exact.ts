import { columnsWithin, type Column } from './columns.ts';
import { coverOf, cpuIn, type Cover } from './cover.ts';
import { worthOf, type Hand, type Searched } from './hand.ts';
import { cpuSteps, LEVELS } from './quality.ts';
import type { Worth } from './worth.ts';

/** More signals have too many sets. */
export const MOST_SIGNALS = 16;

/** What a price is raised by where nothing goes at it: at least so many steps, else so many times as much. */
const RAISED = { least: 200, times: 3 };

/** The best allotment if pins and registers do not stand in its way; or none at all; or nothing is known. */
export type Covered =
  { kind: 'best'; hand: Hand; worth: Worth; columns: number } | { kind: 'none' } | { kind: 'unknown' };

function handOf({ requests }: Searched, { columns }: Cover): Hand {
  const hand: Hand = { desks: new Map(), taken: requests.map(() => undefined) };
  for (const { root, desk, seats } of columns) {
    hand.desks.set(root, desk);
    for (const { at, option } of seats) hand.taken[at] = option;
  }
  return hand;
}

/**
 * The best allotment as far as timers and channels go: every group of signals that a timer can serve within a price, and
 * the cheapest cover of all signals by them; where there is none the price is raised, so the first cover is the cheapest.
 * Among its equals the one that leaves most of what is scarce, then the one on the fewest timers, then the one with the
 * fewest signals moved.
 */
export function exactAllotment(
  searched: Searched,
  shapes: ReadonlyMap<string, string>,
  leastCpu: number,
  goOn: () => boolean,
): Covered {
  const signals = searched.requests.length;
  if (signals > MOST_SIGNALS) return { kind: 'unknown' };
  const most = cpuSteps(1) * searched.part.timers.length;
  let ceiling = cpuSteps(leastCpu);
  for (;;) {
    const byRoot = columnsWithin(searched, shapes, ceiling, goOn);
    if (!byRoot) return { kind: 'unknown' };
    const cheapest = coverOf(byRoot, signals, ceiling);
    if (cheapest.spent) return { kind: 'unknown' };
    if (cheapest.cover) return best(searched, byRoot, cheapest.cover);
    if (ceiling >= most) return { kind: 'none' };
    ceiling = Math.min(most, Math.max(ceiling + RAISED.least, ceiling * RAISED.times));
  }
}

/** Of the covers at the least price of processor time the best: the highest level that still allows it is found by halving. */
function best(searched: Searched, byRoot: readonly (readonly Column[])[], cheapest: Cover): Covered {
  const cpu = cpuIn(cheapest.price);
  const at = (level: number): Cover | undefined => {
    const able = byRoot.map((columns) => columns.filter((one) => one.level >= level));
    return coverOf(able, searched.requests.length, cpu).cover;
  };
  let cover = cheapest;
  let [low, high] = [0, LEVELS];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    const one = at(middle);
    if (one) [low, cover] = [middle, one];
    else high = middle - 1;
  }
  const hand = handOf(searched, cover);
  const columns = byRoot.reduce((sum, { length }) => sum + length, 0);
  return { kind: 'best', hand, worth: worthOf(hand), columns };
}
