import { FILE_LIMIT, type Plan, planFileName, writePlan } from '@herzschlag/core';
import { core } from '../worker/core.ts';

/** Hands a text to the browser as a file to save. */
export function saveText(name: string, text: string, type = 'text/plain'): void {
  saveBlob(name, new Blob([text], { type }));
}

/** Hands bytes to the browser as a file to save. */
export function saveBlob(name: string, blob: Blob): void {
  const address = URL.createObjectURL(blob);
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
}

/** Saves a plan as its file. */
export function savePlanFile(plan: Plan): void {
  saveText(planFileName(plan), writePlan(plan), 'application/json');
}

/** Reads a plan from a file the user chose or dropped; a sentence with the file's name where it is none. */
export async function openPlanFile(
  file: File,
): Promise<{ ok: true; plan: Plan } | { ok: false; error: string }> {
  if (file.size > FILE_LIMIT) {
    const megabytes = (file.size / 1e6).toFixed(1);
    return {
      ok: false,
      error: `${file.name}: The file has ${megabytes} MB; a plan has ${FILE_LIMIT / 1e6} MB at the most, so this is none.`,
    };
  }
  const read = await core().read(await file.text());
  return read.ok ? read : { ok: false, error: `${file.name}: ${read.fault.sentence}` };
}
