import { assign, type AssignRules } from '../assign/assign.ts';
import type { Request } from '../assign/request.ts';
import type { Objective } from '../assign/objective.ts';
import { ClockError, clockPath, type ClockPath } from '../clock/path.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import type { Part } from '../part/types.ts';
import { requirementOf } from '../signal/requirement.ts';
import { hasTimer, type Setting } from '../timer/setting.ts';
import { infeasibilitiesOf, type Infeasibility } from './infeasible.ts';

/** A plan with every signal placed, or why that does not fit. */
export type PlanAssignment = {
  feasible: boolean;
  optimal: boolean;
  settings: { signal: string; setting: Setting }[];
  objective?: Objective;
  nodes: number;
  conflicts: Infeasibility[];
};

/** A signal of a plan as assignment sees it. */
export function requestOf(signal: PlanSignal): Request {
  return {
    id: signal.id,
    name: signal.name,
    requirement: requirementOf(signal),
    ...(signal.pin === undefined ? {} : { pin: signal.pin }),
    ...(signal.locked && signal.setting ? { locked: signal.setting } : {}),
    ...(signal.setting && hasTimer(signal.setting) ? { present: signal.setting } : {}),
    ...(signal.complement ? { opposite: signal.complement } : {}),
  };
}

function reservedOf(plan: Plan): Set<string> {
  return new Set(plan.reserved ?? []);
}

/** All signals of a plan placed on its part, without a word on why that does not fit. */
export function assignAll(
  plan: Plan,
  part: Part,
  mayContinue?: () => boolean,
): Omit<PlanAssignment, 'conflicts'> {
  const path = clockPath(part, plan.clock);
  const requests = plan.signals.map(requestOf);
  const rules: AssignRules = { reserved: reservedOf(plan), ...(mayContinue ? { mayContinue } : {}) };
  const { settings, ...found } = assign(part, path, requests, rules);
  return {
    ...found,
    settings: settings.map((setting, at) => ({ signal: requests[at]?.id ?? '', setting })),
  };
}

/** Places all signals of a plan on its part. `mayContinue` is asked whether the search may still go on. */
export function assignPlan(plan: Plan, part: Part, mayContinue?: () => boolean): PlanAssignment {
  const found = assignAll(plan, part, mayContinue);
  if (found.feasible || !found.optimal) return { ...found, conflicts: [] };
  const rules: AssignRules = { reserved: reservedOf(plan), ...(mayContinue ? { mayContinue } : {}) };
  const conflicts = infeasibilitiesOf(part, clockPath(part, plan.clock), plan.signals.map(requestOf), rules);
  return { ...found, conflicts };
}

/** A plan's clock under other settings; undefined where those are not legal. */
export function pathUnder(part: Part, clock: Plan['clock']): ClockPath | undefined {
  try {
    return clockPath(part, clock);
  } catch (error) {
    if (error instanceof ClockError) return undefined;
    throw error;
  }
}
