import { ClockError, clockPath } from '../clock/path.ts';
import type { Part } from '../part/schema.ts';
import { partFaults } from '../part/whole.ts';
import { faultOf, parseJson, type Fault } from './fault.ts';
import { partSchema } from './part-schema.ts';
import { PLAN_LIMIT } from './plan.ts';

/** A part read from outside, or the first thing that is wrong with it. */
export type ReadPart = { ok: true; part: Part } | { ok: false; fault: Fault };

/** Files of the first shape named the one field that enables an interrupt; now these are writes like all others. */
function withWrites(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withWrites);
  if (typeof value !== 'object' || value === null) return value;
  const entries = Object.entries(value).map(([key, item]): [string, unknown] =>
    key === 'enable' && typeof item === 'string' ? [key, { [item]: 1 }] : [key, withWrites(item)],
  );
  return Object.fromEntries(entries);
}

/** Checks a value from outside as a part: its shape, what it refers to, and its standard clock. Never throws for bad input. */
export function checkPart(value: unknown): ReadPart {
  const { error, value: whole } = partSchema.validate(withWrites(value), {
    convert: false,
    abortEarly: true,
  });
  const [shape] = error?.details ?? [];
  if (shape) return { ok: false, fault: faultOf(shape, 'part') };
  const part = whole as Part;
  const [first] = partFaults(part);
  if (first) return { ok: false, fault: first };
  try {
    clockPath(part, part.standardClock);
  } catch (problem) {
    if (!(problem instanceof ClockError)) throw problem;
    const path = `standardClock.${problem.key}`;
    return { ok: false, fault: { path, sentence: `${path}: ${problem.message}` } };
  }
  return { ok: true, part };
}

/** Reads the text of a part file. Never throws for bad input: the fault says what is wrong and where. */
export function readPart(text: string): ReadPart {
  const parsed = parseJson(text, PLAN_LIMIT, 'part');
  return parsed.ok ? checkPart(parsed.value) : parsed;
}

/** A part as the text of its file. */
export function writePart(part: Part): string {
  return `${JSON.stringify(part, null, 2)}\n`;
}
