import { kindOf, type PlanSignal, requirementOf } from '@herzschlag/core';

/** What a signal looks like in a few pixels: so many periods, high for a share of each; none for an input or a tick. */
export type Outline = { periods: number; duty: number } | undefined;

/** So many signals of a plan are drawn. */
const MOST = 8;

function signalOutline(signal: PlanSignal): Outline {
  if (kindOf(signal).on !== 'output') return undefined;
  const { frequency, duty } = requirementOf(signal);
  const hz = (frequency.kind === 'near' ? frequency.ideal : frequency.low).valueOf();
  const periods = Math.round(2 + Math.max(0, Math.min(4, Math.log10(hz) + 1)));
  return { periods, duty: Math.max(0.06, Math.min(0.94, duty.ideal.valueOf())) };
}

/** The outlines of a stored plan; a signal that cannot be understood has none. */
export function outlineOf(stored: unknown): Outline[] {
  const signals = (stored as { signals?: unknown } | null)?.signals;
  if (!Array.isArray(signals)) return [];
  return signals.slice(0, MOST).map((signal): Outline => {
    try {
      return signalOutline(signal as PlanSignal);
    } catch {
      // A plan that does not open any more is reported when it is opened; here it only has no picture.
      return undefined;
    }
  });
}
