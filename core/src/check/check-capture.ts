import { exact, type Exact } from '../quantity/exact.ts';
import { printSeconds } from '../quantity/print.ts';
import type { Requirement } from '../signal/requirement.ts';
import { measure, type Measured } from '../wave/measure.ts';
import { GLITCH, lineOf, shortPulses, usualLengths, withoutGlitches } from '../wave/statistics.ts';
import type { EdgeList } from '../wave/edges.ts';
import { checkMeasured, type Check } from './check.ts';

/** Shorter than this no pulse of the target is, in ticks: a fifth of the lesser of its high and low time. */
export function glitchTicks(requirement: Requirement, tickHz: Exact): number | undefined {
  const { frequency, duty } = requirement;
  const share = Math.min(duty.ideal.valueOf(), 1 - duty.ideal.valueOf());
  if (frequency.kind !== 'near' || share <= 0) return undefined;
  return tickHz.div(frequency.ideal).valueOf() * share * GLITCH;
}

function glitchCheck(trace: EdgeList, limit: number): Check {
  const count = shortPulses(trace, limit).length;
  return {
    property: 'glitches',
    unit: 'count',
    value: count,
    high: 0,
    margin: -count,
    verdict: count === 0 ? 'pass' : 'fail',
  };
}

function jitterCheck(trace: EdgeList, tickHz: Exact, max: number): Check {
  const line = lineOf(trace);
  const base = { property: 'jitter', unit: 's', high: max } as const;
  if (!line) return { ...base, verdict: 'unknown', note: 'It takes three rising edges to tell.' };
  const value = line.peakTicks / tickHz.valueOf();
  const sigma = printSeconds(line.sigmaTicks / tickHz.valueOf(), 3);
  return {
    ...base,
    value,
    margin: max - value,
    verdict: value <= max ? 'pass' : 'fail',
    note: `sigma ${sigma} over ${line.rises} edges`,
  };
}

/** How long a capture would have to be: two periods of the slowest that will do. */
function longEnough(requirement: Requirement): string {
  return printSeconds(exact(2).div(requirement.frequency.low).valueOf(), 3);
}

/** Digits of a period that edges on whole ticks can tell. */
const DIGITS = 12;

/**
 * What is measured of a captured trace: its period is the slope of the line through all rising edges, pulses far shorter than the usual ones left out,
 * and its duty the mean over whole periods.
 */
function measuredOf(trace: EdgeList): Measured {
  const clean = withoutGlitches(trace);
  const line = lineOf(clean);
  const seen = measure(clean);
  return line ? { ...seen, period: exact(Number(line.periodTicks.toPrecision(DIGITS))) } : seen;
}

/**
 * Checks a captured trace against a requirement: the same checks as for a computed trace (except the steps, which no capture
 * shows), jitter as it was measured, and no pulse far shorter than the target's. What the capture is too short for is
 * unknown, with the length it would need.
 */
export function checkCapture(trace: EdgeList, requirement: Requirement, tickHz: Exact): Check[] {
  const usual = usualLengths(trace);
  const limit = glitchTicks(requirement, tickHz) ?? (usual && GLITCH * Math.min(usual.low, usual.high));
  const lasting = exact(trace.to - trace.from)
    .mul(requirement.frequency.low)
    .compare(tickHz.mul(2));
  const seen = checkMeasured(measuredOf(trace), { ...requirement, minSteps: 1 }, tickHz, {
    tolerancePpm: 0,
    steps: 1,
    jitterS: 0,
    lasting: lasting >= 0,
  }).filter(({ property }) => property !== 'jitter');
  const told = seen.map((check): Check =>
    check.verdict === 'unknown'
      ? {
          ...check,
          note: `The capture holds no whole period; ${longEnough(requirement)} would be long enough.`,
        }
      : check,
  );
  return [
    ...told,
    ...(requirement.jitterS === undefined ? [] : [jitterCheck(trace, tickHz, requirement.jitterS)]),
    ...(limit === undefined || !requirement.pin || trace.edges.length === 0
      ? []
      : [glitchCheck(trace, limit)]),
  ];
}
