import { allot, type AllotRules } from '../allot/allot.ts';
import type { Request } from '../allot/request.ts';
import type { Worth } from '../allot/worth.ts';
import { ClockError, clockPath, type ClockPath } from '../clock/path.ts';
import type { Plan, PlanSignal } from '../format/plan.ts';
import type { Part } from '../part/schema.ts';
import { goalOf } from '../target/goal.ts';
import type { Setting } from '../timer/setting.ts';
import { meansOf } from '../timer/words.ts';
import { conflictsOf, type AllotConflict } from './conflict.ts';

/** A plan with every signal placed, or why that does not go. */
export type PlanAllotment = {
  feasible: boolean;
  optimal: boolean;
  settings: { signal: string; setting: Setting }[];
  worth?: Worth;
  nodes: number;
  conflicts: AllotConflict[];
};

/** A signal of a plan as allotment sees it. */
export function requestOf(signal: PlanSignal): Request {
  return {
    id: signal.id,
    name: signal.name,
    goal: goalOf(signal),
    ...(signal.pin === undefined ? {} : { pin: signal.pin }),
    ...(signal.stays && signal.setting ? { stays: signal.setting } : {}),
    ...(signal.setting && signal.setting.drive !== 'busy' ? { present: signal.setting } : {}),
    ...(signal.complement ? { opposite: signal.complement } : {}),
  };
}

function reservedOf(plan: Plan): Set<string> {
  return new Set(plan.reserved ?? []);
}

/** All signals of a plan placed on its part, without a word on why that does not go. */
export function allotAll(plan: Plan, part: Part, goOn?: () => boolean): Omit<PlanAllotment, 'conflicts'> {
  const path = clockPath(part, plan.clock);
  const requests = plan.signals.map(requestOf);
  const rules: AllotRules = { reserved: reservedOf(plan), ...(goOn ? { goOn } : {}) };
  const { settings, ...found } = allot(part, path, requests, rules);
  return {
    ...found,
    settings: settings.map((setting, at) => ({ signal: requests[at]?.id ?? '', setting })),
  };
}

/** Places all signals of a plan on its part. `goOn` is asked whether the search may still go on. */
export function allotPlan(plan: Plan, part: Part, goOn?: () => boolean): PlanAllotment {
  const found = allotAll(plan, part, goOn);
  if (found.feasible || !found.optimal) return { ...found, conflicts: [] };
  const rules: AllotRules = { reserved: reservedOf(plan), ...(goOn ? { goOn } : {}) };
  const conflicts = conflictsOf(part, clockPath(part, plan.clock), plan.signals.map(requestOf), rules);
  return { ...found, conflicts };
}

/** Where a setting is, in words: "TIM3 CH3 on PB0", "TIM10 · tick". */
export function placeText(part: Part, setting: Setting): string {
  if (setting.drive === 'busy') return `a delay loop on ${setting.pin}`;
  const name = part.timers.find(({ id }) => id === setting.timer)?.name ?? setting.timer;
  const channel = 'channel' in setting ? ` ${setting.channel}` : '';
  const how = 'channel' in setting ? '' : ` (${meansOf(setting)})`;
  return `${name}${channel}${setting.pin === undefined ? '' : ` on ${setting.pin}`}${how}`;
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
