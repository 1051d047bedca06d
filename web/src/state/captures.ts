import type { CaptureRow } from './db.ts';
import { withDatabase } from './storage.ts';

/** The capture that is stored with a plan, or undefined. */
export function findCapture(plan: string): Promise<CaptureRow | undefined> {
  return withDatabase((db) => db.captures.get(plan));
}

/** Stores a capture with its plan, in place of the one before. */
export async function storeCapture(row: CaptureRow): Promise<void> {
  await withDatabase((db) => db.captures.put(row));
}

/** Stores which wire shows which signal. */
export async function storeWires(plan: string, wires: Record<string, string>): Promise<void> {
  await withDatabase((db) => db.captures.update(plan, { wires }));
}

/** Deletes the capture of a plan. */
export async function deleteCapture(plan: string): Promise<void> {
  await withDatabase((db) => db.captures.delete(plan));
}
