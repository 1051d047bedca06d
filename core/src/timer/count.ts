import type { Mode } from '../part/types.ts';
import { ratio, type Exact } from '../quantity/exact.ts';

/** Counts of one run of the counter. Up-counter: top + base. Up-down counter: 2 x (top + base). Base is the mode's. */
export function countsOf(mode: Mode, top: number): number {
  return (mode.count === 'up' ? 1 : 2) * (top + mode.base);
}

/** The count at which a counter begins: the one that a setting says, or so many before the first run as its mode has. */
export function beginOf(mode: Mode, { top, begin }: { top: number; begin?: number }): number {
  return begin ?? (mode.lead === undefined ? 0 : countsOf(mode, top) - mode.lead);
}

/** Compare steps in a count: 1, or 4 where the duty register counts quarters. */
export function grainOf(mode: Mode): number {
  return mode.pwm?.grain ?? 1;
}

/**
 * The greatest compare value that means something. Where the output is high for `compare + 1` counts that is top; where
 * it is high for `compare` counts, one more gives the whole run, if the compare value is wide enough for it.
 */
export function maxCompare(mode: Mode, top: number, width: number): number {
  const widest = 2 ** (mode.pwm?.bits ?? width) - 1;
  const atTop = mode.pwm?.high === 'compare+1' || mode.pwm?.full === 'top' || togglesTwice(mode);
  const plain = atTop ? top : (top + mode.base) * grainOf(mode);
  return Math.min(widest, plain);
}

/** Whether match and overflow both toggle the PWM output, so that it needs each of them in each run. */
export function togglesTwice(mode: Mode): boolean {
  return mode.pwm?.changes === 'toggle';
}

/** What stands against moving such an output. */
export function stillSentence(timer: string): string {
  return `${timer} cannot change its PWM while its counter runs.`;
}

/** The least compare value with which the output does what the mode says. */
export function minCompare(mode: Mode): number {
  return togglesTwice(mode) ? 1 : 0;
}

/**
 * Whether an output is left alone for ever: an up-down counter changes it at matches only, and above top there is none,
 * so it keeps the level of its reset, low. (A fast mode still sets its output at the start of each run.) A counter whose
 * output follows a comparison rather than a match cannot miss one.
 */
export function neverMatches(mode: Mode, top: number, compare: number): boolean {
  return mode.count === 'updown' && mode.pwm?.changes === 'match' && compare > top;
}

/**
 * Compare steps of one run during which a PWM output is high, of countsOf x grainOf; 0 where it never matches. A mode
 * that is high for `compare + 1` counts cannot reach zero and reaches the whole run at compare = top; above that the
 * output stays as each run sets it.
 */
export function highCounts(mode: Mode, top: number, compare: number, inverted: boolean): number {
  if (neverMatches(mode, top, compare)) return 0;
  const whole = countsOf(mode, top) * grainOf(mode);
  const extra = mode.pwm?.high === 'compare+1' ? 1 : 0;
  const full = mode.pwm?.full === 'top' && compare >= top;
  const high = full ? whole : mode.count === 'up' ? compare + extra : 2 * compare;
  const within = Math.min(whole, high);
  return inverted ? whole - within : within;
}

/** The least and the greatest share of a period that the compare values of a mode reach. */
export function reachedShares(
  mode: Mode,
  top: number,
  width: number,
  inverted: boolean,
): { min: Exact; max: Exact } {
  const whole = countsOf(mode, top) * grainOf(mode);
  const ends = [minCompare(mode), maxCompare(mode, top, width)].map((compare) =>
    highCounts(mode, top, compare, inverted),
  );
  return { min: ratio(Math.min(...ends), whole), max: ratio(Math.max(...ends), whole) };
}

/**
 * Duty values the compare can tell apart in a period: compare steps of an up-counter, half as many of an up-down
 * counter, whose compare moves both edges.
 */
export function stepsOf(mode: Mode, top: number): number {
  return (top + mode.base) * grainOf(mode);
}

/**
 * The number of counts, of a whole, that is closest to a share of it. A share strictly between 0 and 1 keeps both edges
 * of the pulse: at least one count high and one low, if the whole has two.
 */
export function countsFor(share: number, whole: number): number {
  const nearest = Math.round(share * whole);
  if (share <= 0 || share >= 1 || whole < 2) return nearest;
  return Math.min(whole - 1, Math.max(1, nearest));
}

/** The match that ends a pulse of the wanted share of an up-counter's run, by an interrupt rather than an output. */
export function compareForShare(mode: Mode, top: number, share: number): number {
  const wanted = Math.round(share * countsOf(mode, top)) - (mode.lag ?? 0);
  return Math.min(top, Math.max(0, wanted));
}

/**
 * The compare value whose high time is nearest to the wanted share of the run; share from 0 to 1. Strictly between the two
 * the pulse keeps its edges, where the compare value reaches that far.
 */
export function compareFor(mode: Mode, top: number, width: number, share: number, inverted: boolean): number {
  const whole = countsOf(mode, top) * grainOf(mode);
  const wanted = inverted ? 1 - share : share;
  const extra = mode.pwm?.high === 'compare+1' ? 1 : 0;
  const compare = mode.count === 'up' ? countsFor(wanted, whole) - extra : countsFor(wanted, whole / 2);
  return Math.min(maxCompare(mode, top, width), Math.max(minCompare(mode), compare));
}
