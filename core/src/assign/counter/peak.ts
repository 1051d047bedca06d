import type { RunBand } from './bands.ts';
import { driveById } from '../../timer/drives/index.ts';
import type { TickRequirement } from '../../fit/candidate.ts';
import { changesOf, needsCompare, type CounterContext, type Use } from './context.ts';
import { qualityLevel, pulseQuality, rateQuality, stepsQuality } from './quality.ts';
import { highOf } from './software-uses.ts';

/** Halvings until the best run is known to a billionth. */
const ROUNDS = 48;

/** Where a band is best: the run, and the level that nothing in it is above. */
export type Peak = { run: number; level: number };

/** The duty of a use that does not depend on how its run is divided; undefined where it does. */
function shareIn({ drive }: Use, wanted: TickRequirement | undefined, k: number): number | undefined {
  if (!wanted || !wanted.requirement.pin) return undefined;
  const { duty } = driveById(drive);
  if (duty === 'counted') return highOf(wanted, k) / k;
  return duty === 'half' ? 0.5 : undefined;
}

/** Whether nothing but the length of a run decides how good a counter is. */
export function byRunAlone({ uses }: CounterContext): boolean {
  return uses.every(({ drive }) => ['half', 'counted'].includes(driveById(drive).duty));
}

/**
 * The run of a band at which frequencies, steps and counted pulses are best, for a counter divided by n parts of the clock (the runs of
 * greater divisions are no better): each quality rises up to some frequency of the runs and falls after it,
 * and so does the least of them, so a search by thirds finds the greatest. Pulses that a compare register makes may be
 * worse than that, never better; users that are left to the run (0 of them) are left out.
 */
export function peakOf(context: CounterContext, band: RunBand, runs: readonly number[], n: number): Peak {
  const { scales, uses, wanted, mode, counter } = context;
  const periods = uses.map((use, at) => changesOf(use) * (runs[at] ?? 1));
  const clockHz = wanted[0]?.clockHz ?? 0;
  const stepTicks = (counter.factor * n) / (mode.pwm?.grain ?? 1);
  const shares = uses.map((use, at) => shareIn(use, wanted[at], runs[at] ?? 1));
  const at = (rate: number): number => {
    let min = 2;
    for (const [index, scale] of scales.entries()) {
      const period = periods[index] ?? 1;
      if (period === 0) continue;
      const frequencyHz = (clockHz * rate) / period;
      if (!mode.pwm?.spread) min = Math.min(min, rateQuality(scale, frequencyHz));
      const share = shares[index];
      if (share !== undefined) min = Math.min(min, pulseQuality(scale, share, frequencyHz));
      const { drive } = uses[index] ?? {};
      if (drive !== undefined && needsCompare(drive))
        min = Math.min(min, stepsQuality(scale, 1 / rate / stepTicks));
    }
    return min;
  };
  let [low, high] = [1 / band.high, 1 / Math.max(1, band.low)];
  for (let round = 0; round < ROUNDS; round += 1) {
    const [one, other] = [low + (high - low) / 3, high - (high - low) / 3];
    if (at(one) < at(other)) low = one;
    else high = other;
  }
  const best = 1 / ((low + high) / 2);
  // Runs are whole: the best of them is beside the peak.
  const beside = [-1, 0, 1, 2]
    .map((off) => Math.floor(best) + off)
    .filter((run) => run >= band.low && run <= band.high);
  const quality = Math.max(...beside.map((run) => at(1 / run)));
  return { run: best, level: qualityLevel(Math.max(0, Math.min(1, quality)) + 1e-9) };
}

/** Whether the best level depends on the division: where the compare needs its steps. */
export function needsSteps({ uses, scales }: CounterContext): boolean {
  return uses.some(({ drive }, at) => needsCompare(drive) && (scales[at]?.minSteps ?? 0) > 1);
}
