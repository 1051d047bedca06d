import { FILE_LIMIT, type Part, partsNamedIn, type Plan, readPlan } from '@herzschlag/core';
import { readText } from './files.ts';
import { UsageError } from './usage-error.ts';

/** Reads and checks a plan file; “-” is standard input. @throws UsageError with the file, the place and a sentence. */
export async function loadPlan(file: string): Promise<{ plan: Plan; part: Part }> {
  const text = await readText(file, 50 * FILE_LIMIT);
  const read = readPlan(text, await partsNamedIn(text));
  if (!read.ok) throw new UsageError(`${file}: ${read.fault.sentence}`);
  return read.value;
}
