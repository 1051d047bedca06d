import type { GroupColumn } from './columns.ts';
import { LEVELS } from '../counter/quality.ts';

/** So much work is one covering worth: states times groups. */
const MAX_WORK = 1e8;

/** Processor time, timers and moved signals in one whole number, the first before the second before the third. */
const TIMER = 1e3;
const STEP = 1e6;

/** What a column adds to the price of a cover. */
function priceOf({ cpu, moved }: GroupColumn): number {
  return cpu * STEP + TIMER + moved;
}

/** The processor time in a price, in whole steps. */
export function cpuIn(price: number): number {
  return Math.floor(price / STEP);
}

/** Columns, timer by timer. */
export type ByRoot = readonly (readonly GroupColumn[])[];

/** Columns that together hold every signal once, no two on one timer, and their price. */
export type Cover = { price: number; columns: GroupColumn[] };

/**
 * The cheapest cover of a set of signals, by dynamic programming: timer by timer, the cheapest way to cover each subset so
 * far. Undefined if none costs `maxCpu` steps or less; `spent` if the budget ran out first.
 */
export function coverOf(byRoot: ByRoot, signals: number, maxCpu: number): { cover?: Cover; spent: boolean } {
  const size = 2 ** signals;
  const max = (maxCpu + 1) * STEP;
  let prices = new Float64Array(size).fill(Infinity);
  prices[0] = 0;
  let states = [0];
  const chosen: Int32Array[] = [];
  let work = 0;
  for (const columns of byRoot) {
    work += states.length * columns.length;
    if (work > MAX_WORK) return { spent: true };
    const next = Float64Array.from(prices);
    const own = new Int32Array(size).fill(-1);
    const added: number[] = [];
    columns.forEach((column, index) => {
      const price = priceOf(column);
      const { mask } = column;
      for (const state of states) {
        if (state & mask) continue;
        const sum = (prices[state] ?? Infinity) + price;
        const to = state | mask;
        const known = next[to] ?? Infinity;
        if (sum >= known || sum >= max) continue;
        if (known === Infinity) added.push(to);
        next[to] = sum;
        own[to] = index;
      }
    });
    chosen.push(own);
    prices = next;
    states = [...states, ...added];
  }
  const price = prices[size - 1] ?? Infinity;
  if (price === Infinity) return { spent: false };
  const columns: GroupColumn[] = [];
  let state = size - 1;
  for (let at = byRoot.length - 1; at >= 0; at -= 1) {
    const column = byRoot[at]?.[chosen[at]?.[state] ?? -1];
    if (!column) continue;
    columns.push(column);
    state &= ~column.mask;
  }
  return { cover: { price, columns }, spent: false };
}

/** The best cover at no more than a price: of the cheapest the highest level is found by halving. */
export function bestCover(byRoot: ByRoot, signals: number, ceiling: number): Cover | 'spent' | undefined {
  const cheapest = coverOf(byRoot, signals, ceiling);
  if (cheapest.spent) return 'spent';
  let { cover } = cheapest;
  if (!cover) return undefined;
  const cpu = cpuIn(cover.price);
  let [low, high] = [0, LEVELS];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    const able = byRoot.map((columns) => columns.filter((one) => one.level >= middle));
    const one = coverOf(able, signals, cpu).cover;
    if (one) [low, cover] = [middle, one];
    else high = middle - 1;
  }
  return cover;
}
