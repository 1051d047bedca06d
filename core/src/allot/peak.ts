import type { Band } from './bands.ts';
import { runsIn, type Bench } from './bench.ts';
import { levelOf, rateQuality, stepsQuality } from './quality.ts';

/** Halvings until the best run is known to a billionth. */
const ROUNDS = 48;

/** Where a band is best: the run, and the level that nothing in it is above. */
export type Peak = { run: number; level: number };

/** Runs of the counter in a period of each use, `runs` of them to a change. */
function periodsIn({ uses }: Bench, runs: readonly number[]): number[] {
  return uses.map(({ drive, request: { goal } }, at) => {
    const changes = drive === 'interrupt' && goal.pin ? 2 : 1;
    return runsIn(drive) * changes * (runs[at] ?? 1);
  });
}

/**
 * The run of a band at which frequencies and steps are best, for a counter divided by n parts of the clock (the runs of
 * greater divisions are no better): every quality but that of the pulse is concave in the frequency of the runs, so a
 * search by thirds finds the greatest of the least of them.
 */
export function peakOf(bench: Bench, band: Band, runs: readonly number[], n: number): Peak {
  const { scales, uses, wanted, mode, counter } = bench;
  const periods = periodsIn(bench, runs);
  const clockHz = wanted[0]?.clockHz ?? 0;
  const stepTicks = (counter.factor * n) / (mode.compare?.grain ?? 1);
  const at = (rate: number): number => {
    let least = 2;
    for (const [index, scale] of scales.entries()) {
      if (!mode.compare?.spread)
        least = Math.min(least, rateQuality(scale, (clockHz * rate) / (periods[index] ?? 1)));
      const { drive } = uses[index] ?? {};
      if (drive === 'compare') least = Math.min(least, stepsQuality(scale, 1 / rate / stepTicks));
    }
    return least;
  };
  let [low, high] = [1 / band.high, 1 / Math.max(1, band.low)];
  for (let round = 0; round < ROUNDS; round += 1) {
    const [one, other] = [low + (high - low) / 3, high - (high - low) / 3];
    if (at(one) < at(other)) low = one;
    else high = other;
  }
  const best = (low + high) / 2;
  return { run: 1 / best, level: levelOf(Math.max(0, Math.min(1, at(best))) + 1e-6) };
}

/** Whether the best level depends on the division: where the compare needs its steps. */
export function needsSteps({ uses, scales }: Bench): boolean {
  return uses.some(({ drive }, at) => drive === 'compare' && (scales[at]?.minSteps ?? 0) > 1);
}
