import { failed, type Fault, FILE_LIMIT, type Plan, planFileName, type Result } from '@herzschlag/core';
import { ask } from '../worker/engine.ts';

/** Endings of all files that can be opened, for a file picker. */
export const FILES = '.json,.zip,.vcd,.csv,.tsv,.txt,.wav,.c,.h,.cpp,.ino';

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

/**
 * Saves a plan as its file. What orders its keys is loaded when it is needed; where that fails, the keys stay in the order they
 * are in, so that a plan can always be saved.
 */
export function savePlanFile(plan: Plan): void {
  void import('./write-plan.ts')
    .then(
      ({ writePlan }) => writePlan(plan),
      () => `${JSON.stringify(plan, null, 2)}\n`,
    )
    .then((text) => saveText(planFileName(plan), text, 'application/json'));
}

function inFile(name: string, { path, sentence }: Fault): { ok: false; fault: Fault } {
  return failed(`${name}: ${sentence}`, path);
}

/** Reads a plan from a file the user chose or dropped; a sentence with the file's name where that fails. */
export async function openPlanFile(file: File): Promise<Result<Plan>> {
  if (file.size > FILE_LIMIT) {
    const megabytes = (file.size / 1e6).toFixed(1);
    return failed(
      `${file.name}: The file has ${megabytes}\u00a0MB; a plan file has up to ${FILE_LIMIT / 1e6}\u00a0MB, so this is not one.`,
    );
  }
  const text = await file.text();
  const read = await ask((engine) => engine.readPlan({ kind: 'plan', text }));
  return read.ok ? read : inFile(file.name, read.fault);
}
