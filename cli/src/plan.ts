import { FILE_LIMIT, type Part, partsNamedIn, type Plan, readPlan } from '@herzschlag/core';
import { readFile, stat } from 'node:fs/promises';
import { UsageError } from './usage-error.ts';

function systemReason(error: unknown): string {
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  const reasons: Record<string, string> = {
    ENOENT: 'there is no such file',
    EACCES: 'permission is denied',
    EISDIR: 'it is a directory',
    ENOTDIR: 'a part of its path is not a directory',
    EEXIST: 'a file of that name exists already',
  };
  return reasons[code] ?? (error instanceof Error ? error.message : String(error));
}

/** Names the file in what went wrong with it. */
export function fileError(file: string, error: unknown): UsageError {
  return new UsageError(`${file}: ${systemReason(error)}.`);
}

/** Reads and checks a plan file. @throws UsageError with the file, the place and a sentence. */
export async function loadPlan(file: string): Promise<{ plan: Plan; part: Part }> {
  let text: string;
  try {
    const { size } = await stat(file);
    if (size > 50 * FILE_LIMIT) throw new UsageError(`${file}: The file is far too large for a plan.`);
    text = await readFile(file, 'utf8');
  } catch (error) {
    throw error instanceof UsageError ? error : fileError(file, error);
  }
  const read = readPlan(text, await partsNamedIn(text));
  if (!read.ok) throw new UsageError(`${file}: ${read.fault.sentence}`);
  return read.value;
}
