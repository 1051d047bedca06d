import { clockAt, type ClockPath } from '../../clock/path.ts';
import type { Part, Timer } from '../../part/types.ts';
import { printPpm } from '../../quantity/print.ts';
import type { Requirement } from '../../signal/requirement.ts';
import type { Refusal } from './refusal.ts';

/** The frequency tolerance of a target in ppm; infinite where only a minimum is asked for. */
export function allowedPpm({ frequency, input }: Requirement): number {
  if (frequency.kind !== 'near' || input) return Infinity;
  return frequency.high.div(frequency.ideal).sub(1).mul(1000000).valueOf();
}

/**
 * The timers whose oscillator alone does not exceed the target's tolerance, and why the others are left out. Where no
 * timer has such an oscillator the steadiest stay: then the divider can still be right, and the verdict says the rest.
 */
export function steadyTimers(
  part: Part,
  path: ClockPath,
  requirement: Requirement,
): { timers: readonly Timer[]; refused: Refusal[] } {
  const allowed = allowedPpm(requirement);
  const offBy = (timer: Timer): number => clockAt(path, timer.clock).tolerancePpm;
  const bound = Math.max(allowed, Math.min(...part.timers.map(offBy)));
  const steady = part.timers.filter((timer) => offBy(timer) <= bound);
  const loose = part.timers.filter((timer) => !steady.includes(timer));
  return {
    timers: steady,
    refused: loose.map((timer) => ({
      timer: timer.id,
      reason:
        `The error of its clock can reach ${printPpm(offBy(timer)).replace('+', '±')}, ` +
        `the target allows ${printPpm(allowed).replace('+', '±')}.`,
    })),
  };
}
