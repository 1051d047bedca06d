import type { Plan } from '@herzschlag/core';
import { db, type PlanRow, type StepRow } from './db.ts';

/** Steps of undo that are stored with a plan. */
const DEPTH = 200;

function stepsOf(id: string, from: number, to: number) {
  return db.steps.where('[plan+at]').between([id, from], [id, to], true, true);
}

/** Stores a new plan and gives its id. */
export async function storePlan(plan: Plan): Promise<string> {
  const id = crypto.randomUUID();
  await db.transaction('rw', db.plans, db.steps, async () => {
    await db.plans.add({ id, name: plan.name, plan, at: 0, changed: Date.now() });
    await db.steps.add({ plan: id, at: 0, state: plan });
  });
  return id;
}

/** The stored plan of that id, unchecked; undefined where there is none. */
export function findPlan(id: string): Promise<PlanRow | undefined> {
  return db.plans.get(id);
}

/** Makes `plan` the newest step of its history; steps that had been undone are gone. */
export async function recordStep(id: string, plan: Plan): Promise<void> {
  await db.transaction('rw', db.plans, db.steps, async () => {
    const row = await db.plans.get(id);
    if (!row) return;
    const at = row.at + 1;
    await stepsOf(id, at, Infinity).delete();
    await db.steps.put({ plan: id, at, state: plan });
    await stepsOf(id, -Infinity, at - DEPTH).delete();
    await db.plans.update(id, { name: plan.name, plan, at, changed: Date.now() });
  });
}

/** The step before (-1) or after (1) the one in force, as it was stored, unchecked; undefined where there is none. */
export async function findStep(id: string, direction: -1 | 1): Promise<StepRow | undefined> {
  const row = await db.plans.get(id);
  return row && db.steps.get([id, row.at + direction]);
}

/** Puts a step in force. */
export async function moveToStep(id: string, at: number, plan: Plan): Promise<void> {
  await db.plans.update(id, { name: plan.name, plan, at, changed: Date.now() });
}

/** Whether there is a step to go back to, and one to go forward to. */
export async function reachOf(id: string): Promise<{ undo: boolean; redo: boolean }> {
  const row = await db.plans.get(id);
  if (!row) return { undo: false, redo: false };
  const [before, after] = await Promise.all([db.steps.get([id, row.at - 1]), db.steps.get([id, row.at + 1])]);
  return { undo: before !== undefined, redo: after !== undefined };
}

/** All stored plans, the one changed last first. */
export function listPlans(): Promise<PlanRow[]> {
  return db.plans.orderBy('changed').reverse().toArray();
}

/** Deletes a plan, its history and its capture. */
export async function deletePlan(id: string): Promise<void> {
  await db.transaction('rw', db.plans, db.steps, db.captures, async () => {
    await db.plans.delete(id);
    await db.captures.delete(id);
    await db.steps.where('plan').equals(id).delete();
  });
}
