import type { Exact } from '../../quantity/exact.ts';
import type { Requirement } from '../../signal/requirement.ts';

/** Qualities are rounded to this many levels; within one level other criteria decide. */
export const LEVELS = 20;

/** Processor time is compared in steps of a ten-millionth. */
export function cpuSteps(cpu: number): number {
  return Math.round(cpu * 1e7);
}

/** Processor time in whole steps, so that sums of it compare as their parts do. */
export function roundedCpu(cpu: number): number {
  return cpuSteps(cpu) / 1e7;
}

/** A band in plain numbers, from its limits to 1 at half of the way to its middle. */
type Scale = { low: number; high: number };

/** What a requirement's quality is measured with, in plain numbers. */
export type Scales = {
  /** Without an upper end where there is no highest frequency. */
  rate: Scale;
  width?: Scale;
  duty?: Scale;
  minSteps: number;
  /** Steps that an input needs. */
  inputSteps?: number;
};

/** The scales of a requirement. */
export function scalesOf({ frequency, width, duty, minSteps, pin, input }: Requirement): Scales {
  const scale = ({ low, high }: { low: Exact; high: Exact }): Scale => ({
    low: low.valueOf(),
    high: high.valueOf(),
  });
  const rate = { low: frequency.low.valueOf(), high: frequency.high?.valueOf() ?? Infinity };
  return {
    rate,
    ...(pin ? (width ? { width: scale(width) } : { duty: scale(duty) }) : {}),
    minSteps,
    ...(input ? { inputSteps: 1 / input.resolution } : {}),
  };
}

/** From 0 where there is just enough to 1 where there is twice as much, and above. */
function headroom(value: number, min: number): number {
  return min <= 0 ? 1 : 2 * (1 - min / value);
}

/** From 0 at the limits to 1 at half of the way to the middle, and above up to 2. */
function inBand(value: number, { low, high }: Scale): number {
  return high > low ? (4 * Math.min(value - low, high - value)) / (high - low) : 1;
}

/** How well a frequency keeps to its scale: 1 and above is ample. Concave in the frequency. */
export function rateQuality({ rate }: Scales, frequencyHz: number): number {
  return rate.high === Infinity ? headroom(frequencyHz, rate.low) : inBand(frequencyHz, rate);
}

/** The number of duty steps relative to the required minimum: 1 and above is ample. */
export function stepsQuality({ minSteps }: Scales, steps: number): number {
  return minSteps > 1 ? headroom(steps, minSteps) : 1;
}

/** How well a pulse keeps to its width or duty: 1 and above is ample. */
export function pulseQuality({ width, duty }: Scales, share: number, frequencyHz: number): number {
  return width ? inBand(share / frequencyHz, width) : duty ? inBand(share, duty) : 1;
}

/** What quality looks at. */
export type Made = { frequencyHz: number; duty: number; steps: number };

/**
 * How well a setting that meets its requirement does so, from 0 (just) to 1 (amply): the smallest remaining share of the tolerance
 * of frequency and of duty or width, and of the steps and the speed beyond the least. More than half of a tolerance, or
 * twice the steps, are not scarce, so they count as all.
 */
export function qualityOf(scales: Scales, { frequencyHz, duty, steps }: Made): number {
  const { inputSteps } = scales;
  if (inputSteps !== undefined) return Math.max(0, Math.min(1, headroom(steps, inputSteps)));
  const min = Math.min(
    rateQuality(scales, frequencyHz),
    pulseQuality(scales, duty, frequencyHz),
    stepsQuality(scales, steps),
  );
  return Math.max(0, Math.min(1, min));
}

/** A quality brought to whole levels. */
export function qualityLevel(quality: number): number {
  return Math.floor(quality * LEVELS + 1e-9);
}
