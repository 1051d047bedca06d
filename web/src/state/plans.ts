import type { Plan } from '@herzschlag/core';
import type { Database, PlanRow, StepRow } from './db.ts';
import { announce } from './tabs.ts';
import { forget, PlanError, remember, withDatabase } from './storage.ts';

/** Steps of undo that are stored with a plan. */
const DEPTH = 200;

/** The plan was deleted, in another tab perhaps. */
export class PlanGone extends PlanError {}

/** A write built on a revision that is no longer the newest; `row` is the newest. */
export class RevisionConflict extends PlanError {
  readonly row: PlanRow;
  constructor(row: PlanRow) {
    super('The plan was changed in another tab.');
    this.row = row;
  }
}

/** The revision of a stored plan. */
export function revisionOf(row: PlanRow): number {
  return row.revision ?? 0;
}

function stepsOf(db: Database, id: string, from: number, to: number) {
  return db.steps.where('[plan+at]').between([id, from], [id, to], true, true);
}

/** The row of a plan as a write found it. @throws PlanGone, RevisionConflict unless it has the revision the write builds on. */
async function rowAt(db: Database, id: string, revision: number): Promise<PlanRow> {
  const row = await db.plans.get(id);
  if (!row) throw new PlanGone('The plan was deleted.');
  if (revisionOf(row) !== revision) throw new RevisionConflict(row);
  return row;
}

/** Stores a plan as a new one, or under an id it had before it was deleted, and gives its id. */
export function storePlan(plan: Plan, id: string = crypto.randomUUID()): Promise<string> {
  return withDatabase(async (db) => {
    const row: PlanRow = { id, name: plan.name, plan, at: 0, changed: Date.now(), revision: 0, last: 0 };
    await db.transaction('rw', db.plans, db.steps, async () => {
      await db.plans.put(row);
      await db.steps.put({ plan: id, at: 0, state: plan });
    });
    remember(row);
    announce(id);
    return id;
  });
}

/** The stored plan of that id, unchecked; undefined where there is none. */
export function findPlan(id: string): Promise<PlanRow | undefined> {
  return withDatabase(async (db) => {
    const row = await db.plans.get(id);
    if (row) remember(row);
    return row;
  });
}

/**
 * Makes `plan` the newest step of its history and gives its row; steps that had been undone are gone. `revision` is the one
 * that the change was made on. @throws PlanGone, RevisionConflict
 */
export function recordStep(id: string, plan: Plan, revision: number): Promise<PlanRow> {
  return withDatabase(async (db) => {
    const next = await db.transaction('rw', db.plans, db.steps, async () => {
      const row = await rowAt(db, id, revision);
      const at = row.at + 1;
      const next = { at, last: at, revision: revision + 1, name: plan.name, plan, changed: Date.now() };
      const own: PlanRow = { ...row, ...next };
      // Nothing is asked of the storage that need not be: the screen waits for this.
      const undone = row.last === undefined || row.last > row.at;
      await Promise.all([
        db.steps.put({ plan: id, at, state: plan }),
        db.plans.put(own),
        ...(undone ? [stepsOf(db, id, at + 1, Infinity).delete()] : []),
        ...(at < DEPTH ? [] : [stepsOf(db, id, -Infinity, at - DEPTH).delete()]),
      ]);
      return own;
    });
    remember(next);
    announce(id);
    return next;
  });
}

/** The step before (-1) or after (1) the one in force, as it was stored, unchecked; undefined where there is none. */
export function findStep(id: string, direction: -1 | 1): Promise<StepRow | undefined> {
  return withDatabase(async (db) => {
    const row = await db.plans.get(id);
    return row && db.steps.get([id, row.at + direction]);
  });
}

/** The steps of a plan's history before the one in force, the newest first, unchecked. */
export function earlierSteps(id: string): Promise<StepRow[]> {
  return withDatabase(async (db) => {
    const row = await db.plans.get(id);
    return row
      ? stepsOf(db, id, -Infinity, row.at - 1)
          .reverse()
          .toArray()
      : [];
  });
}

/** Puts a step in force and gives the plan's row. @throws PlanGone, RevisionConflict */
export function moveToStep(id: string, at: number, plan: Plan, revision: number): Promise<PlanRow> {
  return withDatabase(async (db) => {
    const next = await db.transaction('rw', db.plans, async () => {
      const row = await rowAt(db, id, revision);
      const own: PlanRow = { ...row, name: plan.name, plan, at, changed: Date.now(), revision: revision + 1 };
      await db.plans.put(own);
      return own;
    });
    remember(next);
    announce(id);
    return next;
  });
}

/** Whether there is a step to go back to, and one to go forward to. */
export function reachOf(id: string): Promise<{ undo: boolean; redo: boolean }> {
  return withDatabase(async (db) => {
    const row = await db.plans.get(id);
    if (!row) return { undo: false, redo: false };
    const [before, after] = await Promise.all([
      db.steps.get([id, row.at - 1]),
      db.steps.get([id, row.at + 1]),
    ]);
    return { undo: before !== undefined, redo: after !== undefined };
  });
}

/** Deletes a plan, its history and its capture. */
export function deletePlan(id: string): Promise<void> {
  forget(id);
  return withDatabase(async (db) => {
    await db.transaction('rw', [db.plans, db.steps, db.captures, db.versions], async () => {
      await db.plans.delete(id);
      await db.versions.where('plan').equals(id).delete();
      await db.captures.delete(id);
      await db.steps.where('plan').equals(id).delete();
    });
    announce(id);
  });
}
