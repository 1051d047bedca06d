import { printNumber, printSeconds } from '../quantity/print.ts';
import type { Requirement } from '../signal/requirement.ts';
import type { Candidate } from './candidate.ts';

/** How round the numbers of a setting are, 0 the roundest, and in words what is round about them. */
export type Readability = { level: number; text?: string };

const PLAIN: Readability = { level: 4 };

/** Fewer steps than this are no scale to count in. */
const FEWEST_STEPS = 100;

/** The first digits of a number that is one, two or five times a power of ten; undefined for any other. */
function leading(value: number): 1 | 2 | 5 | undefined {
  if (!(value > 0) || !Number.isFinite(value)) return undefined;
  const decade = 10 ** Math.floor(Math.log10(value) + 1e-9);
  const digit = value / decade;
  return ([1, 2, 5] as const).find((one) => Math.abs(digit / one - 1) < 1e-9);
}

/**
 * How well the numbers of a setting can be read: best where one step of the compare value is 1 µs, 10 µs or another power of
 * ten of a second, so that the value is a width; then where the steps of a period are 100, 1000 or 10 000, so that it is a
 * share; then half, double and five times of these.
 */
export function readabilityOf({ stepS, steps }: Pick<Candidate, 'stepS' | 'steps'>): Readability {
  const time = leading(stepS);
  const share = steps >= FEWEST_STEPS ? leading(steps) : undefined;
  const timed = (level: number): Readability => ({ level, text: `one step is ${printSeconds(stepS, 6)}` });
  const shared = (level: number): Readability => ({ level, text: `${printNumber(steps)} steps in a period` });
  if (time === 1) return timed(0);
  if (share === 1) return shared(1);
  if (time !== undefined) return timed(2);
  return share === undefined ? PLAIN : shared(3);
}

/** What the best of all settings reach, to which a readable one is compared. */
export type Best = { bits: number; errorPpm: number };

/** The most bits, and the smallest error, among settings. */
export function bestOf(candidates: readonly Pick<Candidate, 'bits' | 'errorPpm'>[]): Best {
  return candidates.reduce<Best>(
    (best, { bits, errorPpm }) => ({
      bits: Math.max(best.bits, bits),
      errorPpm: Math.min(best.errorPpm, Math.abs(errorPpm)),
    }),
    { bits: 0, errorPpm: Infinity },
  );
}

/** A readable setting in words, with what it costs against the finest and the closest; undefined where it is not readable. */
export function readableText(
  candidate: Pick<Candidate, 'stepS' | 'steps' | 'bits' | 'errorPpm'>,
  best: Best,
  { frequency }: Pick<Requirement, 'frequency'>,
): string | undefined {
  const { text } = readabilityOf(candidate);
  if (text === undefined) return undefined;
  const bits = best.bits - candidate.bits;
  const error = Math.abs(candidate.errorPpm) - best.errorPpm;
  const coarser = bits < 0.005 ? 'as fine as any' : `${printNumber(bits, 2)} bit coarser than the finest`;
  const off =
    error < 0.0005
      ? 'no error more than the closest'
      : `${printNumber(error, 3)} ppm more error than the closest`;
  return frequency.kind === 'near' ? `${text}; ${coarser}, ${off}` : `${text}; ${coarser}`;
}
