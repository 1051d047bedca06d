import { printNumber, printSeconds } from '../quantity/print.ts';
import type { Check } from './check.ts';

/** How many pulses one pass through a sequence has, or one group of pulses a capture shows. */
export function checkPulses(count: number, { low, high }: { low: number; high: number }): Check {
  const margin = Math.min(count - low, high - count);
  return {
    property: 'pulses',
    unit: 'count',
    value: count,
    low,
    high,
    margin,
    verdict: margin >= 0 ? 'pass' : 'fail',
  };
}

/** When the first edge comes after the start of the timer, in s; undefined where none does. A slow oscillator makes it later. */
export function checkFirstEdge(firstS: number | undefined, maxS: number, tolerancePpm = 0): Check {
  const base = { property: 'first edge', unit: 's', high: maxS } as const;
  if (firstS === undefined) return { ...base, verdict: 'fail', note: 'No edge comes at all.' };
  const margin = maxS - firstS * (1 + tolerancePpm / 1e6);
  const note = margin < 0 ? `The first edge comes ${printSeconds(firstS)} after the start.` : undefined;
  return {
    ...base,
    value: firstS,
    margin,
    verdict: margin >= 0 ? 'pass' : 'fail',
    ...(note ? { note } : {}),
  };
}

/** An angle brought to (-180, 180]. */
function turned(degrees: number): number {
  const within = ((degrees % 360) + 360) % 360;
  return within > 180 ? within - 360 : within;
}

/** An angle as it is shown beside a wanted one: near to it if it is, else within one turn, on the wanted one's side of zero. */
function shownAngle(degrees: number, wanted: number, tolerance: number): number {
  const off = turned(degrees - wanted);
  if (Math.abs(off) <= tolerance + 1e-9) return wanted + off;
  return wanted < 0 ? turned(degrees) : ((degrees % 360) + 360) % 360;
}

/**
 * How much of a period, in degrees, a signal's rise comes after another one's.
 * @param delayS from the other's rise to this one's. @param otherHz the rate of the other, which must be the same.
 */
export function checkPhase(
  delayS: number,
  hz: number,
  otherHz: number,
  wanted: { degrees: number; tolerance: number; other: string },
): Check {
  const low = wanted.degrees - wanted.tolerance;
  const high = wanted.degrees + wanted.tolerance;
  const base = { property: 'phase', unit: '°', low, high } as const;
  const drift = Math.abs(hz - otherHz) * 360;
  if (Math.abs(hz / otherHz - 1) > 1e-12) {
    const note = `${wanted.other} has another frequency, so the phase moves by ${printNumber(drift, 3)}° a second.`;
    return { ...base, verdict: 'fail', note };
  }
  const degrees = delayS * hz * 360;
  const off = turned(degrees - wanted.degrees);
  const margin = wanted.tolerance - Math.abs(off);
  // Rates have no more than fifteen digits, and so has an angle that comes of them.
  const passes = margin >= -1e-9;
  const value = Number(shownAngle(degrees, wanted.degrees, wanted.tolerance).toPrecision(12));
  return { ...base, value, margin, verdict: passes ? 'pass' : 'fail' };
}
