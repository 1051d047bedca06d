import { allot } from '../allot/allot.ts';
import { clockPhrase } from '../clock/path.ts';
import { withoutSignal, withSettings } from '../format/edit-plan.ts';
import type { Plan, PlanSignal } from '../format/plan.ts';
import type { Part } from '../part/schema.ts';
import { allotAll, pathUnder, requestOf } from './allotment.ts';
import type { WayOut } from './collisions.ts';
import type { AllotConflict } from './conflict.ts';
import { leastLooser } from './loosen.ts';
import { planOn, searchClocks } from './which-part.ts';

/** A way out of what does not go: `goes` where nothing else stands in the way, and then all settings are in its plan. */
export type Relief = WayOut & { goes: boolean };

/** Asked anew for each search: whether it may still go on. */
export type Patience = () => () => boolean;

/** So many clock settings are tried, and so many of them offered. */
const CLOCKS = { tried: 24, offered: 2 };

/** A search without a clock ends after so many questions. */
const QUESTIONS = 200;

function patient(): () => boolean {
  let left = QUESTIONS;
  return () => {
    left -= 1;
    return left > 0;
  };
}

function changed(plan: Plan, id: string, edit: (signal: PlanSignal) => PlanSignal): Plan {
  return { ...plan, signals: plan.signals.map((one) => (one.id === id ? edit(one) : one)) };
}

/** Whether some signals of a plan go together. */
function goesAlone(plan: Plan, part: Part, ids: readonly string[], patience: Patience): boolean {
  const path = pathUnder(part, plan.clock);
  const requests = plan.signals.filter(({ id }) => ids.includes(id)).map(requestOf);
  const reserved = new Set(plan.reserved ?? []);
  return (
    path !== undefined && allot(part, path, requests, { reserved, goOn: patience(), anyWill: true }).feasible
  );
}

function reliefOf(plan: Plan, part: Part, text: string, patience: Patience): Relief {
  const { feasible, settings } = allotAll(plan, part, patience());
  return { text, plan: feasible ? withSettings(plan, settings) : plan, goes: feasible };
}

/** A signal on whatever pin, which then is its own. */
function otherPin(plan: Plan, part: Part, signal: PlanSignal, patience: Patience): Relief {
  const free = changed(plan, signal.id, (one) => {
    const rest = { ...one };
    delete rest.pin;
    return rest;
  });
  const relief = reliefOf(free, part, `${signal.name} on another pin`, patience);
  const pin = relief.plan.signals.find(({ id }) => id === signal.id)?.setting?.pin;
  if (!relief.goes || pin === undefined) return relief;
  const text = `${signal.name} on ${pin}`;
  return { ...relief, text, plan: changed(relief.plan, signal.id, (one) => ({ ...one, pin })) };
}

/** The rules of a conflict given up one by one: a timer that was reserved, a setting that stays, a pin. */
function rulesGivenUp(
  plan: Plan,
  part: Part,
  { signals, rules }: AllotConflict,
  patience: Patience,
): Relief[] {
  const goes = (next: Plan): boolean => goesAlone(next, part, signals, patience);
  const nameOf = (id: string): string => plan.signals.find((one) => one.id === id)?.name ?? id;
  const timers = rules.reserved.flatMap((id) => {
    const next = { ...plan, reserved: (plan.reserved ?? []).filter((one) => one !== id) };
    const name = part.timers.find((timer) => timer.id === id)?.name ?? id;
    return goes(next) ? [reliefOf(next, part, `${name} not reserved`, patience)] : [];
  });
  const staying = rules.stays.flatMap((id) => {
    const next = changed(plan, id, (one) => {
      const rest = { ...one };
      delete rest.stays;
      return rest;
    });
    return goes(next) ? [reliefOf(next, part, `${nameOf(id)} may move`, patience)] : [];
  });
  const pins = rules.pins.flatMap((id) => {
    const signal = plan.signals.find((one) => one.id === id);
    if (!signal) return [];
    const relief = otherPin(plan, part, signal, patience);
    return relief.goes || goes(relief.plan) ? [relief] : [];
  });
  return [...timers, ...staying, ...pins];
}

/**
 * Ways out of a conflict that no allotment can resolve, the cheapest first: a rule given up (a reserved timer, a setting
 * that stays, a pin), the least looser tolerance that helps, another clock under which the whole plan goes, one signal
 * less. After each of them the signals of the conflict go; nothing is offered that was not tried.
 */
export function reliefsFor(
  plan: Plan,
  part: Part,
  conflict: AllotConflict,
  patience: Patience = patient,
): Relief[] {
  const { signals } = conflict;
  const own = plan.signals.filter(({ id }) => signals.includes(id));
  const looser = own.flatMap((signal) =>
    leastLooser(signal, (one) => {
      const next = changed(plan, signal.id, () => one);
      return goesAlone(next, part, signals, patience) ? next : undefined;
    }).map(({ looser: { text }, found }) => reliefOf(found, part, text, patience)),
  );
  const clocks = searchClocks(plan, part, CLOCKS.tried, patience()).slice(0, CLOCKS.offered);
  return [
    ...rulesGivenUp(plan, part, conflict, patience),
    ...looser,
    ...clocks.flatMap((trial) => {
      const path = pathUnder(part, trial.clock);
      return path
        ? [{ text: clockPhrase(path, part.cpu.clock), plan: planOn(plan, part, trial), goes: true }]
        : [];
    }),
    ...own.map(({ id, name }) => reliefOf(withoutSignal(plan, id), part, `without ${name}`, patience)),
  ];
}
