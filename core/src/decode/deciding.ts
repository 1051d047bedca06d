import type { Part, Timer, Writes } from '../part/types.ts';
import { mismatches, type Mismatch } from './fields.ts';

/** The writes whose values the part's data fixes. */
export function fixedWrites(writes: Writes): Writes {
  return Object.fromEntries(Object.entries(writes).filter(([, value]) => typeof value === 'number'));
}

/** Why an output, a mode or an opposite is not read as anything: a field that is off, or set to what the data does not know. */
export function refusal({ key, value, wanted }: Mismatch, what: string): string {
  return value === 0
    ? `${key} is 0, not ${wanted}.`
    : `${key} is ${value}, which the part’s data does not know in ${what}.`;
}

/** Fields of writes that hold something else and that no other way of doing the same allows, neutral and ignored ones left out. */
export function deciding(
  part: Part,
  timer: Timer,
  values: ReadonlyMap<string, number>,
  { writes, same = [] }: { writes: Writes; same?: readonly Writes[] },
  ignored: readonly string[] = [],
): { off: Mismatch[]; neutral: Mismatch[]; other: boolean } {
  const known = new Set(timer.neutral);
  const [first, ...others] = [writes, ...same.map((one) => ({ ...writes, ...one }))].map((one) => {
    const all = mismatches(part, values, fixedWrites(one)).filter(({ key }) => !ignored.includes(key));
    return {
      off: all.filter(({ key }) => !known.has(key)),
      neutral: all.filter(({ key }) => known.has(key)),
    };
  });
  const own = { ...(first ?? { off: [], neutral: [] }), other: false };
  const other = own.off.length > 0 ? others.find(({ off }) => off.length === 0) : undefined;
  return other ? { ...other, other: true } : own;
}
