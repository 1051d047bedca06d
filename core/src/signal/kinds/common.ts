import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import { bandAround, positive, type Band } from '../band.ts';
import type { Span } from '../requirement.ts';
import { TargetError } from '../target-error.ts';
import type { Token } from './kind.ts';
import type { Amount } from './shape.ts';

/** The default tolerance of a duty, a fraction of one. */
export const DUTY_TOLERANCE = 0.01;

/** A width in s against a period: its band as times, and as shares of the period. @throws TargetError */
export function widthBand(
  width: Exact,
  off: Exact,
  frequency: Exact,
  key: string,
): { width: Band; duty: Band } {
  const share = positive(width, key).mul(frequency);
  if (share.compare(1) > 0) {
    throw new TargetError(key, `${key} is longer than its period of ${frequency.inverse().valueOf()} s.`);
  }
  return { width: bandAround(width, off), duty: bandAround(share, off.mul(frequency)) };
}

/** Two ends of a span, in order, and how well each place between them is to be met. @throws TargetError */
export function spanOf(of: Span['of'], low: Amount, high: Amount, within: Exact, key: string): Span {
  const span: Span = { of, low: positive(exact(low), key), high: exact(high), within };
  if (span.high.compare(span.low) <= 0) {
    throw new TargetError(key, `${key} must lie below the other end of the span.`);
  }
  return span;
}

/** The target without some of its fields. */
export function without<T extends object>(target: T, ...keys: readonly (keyof T)[]): T {
  const rest = { ...target };
  for (const key of keys) delete rest[key];
  return rest;
}

/** Of a default tolerance, the share that an oscillator may take, so that something is left for the divider. */
const OSCILLATOR_SHARE = 0.8;

/**
 * The tolerance to give a target that has none, as a share or in ppm: the usual one while an oscillator takes at most 80 % of
 * it, else what the oscillator takes divided by that share, rounded up to two digits (2 % gives 2.5 %, 10 % gives 13 %).
 * Undefined where the usual one will do.
 */
export function easedTolerance(usual: number, oscillator: number): number | undefined {
  const needed = oscillator / OSCILLATOR_SHARE;
  if (needed <= usual) return undefined;
  const unit = 10 ** (Math.floor(Math.log10(needed)) - 1);
  return Number((Math.ceil(needed / unit - 1e-9) * unit).toPrecision(2));
}

/** Gives a target without a frequency tolerance one that an oscillator of some ppm leaves room in. */
export function easedPpm<T extends { frequencyTolerancePpm?: number }>(
  target: T,
  usual: number,
  oscillatorPpm: number,
): T {
  if (target.frequencyTolerancePpm !== undefined) return target;
  const frequencyTolerancePpm = easedTolerance(usual, oscillatorPpm);
  return frequencyTolerancePpm === undefined ? target : { ...target, frequencyTolerancePpm };
}

type Rated = { frequencyHz?: Amount; periodS?: Amount };

/** A frequency said in Hz, or as a period where it was said in seconds. */
export const RATE_TOKEN = {
  dimension: 'frequency',
  label: 'frequency',
  stepped: 'frequency',
  says: ['frequencyHz', 'periodS'],
  set: <T extends Rated>(target: T, { value, said }: { value: Exact; said: string }): T => {
    const rest = without(target, 'frequencyHz', 'periodS');
    return said === 's'
      ? { ...rest, periodS: amountOf(value.inverse()) }
      : { ...rest, frequencyHz: amountOf(value) };
  },
} as const satisfies Token<Rated>;

/** The target at another frequency, said in the way it was said before. */
export function atFrequency<T extends Rated>(target: T, frequency: Exact): T {
  return target.periodS === undefined
    ? { ...target, frequencyHz: amountOf(frequency) }
    : { ...target, periodS: amountOf(frequency.inverse()) };
}

/** A tolerance of a frequency in ppm. */
export const PPM_TOKEN = {
  dimension: 'tolerance',
  label: 'frequency tolerance',
  field: 'frequencyTolerancePpm',
  plain: true,
} as const;
