import type { Mode } from '../part/schema.ts';
import type { Drive } from './setting.ts';

/** Counts of one run of the counter. Up-counter: top + 1. Up-down counter: 2 x top. */
export function countsOf(mode: Mode, top: number): number {
  return mode.count === 'up' ? top + 1 : 2 * top;
}

/** The top with which the counter runs so many counts; a fraction where there is none. Inverse of `countsOf`. */
export function topFor(mode: Mode, counts: number): number {
  return mode.count === 'up' ? counts - 1 : counts / 2;
}

/** Runs of the counter in a period of the pin: 2 where the output toggles once a run, else 1. */
export function runsOf(drive: Drive): number {
  return drive === 'toggle' ? 2 : 1;
}

/**
 * Whether an output is left alone for ever: an up-down counter changes it at matches only, and above top there is none,
 * so it keeps the level of its reset, low. (A fast mode still sets its output at the start of each run.)
 */
export function neverMatches(mode: Mode, top: number, compare: number): boolean {
  return mode.count === 'updown' && compare > top;
}

/**
 * Counts of one run during which a PWM output is high; 0 where it never matches. A mode that is high for `compare + 1`
 * counts cannot reach zero and reaches the whole run at compare = top; above that the output stays as each run sets it.
 */
export function highCounts(mode: Mode, top: number, compare: number, inverted: boolean): number {
  if (neverMatches(mode, top, compare)) return 0;
  const counts = countsOf(mode, top);
  const extra = mode.compare?.high === 'compare+1' ? 1 : 0;
  const high = mode.count === 'up' ? compare + extra : 2 * compare;
  const within = Math.min(counts, high);
  return inverted ? counts - within : within;
}

/** Duty values the compare can tell apart in a period: counts of an up-counter, top of an up-down counter; a toggle has two halves. */
export function stepsOf(mode: Mode, drive: Drive, top: number): number {
  if (drive === 'toggle') return 2;
  return mode.count === 'up' ? top + 1 : top;
}

/** The compare value whose high time is nearest to the wanted share of the run; share from 0 to 1. */
export function compareFor(mode: Mode, top: number, share: number, inverted: boolean): number {
  const wanted = (inverted ? 1 - share : share) * countsOf(mode, top);
  const extra = mode.compare?.high === 'compare+1' ? 1 : 0;
  const compare = mode.count === 'up' ? Math.round(wanted) - extra : Math.round(wanted / 2);
  return Math.min(top, Math.max(0, compare));
}
