import { pathText } from '../result/fault.ts';
import type { Plan, PlanSignal } from './plan.ts';

function same(one: unknown, other: unknown): boolean {
  return one === other || JSON.stringify(one) === JSON.stringify(other);
}

/** One thing that two versions of a plan changed differently: its path, and what each of them has there. */
export type Clash = { path: string; mine: unknown; theirs: unknown };

type Merged<T> = { value: T; clashes: Clash[] };

/** What changed on one side only is taken; what both changed differently is a clash, and mine stands. */
function mergedValue<T>(base: T, mine: T, theirs: T, path: string): Merged<T> {
  if (same(mine, theirs) || same(theirs, base)) return { value: mine, clashes: [] };
  if (same(mine, base)) return { value: theirs, clashes: [] };
  return { value: mine, clashes: [{ path, mine, theirs }] };
}

/** The order of all signals: mine where only I moved, added or deleted any, else theirs, with all that only I have behind. */
function orderOf(base: readonly string[], mine: readonly string[], theirs: readonly string[]): string[] {
  const [first, second] = same(theirs, base) ? [mine, theirs] : [theirs, mine];
  return [...first, ...second.filter((id) => !first.includes(id))];
}

function mergedSignals(base: Plan, mine: Plan, theirs: Plan): Merged<PlanSignal[]> {
  const byId = (plan: Plan): Map<string, PlanSignal> => new Map(plan.signals.map((one) => [one.id, one]));
  const [before, own, other] = [byId(base), byId(mine), byId(theirs)];
  const ids = (plan: Plan): string[] => plan.signals.map((one) => one.id);
  const order = orderOf(ids(base), ids(mine), ids(theirs));
  const clashes: Clash[] = [];
  const value = order.flatMap((id) => {
    const merged = mergedValue(before.get(id), own.get(id), other.get(id), pathText(['signals', id]));
    clashes.push(...merged.clashes);
    return merged.value ? [merged.value] : [];
  });
  return { value, clashes };
}

/**
 * Two versions of a plan that were both made of one: each signal, and each other key of the plan, is taken from the side
 * that changed it. What both changed differently is listed, and mine stands there.
 */
export function mergePlans(base: Plan, mine: Plan, theirs: Plan): { plan: Plan; clashes: Clash[] } {
  const signals = mergedSignals(base, mine, theirs);
  const keys = new Set([base, mine, theirs].flatMap((plan) => Object.keys(plan)) as (keyof Plan)[]);
  keys.delete('signals');
  const clashes = [...signals.clashes];
  const entries = [...keys].flatMap((key): [string, unknown][] => {
    const merged = mergedValue<unknown>(base[key], mine[key], theirs[key], key);
    clashes.push(...merged.clashes);
    return merged.value === undefined ? [] : [[key, merged.value]];
  });
  return { plan: { ...(Object.fromEntries(entries) as Plan), signals: signals.value }, clashes };
}
