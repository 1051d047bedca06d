import type { PlanSignal } from '../plan/plan.ts';
import { kindOf, type Relaxation } from '../signal/kinds/index.ts';

/** A signal that asks for less than it did, and what was relaxed, in words. */
export type Relaxed = { signal: PlanSignal; text: string };

/** The factors by which a tolerance is relaxed, the smallest first. */
const TIMES = [1.5, 2, 3, 5, 7, 10, 15, 20, 30, 50, 70, 100, 150, 200, 300, 500];

/** Two digits are enough for a tolerance. */
function rounded(value: number): number {
  return Number(value.toPrecision(2));
}

/** The values of a relaxation from a little less strict to much less. */
function valuesOf({ now, max, falling }: Relaxation): number[] {
  if (falling) return TIMES.map((times) => Math.floor(now / times)).filter((value) => value >= falling.min);
  return TIMES.map((times) => rounded(now * times)).filter((value) => value > now && value <= max);
}

/** Each way to ask less of a signal, from a little less to much less. */
function ladders(signal: PlanSignal): Relaxed[][] {
  return kindOf(signal)
    .relaxations(signal.target)
    .map((relaxation) =>
      valuesOf(relaxation).map((value) => ({
        signal: { ...signal, target: { ...signal.target, [relaxation.field]: value } } as PlanSignal,
        text: `${signal.name} ${relaxation.say(value)}`,
      })),
    );
}

/**
 * The smallest relaxation with which a signal can be made, one for each of its tolerances that helps at all. `solve`
 * gives what is found for a relaxed signal, and must find something for all that are relaxed still more.
 */
export function minRelaxation<T>(
  signal: PlanSignal,
  solve: (relaxed: PlanSignal) => T | undefined,
): { relaxed: Relaxed; found: T }[] {
  return ladders(signal).flatMap((ladder) => {
    const last = ladder[ladder.length - 1];
    const found = last && solve(last.signal);
    if (!last || found === undefined) return [];
    let best = { relaxed: last, found };
    let [low, high] = [0, ladder.length - 1];
    while (low < high) {
      const middle = (low + high) >> 1;
      const one = ladder[middle] as Relaxed;
      const made = solve(one.signal);
      if (made === undefined) low = middle + 1;
      else [high, best] = [middle, { relaxed: one, found: made }];
    }
    return [best];
  });
}
