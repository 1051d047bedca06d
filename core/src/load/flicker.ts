import { printHz } from '../quantity/print.ts';

/** The two limits that IEEE 1789-2015 recommends for the depth of a modulation of light. */
export const FLICKER_LIMITS = ['low-risk', 'no-effect'] as const;

/**
 * The greatest depth of modulation (0 to 1) at a frequency, by IEEE 1789-2015: low risk is 0.025 % per Hz below 90 Hz and
 * 0.08 % per Hz above, no observable effect 0.01 % per Hz below 90 Hz and 1/30 % per Hz above; no limit from 1250 Hz and
 * 3000 Hz on.
 */
export function flickerDepth(limit: (typeof FLICKER_LIMITS)[number], hz: number): number {
  const [slow, fast, free] = limit === 'low-risk' ? [0.00025, 0.0008, 1250] : [0.0001, 1 / 3000, 3000];
  if (hz >= free) return 1;
  return Math.min(1, hz < 90 ? slow * hz : fast * hz);
}

/** The least frequency at which light that goes fully on and off keeps a limit, in Hz; undefined for steady light. */
export function flickerLimitHz(limit: string | undefined, duty: number): number | undefined {
  if (duty <= 0 || duty >= 1) return undefined;
  return limit === 'low-risk' ? 1250 : limit === 'no-effect' ? 3000 : undefined;
}

/** What the limit of a light that goes fully on and off is called. */
export function flickerText(limit: string | undefined, hz: number): string {
  const name = limit === 'low-risk' ? 'Low risk' : 'No observable effect';
  return `${name} by IEEE 1789: light that goes fully off needs ${printHz(hz)} or more.`;
}
