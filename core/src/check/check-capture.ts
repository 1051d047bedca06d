import { exact, type Exact } from '../quantity/exact.ts';
import { printSeconds } from '../quantity/print.ts';
import type { Goal } from '../target/goal.ts';
import { lineOf, shortPulses, usualLengths } from '../wave/statistics.ts';
import type { Trace } from '../wave/trace.ts';
import { checkTrace, type Check } from './check.ts';

/** Pulses shorter than this share of the wanted high or low time (or the usual one, where none is wanted) are glitches. */
const GLITCH = 0.2;

/** Shorter than this no pulse of the target is, in ticks: a fifth of the lesser of its high and low time. */
export function glitchTicks(goal: Goal, tickHz: Exact): number | undefined {
  const { frequency, duty } = goal;
  const share = Math.min(duty.ideal.valueOf(), 1 - duty.ideal.valueOf());
  if (frequency.kind !== 'near' || share <= 0) return undefined;
  return tickHz.div(frequency.ideal).valueOf() * share * GLITCH;
}

function glitchCheck(trace: Trace, limit: number): Check {
  const count = shortPulses(trace, limit).length;
  return {
    property: 'glitches',
    unit: 'count',
    value: count,
    high: 0,
    margin: -count,
    verdict: count === 0 ? 'holds' : 'misses',
  };
}

function jitterCheck(trace: Trace, tickHz: Exact, most: number): Check {
  const line = lineOf(trace);
  const base = { property: 'jitter', unit: 's', high: most } as const;
  if (!line) return { ...base, verdict: 'unknown', note: 'It takes three rising edges to tell.' };
  const value = line.peakTicks / tickHz.valueOf();
  const sigma = printSeconds(line.sigmaTicks / tickHz.valueOf(), 3);
  return {
    ...base,
    value,
    margin: most - value,
    verdict: value <= most ? 'holds' : 'misses',
    note: `sigma ${sigma} over ${line.rises} edges`,
  };
}

/** How long a capture would have to be: two periods of the slowest that will do. */
function longEnough(goal: Goal): string {
  return printSeconds(exact(2).div(goal.frequency.low).valueOf(), 3);
}

/**
 * Holds a captured trace against a goal: what a computed trace is held against (but for the steps, which no capture
 * shows), jitter as it was measured, and no pulse far shorter than the target's. What the capture is too short for is
 * unknown, with the length it would need.
 */
export function checkCapture(trace: Trace, goal: Goal, tickHz: Exact): Check[] {
  const usual = usualLengths(trace);
  const limit = glitchTicks(goal, tickHz) ?? (usual && GLITCH * Math.min(usual.low, usual.high));
  const seen = checkTrace(trace, { ...goal, minSteps: 1 }, tickHz, 0, 1).filter(
    ({ property }) => property !== 'jitter',
  );
  const told = seen.map((check): Check =>
    check.verdict === 'unknown' && trace.edges.length > 0
      ? { ...check, note: `The capture holds no whole period; ${longEnough(goal)} would be long enough.` }
      : check,
  );
  return [
    ...told,
    ...(goal.jitterS === undefined ? [] : [jitterCheck(trace, tickHz, goal.jitterS)]),
    ...(limit === undefined || !goal.pin || trace.edges.length === 0 ? [] : [glitchCheck(trace, limit)]),
  ];
}
