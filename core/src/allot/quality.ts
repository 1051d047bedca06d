import type { Exact } from '../quantity/exact.ts';
import type { Goal } from '../target/goal.ts';

/** Qualities are compared in so many steps; within one, other things decide. */
export const LEVELS = 20;

/** Processor time is compared in steps of a ten-millionth. */
export function cpuSteps(cpu: number): number {
  return Math.round(cpu * 1e7);
}

/** From 0 at a limit to 1 where at least half of the way to the middle is left. */
function fromMargin(margin: number, half: number): number {
  return half <= 0 ? 1 : Math.max(0, Math.min(1, (2 * margin) / half));
}

/** From 0 where there is just enough to 1 where there is twice as much. */
function fromHeadroom(value: number, least: number): number {
  return least <= 0 ? 1 : Math.max(0, Math.min(1, 2 * (1 - least / value)));
}

function inBand(value: number, low: Exact, high: Exact): number {
  const [from, to] = [low.valueOf(), high.valueOf()];
  return fromMargin(Math.min(value - from, to - value), (to - from) / 2);
}

/** What quality looks at. */
export type Made = { frequencyHz: number; duty: number; steps: number };

/**
 * How well a setting that meets its goal does so, from 0 (just) to 1 (amply): the least of what is left of the tolerance
 * of frequency and of duty or width, and of the steps and the speed beyond the least. More than half of a tolerance, or
 * twice the steps, are not scarce, so they count as all.
 */
export function qualityOf(goal: Goal, { frequencyHz, duty, steps }: Made): number {
  const { frequency, width } = goal;
  if (goal.input) return fromHeadroom(steps, 1 / goal.input.resolution);
  const rate =
    frequency.kind === 'near'
      ? inBand(frequencyHz, frequency.low, frequency.high)
      : fromHeadroom(frequencyHz, frequency.low.valueOf());
  const pulse = !goal.pin
    ? 1
    : width
      ? inBand(duty / frequencyHz, width.low, width.high)
      : inBand(duty, goal.duty.low, goal.duty.high);
  const fine = goal.minSteps > 1 ? fromHeadroom(steps, goal.minSteps) : 1;
  return Math.min(rate, pulse, fine);
}

/** A quality brought to whole levels. */
export function levelOf(quality: number): number {
  return Math.floor(quality * LEVELS + 1e-9);
}
