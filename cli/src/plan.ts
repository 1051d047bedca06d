import {
  FILE_LIMIT,
  isArchive,
  type Part,
  partsNamedIn,
  type Plan,
  planInArchive,
  readArchive,
  readPlan,
} from '@herzschlag/core';
import { readBytes } from './files.ts';
import { UsageError } from './usage-error.ts';

/** The text of a plan file, or of the plan in an archive. @throws UsageError with the file and a sentence. */
async function planText(file: string): Promise<string> {
  const bytes = await readBytes(file, 50 * FILE_LIMIT);
  if (!isArchive(bytes)) return Buffer.from(bytes).toString('utf8');
  const files = readArchive(bytes);
  const found = files.ok ? planInArchive(files.value) : files;
  if (!found.ok) throw new UsageError(`${file}: ${found.fault.sentence}`);
  return found.value.plan;
}

/**
 * Reads and checks a plan file, or an archive with a plan in it; “-” is standard input. @throws UsageError with the file, the place and
 * a sentence.
 */
export async function loadPlan(file: string): Promise<{ plan: Plan; part: Part }> {
  const text = await planText(file);
  const read = readPlan(text, await partsNamedIn(text));
  if (!read.ok) throw new UsageError(`${file}: ${read.fault.sentence}`);
  return read.value;
}
