import { type Fault, mergePlans, type Plan, type Result } from '@herzschlag/core';
import { ask } from '../worker/engine.ts';
import type { PlanRow } from './db.ts';
import { earlierSteps, recordStep, RevisionConflict, revisionOf } from './plans.ts';

/** A stored state that cannot be read; nothing was changed. */
export class StepFault extends Error {}

/** A plan in force, and the revision that it was stored as. */
export type InForce = { plan: Plan; revision: number };

/** A stored plan, or step of its history, checked by the reader that checks plan files. */
export function checked(value: unknown): Promise<Result<Plan>> {
  return ask((engine) => engine.readPlan({ kind: 'stored plan', value }));
}

const passed = new WeakSet<Plan>();

/** Says that a plan was checked by the engine when it was made, so that it need not be asked again. */
export function wasChecked(plan: Plan): Plan {
  passed.add(plan);
  return plan;
}

/** Whether a plan was checked when it was made. */
export function isChecked(plan: Plan): boolean {
  return passed.has(plan);
}

/** What would keep a plan from being opened again. */
export function faultOf(plan: Plan): Promise<Fault | undefined> {
  return ask((engine, key) => engine.planFault(key(plan)));
}

/** A stored plan of which only a state that opens is of use. @throws StepFault */
export async function openable(value: unknown): Promise<Plan> {
  const read = await checked(value);
  if (!read.ok)
    throw new StepFault(`This state cannot be opened, so nothing was changed: ${read.fault.sentence}`);
  return read.value;
}

/** The last earlier state of a plan's history that opens. */
export async function lastOpenable(row: PlanRow): Promise<{ plan: Plan; at: number } | undefined> {
  for (const { at, state } of await earlierSteps(row.id)) {
    const read = await checked(state);
    if (read.ok) return { plan: read.value, at };
  }
  return undefined;
}

/** Stores an edit; what another tab stored in the meantime is merged with it. @throws RevisionConflict where it cannot be. */
export async function stored(id: string, base: InForce, next: Plan): Promise<InForce> {
  try {
    return { plan: next, revision: revisionOf(await recordStep(id, next, base.revision)) };
  } catch (error) {
    if (!(error instanceof RevisionConflict)) throw error;
    const theirs = await openable(error.row.plan);
    const { plan: merged, clashes } = mergePlans(base.plan, next, theirs);
    if (clashes.length > 0 || (await faultOf(merged))) throw error;
    return stored(id, { plan: theirs, revision: revisionOf(error.row) }, merged);
  }
}
