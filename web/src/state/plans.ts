import type { EvaluatedSignal, Plan } from '@herzschlag/core';
import { db } from './db.ts';

/** How many steps back a plan remembers. */
const DEPTH = 200;

function stepsOf(id: string, from: number, to: number) {
  return db.steps.where('[plan+at]').between([id, from], [id, to], true, true);
}

/** Keeps a new plan and gives the id it is kept under. */
export async function storePlan(plan: Plan): Promise<string> {
  const id = crypto.randomUUID();
  await db.transaction('rw', db.plans, db.steps, async () => {
    await db.plans.add({ id, name: plan.name, plan, at: 0, changed: Date.now() });
    await db.steps.add({ plan: id, at: 0, state: plan });
  });
  return id;
}

/** The kept plan of that id as it was stored, unchecked; undefined where there is none. */
export function findPlan(id: string): Promise<EvaluatedSignal | undefined> {
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

/** Moves one step back (-1) or forward (1); gives the plan that is now in force, undefined where there is no step. */
export async function moveStep(id: string, direction: -1 | 1): Promise<Plan | undefined> {
  return db.transaction('rw', db.plans, db.steps, async () => {
    const row = await db.plans.get(id);
    const step = row && (await db.steps.get([id, row.at + direction]));
    if (!row || !step) return undefined;
    await db.plans.update(id, { name: step.state.name, plan: step.state, at: step.at, changed: Date.now() });
    return step.state;
  });
}

/** Whether there is a step to go back to, and one to go forward to. */
export async function reachOf(id: string): Promise<{ undo: boolean; redo: boolean }> {
  const row = await db.plans.get(id);
  if (!row) return { undo: false, redo: false };
  const [before, after] = await Promise.all([db.steps.get([id, row.at - 1]), db.steps.get([id, row.at + 1])]);
  return { undo: before !== undefined, redo: after !== undefined };
}

/** All kept plans, the one changed last first. */
export function listPlans(): Promise<EvaluatedSignal[]> {
  return db.plans.orderBy('changed').reverse().toArray();
}

/** Forgets a plan, its history and its capture. */
export async function deletePlan(id: string): Promise<void> {
  await db.transaction('rw', db.plans, db.steps, db.captures, async () => {
    await db.plans.delete(id);
    await db.captures.delete(id);
    await db.steps.where('plan').equals(id).delete();
  });
}
