import { assign } from '../assign/assign.ts';
import { stepBudget } from '../assign/step-budget.ts';
import { clockPath, clockPhrase, type ClockPath } from '../clock/path.ts';
import { conflictsBetween, type Conflict, type Holder } from '../evaluate/conflicts.ts';
import type { Part } from '../part/types.ts';
import { withoutSignal } from '../plan/edit.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { placeText } from '../timer/drives/index.ts';
import { hasTimer, pinsOfSetting, type Setting } from '../timer/setting.ts';
import { pathUnder, requestOf } from './assign-plan.ts';
import { planOn, searchClocks } from './compare-parts.ts';
import { minRelaxation } from './relax.ts';

/** A fix for a conflict: what it says, and the plan it makes. */
export type Fix = { text: string; plan: Plan };

/** The signals of a plan that have a setting. */
function holdersOf(plan: Plan): Holder[] {
  return plan.signals.flatMap((signal) => (signal.setting ? [{ signal, setting: signal.setting }] : []));
}

function withSetting(plan: Plan, id: string, setting: Setting, pin: string | undefined): Plan {
  const placed = (one: PlanSignal): PlanSignal => {
    const rest = { ...one };
    delete rest.pin;
    return { ...rest, ...(pin === undefined ? {} : { pin }), setting };
  };
  return { ...plan, signals: plan.signals.map((one) => (one.id === id ? placed(one) : one)) };
}

/** Signals whose settings are in no conflict, the first of each pair that is in conflict among them. */
function peaceful(plan: Plan, part: Part, except: string): Set<string> {
  const kept: Holder[] = [];
  for (const signal of plan.signals) {
    const { setting } = signal;
    if (signal.id === except || !setting) continue;
    if (conflictsBetween(part, plan, [...kept, { signal, setting }]).length === 0)
      kept.push({ signal, setting });
  }
  return new Set(kept.map(({ signal }) => signal.id));
}

/** A signal placed anew while all others stay where they are; undefined where it has nowhere to go. */
function movedSetting(
  plan: Plan,
  part: Part,
  path: ClockPath,
  id: string,
  anyPin: boolean,
  mayContinue: () => boolean,
): Setting | undefined {
  const staying = peaceful(plan, part, id);
  const requests = plan.signals.flatMap((signal) => {
    const request = requestOf(part, path, signal);
    if (signal.id === id) {
      delete request.locked;
      if (anyPin) delete request.pin;
      return [request];
    }
    const stays = signal.setting && staying.has(signal.id) && hasTimer(signal.setting);
    return stays ? [{ ...request, locked: signal.setting }] : [];
  });
  const loops = plan.signals.flatMap(({ id: own, setting }) =>
    setting && own !== id && staying.has(own) && !hasTimer(setting) ? pinsOfSetting(setting) : [],
  );
  const { settings } = assign(part, path, requests, {
    reserved: new Set(plan.reserved ?? []),
    pins: new Set(loops),
    mayContinue,
  });
  return settings[requests.findIndex((request) => request.id === id)];
}

/** Clock settings that are tried where nothing cheaper helps. */
const CLOCKS = 8;

/** Steps that each search takes by default. */
const STEPS = 8;

/** One of the signals on another timer or channel of its pin, then on another pin. */
function moves(
  plan: Plan,
  part: Part,
  path: ClockPath,
  involved: readonly PlanSignal[],
  patience: () => () => boolean,
): Fix[] {
  const before = conflictsBetween(part, plan, holdersOf(plan)).length;
  const found = new Map<string, Fix>();
  for (const anyPin of [false, true]) {
    for (const signal of involved) {
      const setting = movedSetting(plan, part, path, signal.id, anyPin, patience());
      if (!setting) continue;
      const next = withSetting(plan, signal.id, setting, anyPin ? setting.pin : signal.pin);
      if (conflictsBetween(part, next, holdersOf(next)).length >= before) continue;
      const text = `${signal.name}: ${placeText(part, setting)}`;
      if (!found.has(text)) found.set(text, { text, plan: next });
    }
  }
  return [...found.values()];
}

/** One of the signals with the smallest relaxation that lets it move. */
function relaxations(
  plan: Plan,
  part: Part,
  path: ClockPath,
  involved: readonly PlanSignal[],
  patience: () => () => boolean,
): Fix[] {
  return involved.flatMap((signal) =>
    minRelaxation(signal, (one) => {
      const next = { ...plan, signals: plan.signals.map((other) => (other.id === one.id ? one : other)) };
      const setting = movedSetting(next, part, path, one.id, false, patience());
      return setting && withSetting(next, one.id, setting, one.pin);
    }).map(({ relaxed: { text }, found }) => ({ text, plan: found })),
  );
}

/** All signals under another clock setting. */
function otherClocks(plan: Plan, part: Part, patience: () => () => boolean): Fix[] {
  return searchClocks(plan, part, CLOCKS, patience())
    .slice(0, 1)
    .flatMap((trial) => {
      const under = pathUnder(part, trial.clock);
      return under ? [{ text: clockPhrase(under, part.cpu.clock), plan: planOn(plan, part, trial) }] : [];
    });
}

/**
 * Fixes for a conflict, the cheapest first: one of the two on another timer or channel of its pin, on another pin, made
 * otherwise, with the smallest relaxation, all under another clock, or one deleted. Each is a whole plan that can be
 * applied with one click. `patience` says anew for each search how long it may go on.
 */
export function fixesFor(
  plan: Plan,
  part: Part,
  conflict: Conflict,
  patience: () => () => boolean = () => stepBudget(STEPS),
): Fix[] {
  const path = clockPath(part, plan.clock);
  const involved = [...conflict.signals]
    .reverse()
    .flatMap((id) => plan.signals.filter((one) => one.id === id));
  const attempts = [
    () => moves(plan, part, path, involved, patience),
    () => relaxations(plan, part, path, involved, patience),
    () => otherClocks(plan, part, patience),
  ];
  const found = attempts.reduce<Fix[]>((fixes, attempt) => (fixes.length > 0 ? fixes : attempt()), []);
  return [
    ...found.slice(0, 4),
    ...involved
      .slice(0, 1)
      .map((signal) => ({ text: `without ${signal.name}`, plan: withoutSignal(plan, signal.id) })),
  ];
}
