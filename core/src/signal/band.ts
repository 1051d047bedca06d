import { exact, type Exact } from '../quantity/exact.ts';
import { centsFactor } from '../quantity/note.ts';
import { TargetError } from './target-error.ts';
import type { Amount } from './kinds/shape.ts';

/** A wanted value with the minimum and maximum that still will do. */
export type Band = { ideal: Exact; low: Exact; high: Exact };

const MILLION = 1000000;

/** The value if it is above zero. @throws TargetError */
export function positive(value: Exact, key: string): Exact {
  if (value.compare(0) > 0) return value;
  throw new TargetError(key, `${key} must be above zero, and is ${value.toString()}.`);
}

/** A band of so much on either side. */
export function bandAround(ideal: Exact, off: Exact): Band {
  return { ideal, low: ideal.sub(off), high: ideal.add(off) };
}

/** A band of ± the given ppm. */
export function bandPpm(ideal: Exact, ppm: number): Band {
  return bandAround(ideal, ideal.mul(exact(ppm)).div(MILLION));
}

/** A band of ± the given cents. */
export function bandCents(ideal: Exact, cents: number): Band {
  const factor = exact(centsFactor(cents));
  return { ideal, low: ideal.div(factor), high: ideal.mul(factor) };
}

/** 0 % and 100 % mean off and on: there a pulse in each period is a miss, whatever the tolerance. @throws TargetError */
export function dutyBand(ideal: Exact, tolerance: number, key: string): Band {
  if (ideal.compare(0) < 0 || ideal.compare(1) > 0) {
    throw new TargetError(key, `${key} must lie between 0 and 1, and is ${ideal.toString()}.`);
  }
  if (ideal.equals(0) || ideal.equals(1)) return { ideal, low: ideal, high: ideal };
  const { low, high } = bandAround(ideal, exact(tolerance));
  return { ideal, low: low.compare(0) < 0 ? exact(0) : low, high: high.compare(1) > 0 ? exact(1) : high };
}

/** A frequency said as such or as a period. @throws TargetError */
export function rateOf(
  what: string,
  { frequencyHz, periodS }: { frequencyHz?: Amount; periodS?: Amount },
): Exact {
  if ((frequencyHz === undefined) === (periodS === undefined)) {
    throw new TargetError('frequencyHz', `${what} has either frequencyHz or periodS.`);
  }
  return frequencyHz !== undefined
    ? positive(exact(frequencyHz), 'frequencyHz')
    : exact(1).div(positive(exact(periodS ?? 1), 'periodS'));
}
