import type { Prescaler, Writes } from './types.ts';

/** A division in force: by n / scale, and the writes that select it. */
export type Division = { divide: number; n: number; scale: number; writes: Writes };

/** Parts of a clock that a prescaler counts in: 1, or 16 for a divider with sixteenths. */
export function scaleOf(prescaler: Prescaler): number {
  return prescaler.kind === 'list' ? 1 : prescaler.scale;
}

/** The division of a prescaler by that number; undefined where it cannot divide so. */
export function divisionOf(prescaler: Prescaler, divide: number): Division | undefined {
  if (prescaler.kind === 'list') {
    const option = prescaler.options.find((one) => one.divide === divide);
    return option && { divide, n: divide, scale: 1, writes: option.writes };
  }
  const { min, max, scale, writes } = prescaler;
  const n = divide * scale;
  return Number.isInteger(n) && n >= min && n <= max ? { divide, n, scale, writes } : undefined;
}

/** The minimum and maximum n of a prescaler that divides by n / scale. */
export function divisionRange(prescaler: Prescaler): { min: number; max: number } {
  if (prescaler.kind === 'range') return prescaler;
  const divides = prescaler.options.map((one) => one.divide);
  return { min: Math.min(...divides), max: Math.max(...divides) };
}

/** What a prescaler can divide by, in words: "1, 8, 64" or "1 to 65536" or "1 to 255.9375 in steps of 1/16". */
export function divisionText(prescaler: Prescaler): string {
  if (prescaler.kind === 'list') return prescaler.options.map((one) => one.divide).join(', ');
  const { min, max, scale } = prescaler;
  const steps = scale === 1 ? '' : ` in steps of 1/${scale}`;
  return `${min / scale} to ${max / scale}${steps}`;
}
