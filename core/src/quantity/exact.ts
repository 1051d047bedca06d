import Fraction from 'fraction.js';

/** A number that keeps its exact value: an integer, a decimal as it was written, or a fraction of integers. */
export type Exact = Fraction;

const DECIMAL = /^([+-]?)(\d*)(?:\.(\d*))?(?:[eE]([+-]?\d{1,4}))?$/;
const RATIO = /^[+-]?\d+\/\d+$/;

/**
 * The exact value of a number or of its text: 0.1 is 1/10, "16000000/15999" is that fraction, "1.5e-3" is 3/2000.
 * A number is taken as the shortest decimal that prints it, which is what its writer meant.
 * @throws RangeError for text that is not a number, for NaN and for infinities.
 */
export function exact(value: number | bigint | string): Exact {
  if (typeof value === 'bigint') return new Fraction(value);
  const text = String(value).trim();
  if (RATIO.test(text)) {
    if (/\/0+$/.test(text)) throw new RangeError(`${text} divides by zero`);
    return new Fraction(text);
  }
  const match = DECIMAL.exec(text);
  const whole = match?.[2] ?? '';
  const part = match?.[3] ?? '';
  if (!match || whole + part === '') throw new RangeError(`"${text}" is not a number`);
  const exponent = Number(match[4] ?? 0) - part.length;
  const digits = BigInt(whole + part) * (match[1] === '-' ? -1n : 1n);
  if (exponent >= 0) return new Fraction(digits * 10n ** BigInt(exponent));
  return new Fraction(digits, 10n ** BigInt(-exponent));
}

/** The exact quotient of two whole numbers. @throws RangeError when the divisor is zero. */
export function ratio(numerator: number | bigint, denominator: number | bigint): Exact {
  if (BigInt(denominator) === 0n) throw new RangeError('divides by zero');
  return new Fraction(BigInt(numerator), BigInt(denominator));
}

/** "1000" or "16000000/15999": the form in which exact values leave the core. `exact` reads it back. */
export function exactText(value: Exact): string {
  const sign = value.s < 0n ? '-' : '';
  return value.d === 1n ? `${sign}${value.n}` : `${sign}${value.n}/${value.d}`;
}

/** A fraction as files keep it: whole numbers of up to 20 digits, the lower one not zero. */
export const FRACTION_TEXT = /^\d{1,20}\/(?=\d*[1-9])\d{1,20}$/;

/**
 * A value as files keep it: a plain number where its decimal is exact and short, else the fraction as text. Where the
 * fraction has more than 20 digits the nearest plain number is taken, which is off by less than 2e-16 of the value.
 */
export function amountOf(value: Exact): number | string {
  const text = exactText(value);
  const nearest = value.valueOf();
  if (!text.includes('/') || String(nearest) === value.toString()) return nearest;
  return FRACTION_TEXT.test(text) ? text : nearest;
}

/** The greatest whole number not above the value. */
export function floorOf(value: Exact): number {
  return Number(value.floor().valueOf());
}

/** The least whole number not below the value. */
export function ceilOf(value: Exact): number {
  return Number(value.ceil().valueOf());
}
