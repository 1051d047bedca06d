import Dexie, { type EntityTable } from 'dexie';
import type { Capture } from '@herzschlag/core';

/**
 * A stored plan; `at` is the step of its history that is in force, `last` the newest one, `revision` grows by one with each
 * write. Rows of earlier versions have no revision, which counts as 0, and no `last`.
 */
export type PlanRow = {
  id: string;
  name: string;
  plan: unknown;
  at: number;
  changed: number;
  revision?: number;
  last?: number;
};

/** A step of a plan's history, for undo and redo. */
export type StepRow = { plan: string; at: number; state: unknown };

/** The capture of a plan, and which of its wires shows which signal. */
export type CaptureRow = { plan: string; name: string; capture: Capture; wires: Record<string, string> };

/** A part that was loaded from a file, with the text of the file. */
export type PartRow = { id: string; name: string; about: string; text: string; changed: number };

/** A version of a plan that was kept under a name. */
export type VersionRow = { id: number; plan: string; name: string; at: number; state: unknown };

/** Plans, their histories, captures and named versions, and parts from files. */
export type Database = Dexie & {
  plans: EntityTable<PlanRow, 'id'>;
  steps: Dexie.Table<StepRow, [string, number]>;
  captures: EntityTable<CaptureRow, 'plan'>;
  parts: EntityTable<PartRow, 'id'>;
  versions: EntityTable<VersionRow, 'id'>;
};

/** A database of that shape: in the browser's storage, or wherever else the options say. */
export function databaseOf(options: ConstructorParameters<typeof Dexie>[1] = {}): Database {
  const made = new Dexie('herzschlag', options) as Database;
  made.version(1).stores({ plans: 'id, changed', steps: '[plan+at], plan' });
  made.version(2).stores({ captures: 'plan' });
  made.version(3).stores({ parts: 'id, changed' });
  made.version(4).stores({ versions: '++id, plan' });
  return made;
}
