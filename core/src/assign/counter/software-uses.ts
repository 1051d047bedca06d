import { withinDuty, withinWidth, type TickRequirement } from '../../fit/candidate.ts';
import { driveById } from '../../timer/drives/index.ts';
import { compareForShare, countsFor } from '../../timer/count.ts';
import { kthOf, type RunBand, type Counted } from './bands.ts';
import { runsIn, type CounterContext, type Share, type Use } from './context.ts';
import { qualityOf, type Scales } from './quality.ts';
import { MAX_DIVIDER } from '../../timer/tick.ts';

/** Where a use with only a minimum frequency is wanted, as slow as this is never needed. */
const NOWHERE = Number.MAX_SAFE_INTEGER;

/** The lengths of a run that a use wants whose period is one run or two. */
export function directBand({ drive }: Use, { lowTicks, highTicks }: TickRequirement): RunBand {
  const runs = runsIn(drive);
  return { low: Math.ceil(lowTicks / runs), high: Math.floor(Math.min(highTicks, NOWHERE) / runs) };
}

/** Of k interrupts those after which a counted pin falls. */
export function highOf({ share }: TickRequirement, k: number): number {
  return countsFor(share, k);
}

/**
 * A tick takes any number of runs, a toggled pin twice as many for a period, a counted pin those that hit its duty, or
 * make its width within what the frequency leaves.
 */
export function countedBand({ drive, request: { requirement } }: Use, wanted: TickRequirement): Counted {
  const { lowTicks, highTicks, widths } = wanted;
  const record = driveById(drive);
  if (record.duty !== 'counted') {
    const changes = record.runsPerPeriod(requirement.pin);
    const band = { low: Math.ceil(lowTicks / changes), high: Math.floor(highTicks / changes) };
    return { ...band, within: (k) => kthOf(band, k) };
  }
  const band = { low: lowTicks, high: Math.min(highTicks, NOWHERE) };
  const min = Math.max(2, requirement.minSteps);
  const [width] = widths;
  return {
    ...band,
    within: (k) => {
      if (k < min) return undefined;
      const high = highOf(wanted, k);
      if (wanted.edges && (high === 0 || high === k)) return undefined;
      if (!width) return withinDuty(wanted, high, k) ? kthOf(band, k) : undefined;
      const one = kthOf(band, k);
      const pulse = kthOf({ low: width.lowTicks, high: width.highTicks }, high);
      return { low: Math.max(one.low, pulse.low), high: Math.min(one.high, pulse.high) };
    },
  };
}

/** So many numbers of runs are tried for one use on a run. */
const MAX_RUNS = 4096;

/**
 * The numbers of runs to a change that suit one use of a counter whose run is given, the nearest to its period first.
 * Without an end in practice only where the run is short against the period: `cut` is called where there are too many.
 */
export function* runsFor(use: Use, wanted: TickRequirement, run: number, cut: () => void): Generator<number> {
  const { low, high, within } = countedBand(use, wanted);
  const [from, to] = [Math.max(1, Math.ceil(low / run)), Math.floor(high / run)];
  const changes = driveById(use.drive).runsPerPeriod(use.request.requirement.pin);
  const ideal = Math.round((wanted.periodFloat ?? wanted.highTicks) / run / changes);
  const start = Math.min(to, Math.max(from, ideal));
  for (let off = 0; start - off >= from || start + off <= to; off += 1) {
    if (off > MAX_RUNS) return cut();
    for (const k of off === 0 ? [start] : [start - off, start + off]) {
      if (k < from || k > to) continue;
      const band = within(k);
      if (band && run >= band.low && run <= band.high) yield k;
    }
  }
}

type Made = { share: Share; periodTicks: number; high: number; steps: number };

/** What a software drive makes of a run length in ticks with k runs between two changes. */
function madeOf(
  context: CounterContext,
  use: Use,
  wanted: TickRequirement,
  n: number,
  top: number,
  run: number,
  k: number,
): Made {
  const { duty, divides } = driveById(use.drive);
  if (duty === 'counted') {
    const compare = highOf(wanted, k);
    return { share: { divider: k, compare }, periodTicks: k * run, high: compare * run, steps: k };
  }
  if (divides) {
    const periodTicks = (use.request.requirement.pin ? 2 : 1) * k * run;
    return {
      share: { divider: k },
      periodTicks,
      high: periodTicks / 2,
      steps: use.request.requirement.pin ? 2 : 1,
    };
  }
  const { mode, busyTicks } = context;
  const [width] = wanted.widths;
  const share = width ? Math.min(1, width.ideal / run) : wanted.share;
  const compare = compareForShare(mode, top, share);
  const high = Math.min(Math.max((compare + (mode.lag ?? 0)) * n, busyTicks), Math.max(run - busyTicks, 0));
  const steps = Math.max(2, Math.floor((run - 2 * busyTicks) / n));
  return { share: { compare }, periodTicks: run, high, steps };
}

/**
 * What a use of the program gets from a run, k of them to a change; undefined where its requirement is not met. In plain
 * numbers, which equal the exact outcome of the drive.
 */
export function softwareShareAt(
  context: CounterContext,
  at: number,
  n: number,
  top: number,
  run: number,
  k: number,
): { share: Share; quality: number } | undefined {
  const [use, wanted] = [context.uses[at], context.wanted[at]];
  if (!use || !wanted || k > MAX_DIVIDER) return undefined;
  const { requirement, clockHz, scale } = wanted;
  const jitterS = context.lateS + (n % scale === 0 ? 0 : scale / clockHz);
  if (requirement.jitterS !== undefined && jitterS > requirement.jitterS) return undefined;
  const { share, periodTicks, high, steps } = madeOf(context, use, wanted, n, top, run, k);
  if (periodTicks < wanted.lowTicks || periodTicks > wanted.highTicks || steps < requirement.minSteps)
    return undefined;
  const [width] = wanted.widths;
  const still = wanted.edges && (high <= 0 || high >= periodTicks);
  const meets = width
    ? withinWidth(width, high, periodTicks, periodTicks)
    : withinDuty(wanted, high, periodTicks);
  if (requirement.pin && (still || !meets)) return undefined;
  const made = { frequencyHz: clockHz / periodTicks, duty: high / periodTicks, steps };
  return { share, quality: qualityOf(context.scales[at] as Scales, made) };
}
