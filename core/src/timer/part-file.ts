import { ClockError, clockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { contradictions } from '../part/contradictions.ts';
import { partFaults } from '../part/references.ts';
import { faultOf } from '../result/fault.ts';
import { parseJson } from '../result/json.ts';
import { FILE_LIMIT } from '../result/file-limit.ts';
import { succeeded, type Fault, type Result } from '../result/result.ts';
import { partSchema } from '../part/part-schema.ts';
import { alikeFault } from './prove-registers.ts';
import { proofFault } from './prove-part.ts';
import { newerPartVersion, PART_VERSION, upgradePart, withPlainAddresses } from '../part/versions.ts';

/** A part read from outside, or the first thing that is wrong with it. */
export type ReadPart = Result<Part>;

/** Texts of parts that were proven, with what was found; the newest last. */
const proven = new Map<string, Fault | undefined>();

/** A plan with a part of its own is checked at every edit; so many parts are remembered. */
const REMEMBERED = 4;

/** What a use of the part in every way finds, computed once for each text of a part. */
function rememberedProof(part: Part): Fault | undefined {
  const text = JSON.stringify(part);
  const known = proven.has(text);
  const fault = known ? proven.get(text) : (proofFault(part) ?? alikeFault(part));
  proven.delete(text);
  proven.set(text, fault);
  const [oldest] = proven.keys();
  if (proven.size > REMEMBERED && oldest !== undefined) proven.delete(oldest);
  return fault;
}

/**
 * Checks a value from outside as a part: its shape, what it refers to, its standard clock, and
 * whether it contradicts itself, whether every mode, division, output and clock of it can be used, and whether the registers
 * tell all of them apart. Never throws for bad input.
 */
export function checkPart(value: unknown): ReadPart {
  const newer = newerPartVersion(value);
  if (newer !== undefined) {
    const sentence = `version: this part file is of version ${newer}; this program reads versions up to ${PART_VERSION}.`;
    return { ok: false, fault: { path: 'version', sentence } };
  }
  const checked = partSchema().validate(withPlainAddresses(upgradePart(value)), {
    convert: false,
    abortEarly: true,
  });
  const [shape] = checked.error?.details ?? [];
  if (shape) return { ok: false, fault: faultOf(shape, 'part') };
  // What the file leaves out is in the value with the schema's defaults.
  const part = checked.value as Part;
  const faults = partFaults(part);
  const [first] = faults.length > 0 ? faults : contradictions(part);
  if (first) return { ok: false, fault: first };
  try {
    clockPath(part, part.defaultClock);
  } catch (problem) {
    if (!(problem instanceof ClockError)) throw problem;
    const path = `standardClock.${problem.key}`;
    return { ok: false, fault: { path, sentence: `${path}: ${problem.message}` } };
  }
  const unusable = rememberedProof(part);
  return unusable ? { ok: false, fault: unusable } : succeeded(part);
}

/** Reads the text of a part file. Never throws for bad input: the fault says what is wrong and where. */
export function readPart(text: string): ReadPart {
  const parsed = parseJson(text, FILE_LIMIT, 'part');
  return parsed.ok ? checkPart(parsed.value) : parsed;
}

/** A part as the text of its file. */
export function writePart(part: Part): string {
  return `${JSON.stringify(part, null, 2)}\n`;
}
