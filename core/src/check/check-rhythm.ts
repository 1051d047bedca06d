import type { Check } from './check.ts';

/** Limits of a time in s. */
export type Limits = { low: number; high: number };

/** A pulse of a rhythm and the low time after it, in s. */
export type Beat = { highS: number; lowS: number };

/** What a rhythm should be: the limits of each pulse, of the low time after it, and of one pass through all of it. */
export type WantedRhythm = { beats: readonly { high: Limits; low: Limits }[]; cycle: Limits };

/** How far a time is inside its limits after the oscillator's tolerance; negative outside. */
function marginOf(value: number, { low, high }: Limits, tolerancePpm: number): number {
  return Math.min(value - low, high - value) - (value * tolerancePpm) / 1e6;
}

/** A time with its limits, in s. */
export type TimedValue = { value: number; limits: Limits };

/** The time of several that is nearest to a limit, or farthest beyond one. */
export function worstTime(label: string, times: readonly TimedValue[], tolerancePpm: number): Check[] {
  const judged = times.map((one) => ({ ...one, margin: marginOf(one.value, one.limits, tolerancePpm) }));
  const [first, ...others] = judged;
  if (!first) return [];
  const { value, limits, margin } = others.reduce(
    (one, other) => (other.margin < one.margin ? other : one),
    first,
  );
  const verdict = margin >= -1e-12 ? 'pass' : 'fail';
  return [{ property: 'sequence', unit: 's', label, value, ...limits, margin, verdict }];
}

/**
 * One pass of a sequence as it is made against what it should be: each pulse, each low time between two pulses, and the length of the whole pass.
 * `cycleS` is absent where it does not begin again; then the last low time is not looked at. Pulses and low times are only compared where there are as
 * many as there should be: their number has a check of its own.
 */
export function checkRhythm(
  beats: readonly Beat[],
  cycleS: number | undefined,
  wanted: WantedRhythm,
  tolerancePpm: number,
): Check[] {
  const cycle =
    cycleS === undefined ? [] : worstTime('cycle', [{ value: cycleS, limits: wanted.cycle }], tolerancePpm);
  if (beats.length !== wanted.beats.length) return cycle;
  const highs = beats.flatMap(({ highS }, at) => {
    const limits = wanted.beats[at]?.high;
    return limits ? [{ value: highS, limits }] : [];
  });
  const lows = beats.flatMap(({ lowS }, at) => {
    const limits = wanted.beats[at]?.low;
    return limits && (cycleS !== undefined || at < beats.length - 1) ? [{ value: lowS, limits }] : [];
  });
  return [
    ...worstTime('pulse length', highs, tolerancePpm),
    ...worstTime('gap', lows, tolerancePpm),
    ...cycle,
  ];
}
