import { fetchPart, fetchParts, FILE_LIMIT, type Part, readPart } from '@herzschlag/core';
import { readText } from './files.ts';
import { UsageError } from './usage-error.ts';

/** A name that is a file's rather than a part's: with a directory or an ending. */
const FILE_NAME = /[./\\]/;

/** The part of an id, or of a part file, which then goes into the plan as its own. @throws UsageError with what there is, or what is wrong. */
export async function partNamed(named: string): Promise<{ part: Part; own: boolean }> {
  const shipped = await fetchPart(named);
  if (shipped) return { part: shipped, own: false };
  if (FILE_NAME.test(named)) {
    const read = readPart(await readText(named, FILE_LIMIT));
    if (!read.ok) throw new UsageError(`${named}: ${read.fault.sentence}`);
    return { part: read.value, own: true };
  }
  const known = (await fetchParts()).map(({ id }) => id).join(', ');
  throw new UsageError(`There is no part “${named}”; there are ${known}, or a part file.`);
}
