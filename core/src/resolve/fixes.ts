import { assign } from '../assign/assign.ts';
import { stepBudget } from '../assign/step-budget.ts';
import { clockPhrase } from '../clock/path.ts';
import { withoutSignal, withSettings } from '../plan/edit.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import type { Part } from '../part/types.ts';
import { assignAll, pathUnder, askedOf } from './assign-plan.ts';
import type { Infeasibility } from './infeasible.ts';
import { minRelaxation } from './relax.ts';
import { planOn, searchClocks } from './compare-parts.ts';
import type { Fix } from './conflict-fixes.ts';

/** A fix for what does not fit: `goes` where nothing else stands in the way, and then all settings are in its plan. */
export type TriedFix = Fix & { goes: boolean };

/** Asked anew for each search: whether it may still go on. */
export type Patience = () => () => boolean;

/** How many clock settings are tried, and how many of them are offered. */
const CLOCKS = { tried: 24, offered: 2 };

/** Steps that each search takes by default. */
const STEPS = 200;

function changed(plan: Plan, id: string, edit: (signal: PlanSignal) => PlanSignal): Plan {
  return { ...plan, signals: plan.signals.map((one) => (one.id === id ? edit(one) : one)) };
}

/** Whether some signals of a plan go together. */
function goesAlone(plan: Plan, part: Part, ids: readonly string[], patience: Patience): boolean {
  const path = pathUnder(part, plan.clock);
  if (!path) return false;
  const some = { ...plan, signals: plan.signals.filter(({ id }) => ids.includes(id)) };
  const { requests, rules } = askedOf(some, part, patience());
  return assign(part, path, requests, { ...rules, anyFeasible: true }).feasible;
}

function triedFix(plan: Plan, part: Part, text: string, patience: Patience): TriedFix {
  const { feasible, settings } = assignAll(plan, part, patience());
  return { text, plan: feasible ? withSettings(plan, settings) : plan, goes: feasible };
}

/** A signal on whatever pin, which then is its own. */
function otherPin(plan: Plan, part: Part, signal: PlanSignal, patience: Patience): TriedFix {
  const free = changed(plan, signal.id, (one) => {
    const rest = { ...one };
    delete rest.pin;
    return rest;
  });
  const fix = triedFix(free, part, `${signal.name} on another pin`, patience);
  const pin = fix.plan.signals.find(({ id }) => id === signal.id)?.setting?.pin;
  if (!fix.goes || pin === undefined) return fix;
  const text = `${signal.name} on ${pin}`;
  return { ...fix, text, plan: changed(fix.plan, signal.id, (one) => ({ ...one, pin })) };
}

/** The rules of a conflict dropped one by one: a timer that was reserved, a setting that stays, a pin. */
function rulesGivenUp(
  plan: Plan,
  part: Part,
  { signals, rules }: Infeasibility,
  patience: Patience,
): TriedFix[] {
  const goes = (next: Plan): boolean => goesAlone(next, part, signals, patience);
  const nameOf = (id: string): string => plan.signals.find((one) => one.id === id)?.name ?? id;
  const timers = rules.reserved.flatMap((id) => {
    const next = { ...plan, reserved: (plan.reserved ?? []).filter((one) => one !== id) };
    const name = part.timers.find((timer) => timer.id === id)?.name ?? id;
    return goes(next) ? [triedFix(next, part, `${name} not reserved`, patience)] : [];
  });
  const locked = rules.locked.flatMap((id) => {
    const next = changed(plan, id, (one) => {
      const rest = { ...one };
      delete rest.locked;
      return rest;
    });
    return goes(next) ? [triedFix(next, part, `${nameOf(id)} may move`, patience)] : [];
  });
  const pins = rules.pins.flatMap((id) => {
    const signal = plan.signals.find((one) => one.id === id);
    if (!signal) return [];
    const fix = otherPin(plan, part, signal, patience);
    return fix.goes || goes(fix.plan) ? [fix] : [];
  });
  return [...timers, ...locked, ...pins];
}

/**
 * Fixes for a conflict that no assignment can resolve, the cheapest first: a rule dropped (a reserved timer, a setting
 * that stays, a pin), the least looser tolerance that helps, another clock under which the whole plan fits, one signal
 * less. After each of them the signals of the conflict go; nothing is offered that was not tried.
 */
export function fixesForInfeasible(
  plan: Plan,
  part: Part,
  infeasibility: Infeasibility,
  patience: Patience = () => stepBudget(STEPS),
): TriedFix[] {
  const { signals } = infeasibility;
  const own = plan.signals.filter(({ id }) => signals.includes(id));
  const relaxed = own.flatMap((signal) =>
    minRelaxation(signal, (one) => {
      const next = changed(plan, signal.id, () => one);
      return goesAlone(next, part, signals, patience) ? next : undefined;
    }).map(({ relaxed: { text }, found }) => triedFix(found, part, text, patience)),
  );
  const clocks = searchClocks(plan, part, CLOCKS.tried, patience()).slice(0, CLOCKS.offered);
  return [
    ...rulesGivenUp(plan, part, infeasibility, patience),
    ...relaxed,
    ...clocks.flatMap((trial) => {
      const path = pathUnder(part, trial.clock);
      return path
        ? [{ text: clockPhrase(path, part.cpu.clock), plan: planOn(plan, part, trial), goes: true }]
        : [];
    }),
    ...own.map(({ id, name }) => triedFix(withoutSignal(plan, id), part, `without ${name}`, patience)),
  ];
}
