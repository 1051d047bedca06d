import { basename } from 'node:path';
import { fetchTrust, planArchive } from '@herzschlag/core';
import { readBytes, writeWhole } from '../files.ts';
import { loadPlan } from '../plan.ts';

/** The largest capture that is packed, in bytes. */
const LARGEST = 400_000_000;

/** Packs a plan with its code, its report and a capture, and says what it wrote. @throws UsageError with the file. */
export async function archiveCommand(file: string, out: string, capture?: string): Promise<string> {
  const { plan, part } = await loadPlan(file);
  const beside =
    capture === undefined
      ? []
      : [{ name: `capture/${basename(capture)}`, bytes: await readBytes(capture, LARGEST) }];
  const trust = await fetchTrust(part);
  const bytes = planArchive(plan, part, trust, { unverified: trust.unverified }, beside);
  await writeWhole(out, bytes);
  return `${out}: ${bytes.length} bytes.`;
}
