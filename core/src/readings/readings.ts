import Joi from 'joi';
import { lazily } from '../result/lazily.ts';
import { printUnit, printNumber, printHz, printPercent, printSeconds } from '../quantity/print.ts';
import { failed, succeeded, type Result } from '../result/result.ts';

/** What is set while one reads: the time high as a share or in s, or the frequency in Hz. */
export type ReadingQuantity = 'duty' | 'width' | 'frequency';

/** One line of a table of readings: what was set (base unit), what was measured or seen, and a note. */
export type Reading = { set: number; seen: number; note?: string };

/** Readings from the bench: how what a signal does hangs on what is set. */
export type Readings = {
  of: ReadingQuantity;
  /** Unit of what was seen: V, °, %, anything. */
  unit: string;
  points: Reading[];
  /** By the line that fits best, or from point to point. */
  by?: 'line' | 'points';
  /** What becomes of a wish outside of what was read. */
  outside?: 'clamp' | 'refuse';
};

/** The most readings of a signal. */
export const MOST_READINGS = 200;

/** The shape of `readings` in a signal. */
export const readingsSchema = lazily(() =>
  Joi.object({
    of: Joi.string().valid('duty', 'width', 'frequency').required(),
    unit: Joi.string().trim().min(1).max(12).required().label('unit of the readings'),
    points: Joi.array()
      .items(
        Joi.object({
          set: Joi.number().min(0).max(1e12).required().label('set value of a reading'),
          seen: Joi.number().min(-1e12).max(1e12).required().label('seen value of a reading'),
          note: Joi.string().max(80).label('note of a reading'),
        }),
      )
      .min(1)
      .max(MOST_READINGS)
      .unique('set')
      .required(),
    by: Joi.string().valid('line', 'points'),
    outside: Joi.string().valid('clamp', 'refuse'),
  }),
);

/** A straight line: seen = offset + slope x set. */
export type Line = { offset: number; slope: number };

/**
 * The line of least squares through readings; of one reading the line through zero, of several at one place the mean.
 */
export function lineThrough(points: readonly Reading[]): Line {
  const [only] = points;
  if (points.length === 1 && only)
    return only.set === 0 ? { offset: only.seen, slope: 0 } : { offset: 0, slope: only.seen / only.set };
  const count = points.length;
  const meanSet = points.reduce((sum, { set }) => sum + set, 0) / count;
  const meanSeen = points.reduce((sum, { seen }) => sum + seen, 0) / count;
  const square = points.reduce((sum, { set }) => sum + (set - meanSet) ** 2, 0);
  const mixed = points.reduce((sum, { set, seen }) => sum + (set - meanSet) * (seen - meanSeen), 0);
  const slope = square === 0 ? 0 : mixed / square;
  return { offset: meanSeen - slope * meanSet, slope };
}

function sorted(points: readonly Reading[]): Reading[] {
  return [...points].sort((one, other) => one.set - other.set);
}

/** The least and the greatest value that was set; from zero on for a single reading. */
export function readRange({ points }: Readings): { low: number; high: number } {
  const sets = points.map(({ set }) => set);
  return { low: sets.length === 1 ? 0 : Math.min(...sets), high: Math.max(...sets) };
}

/** Between two neighbouring readings, by the straight line between them. */
function between(all: readonly Reading[], x: number, key: 'set' | 'seen'): number | undefined {
  const other = key === 'set' ? 'seen' : 'set';
  for (let at = 1; at < all.length; at += 1) {
    const [one, next] = [all[at - 1], all[at]];
    if (!one || !next) continue;
    const [a, b] = [one[key], next[key]];
    if (x < Math.min(a, b) || x > Math.max(a, b)) continue;
    return a === b ? one[other] : one[other] + ((x - a) / (b - a)) * (next[other] - one[other]);
  }
  return undefined;
}

/** What is to be expected at a set value, by the line or between the readings (their ends hold outside). */
export function seenAt(readings: Readings, set: number): number {
  const { points, by = 'points' } = readings;
  const line = lineThrough(points);
  if (by === 'line' || points.length === 1) return line.offset + line.slope * set;
  const all = sorted(points);
  const { low, high } = readRange(readings);
  return between(all, Math.max(low, Math.min(high, set)), 'set') ?? line.offset;
}

/** A set value in its unit, as text. */
export function setText(of: ReadingQuantity, value: number, significant = 5): string {
  if (of === 'width') return printSeconds(value, significant);
  return of === 'duty' ? printPercent(value, significant) : printHz(value, significant);
}

/** A seen value in the unit of its readings, as text. */
export function seenText({ unit }: Pick<Readings, 'unit'>, value: number, significant = 5): string {
  if (unit === '°' || unit === '%')
    return `${printNumber(value, significant)}${unit === '°' ? '' : '\u202f'}${unit}`;
  return unit === 'V' || unit === 'A'
    ? printUnit(value, unit, significant)
    : `${printNumber(value, significant)} ${unit}`;
}

/** A value to set, and whether it was clamped to what was read. */
export type WantedSetting = { set: number; seen: number; held: boolean };

/**
 * The value to set for what one wants to see. Outside of the readings it is clamped to their nearer end, or refused, as they
 * say. Fails where readings go up and down, so that several values would do.
 */
export function setFor(readings: Readings, seen: number): Result<WantedSetting> {
  const { points, by = 'points', outside = 'clamp', of } = readings;
  const { low, high } = readRange(readings);
  const ends = [low, high].map((set) => ({ set, seen: seenAt(readings, set) }));
  const [first, last] = ends;
  if (!first || !last || first.seen === last.seen) {
    return failed('The readings show the same everywhere; two that differ are needed.');
  }
  const rising = last.seen > first.seen;
  const all = sorted(points);
  const turns = all.some(
    (one, at) =>
      at > 0 && (rising ? one.seen < (all[at - 1]?.seen ?? 0) : one.seen > (all[at - 1]?.seen ?? 0)),
  );
  if (by === 'points' && turns) {
    return failed(
      'The readings go up and down, so that several values would do; take the line through them instead.',
    );
  }
  const [least, most] = rising ? [first, last] : [last, first];
  if (seen < least.seen || seen > most.seen) {
    const range = `${seenText(readings, least.seen)} to ${seenText(readings, most.seen)}`;
    if (outside === 'refuse')
      return failed(
        `${seenText(readings, seen)} is outside of what was read: ${range}, set by ${setText(of, least.set)} to ${setText(of, most.set)}.`,
      );
    const end = seen < least.seen ? least : most;
    return succeeded({ ...end, held: true });
  }
  const line = lineThrough(points);
  const set =
    by === 'line' || points.length === 1 ? (seen - line.offset) / line.slope : between(all, seen, 'seen');
  return set === undefined
    ? failed('The readings leave a gap there.')
    : succeeded({ set, seen, held: false });
}

/** How far each reading is from the line through all, in the unit of what was seen; with the greatest. */
export function deviations({ points }: Readings): { each: number[]; greatest: number } {
  const line = lineThrough(points);
  const each = points.map(({ set, seen }) => seen - (line.offset + line.slope * set));
  return { each, greatest: Math.max(...each.map(Math.abs)) };
}
