import Dexie, { type EntityTable } from 'dexie';
import type { Capture } from '@herzschlag/core';

/** A stored plan; `at` is the step of its history that is in force. */
export type PlanRow = { id: string; name: string; plan: unknown; at: number; changed: number };

/** A step of a plan's history, for undo and redo. */
export type StepRow = { plan: string; at: number; state: unknown };

/** The capture of a plan, and which of its wires shows which signal. */
export type CaptureRow = { plan: string; name: string; capture: Capture; wires: Record<string, string> };

/** The browser's storage: plans and their histories. */
export const db = new Dexie('herzschlag') as Dexie & {
  plans: EntityTable<PlanRow, 'id'>;
  steps: Dexie.Table<StepRow, [string, number]>;
  captures: EntityTable<CaptureRow, 'plan'>;
};

db.version(1).stores({ plans: 'id, changed', steps: '[plan+at], plan' });
db.version(2).stores({ captures: 'plan' });
