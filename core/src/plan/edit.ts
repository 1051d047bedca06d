import type { Cycles } from './cpu-load.ts';
import type { Plan, PlanSignal } from './plan.ts';
import { plainName } from '../quantity/words.ts';
import { LONGEST_NAME } from '../signal/signal.ts';
import type { Setting } from '../timer/setting.ts';

function withoutPhase(signal: PlanSignal, to: string | undefined): PlanSignal {
  if (signal.phase === undefined || signal.phase.to !== to) return signal;
  const rest = { ...signal };
  delete rest.phase;
  return rest;
}

/** A name, or the name with a number behind it where it is taken; shortened so that it keeps to the longest name. */
export function freeName(name: string, taken: readonly string[], between = ' '): string {
  const known = new Set(taken);
  let free = name.slice(0, LONGEST_NAME);
  for (let n = 2; known.has(free); n += 1) {
    const end = `${between}${n}`;
    free = `${name.slice(0, LONGEST_NAME - end.length).trimEnd()}${end}`;
  }
  return free;
}

/** An id made of a name, that no signal of the plan has. */
export function freeId(plan: Pick<Plan, 'signals'>, name: string): string {
  const stem = plainName(name, '-');
  const taken = plan.signals.map((one) => one.id);
  return freeName(stem || 'signal', taken, '-');
}

/** A plan with a signal moved up or down the list. */
export function movedSignal(plan: Plan, id: string, by: number): Plan {
  const at = plan.signals.findIndex((one) => one.id === id);
  const to = Math.max(0, Math.min(plan.signals.length - 1, at + by));
  if (at < 0 || to === at) return plan;
  const signals = [...plan.signals];
  const [own] = signals.splice(at, 1);
  if (own) signals.splice(to, 0, own);
  return { ...plan, signals };
}

/** A plan with a copy of a signal behind it; the copy has no pin and no setting, which the first one holds. */
export function copiedSignal(plan: Plan, id: string): { plan: Plan; id: string } | undefined {
  const at = plan.signals.findIndex((one) => one.id === id);
  const own = plan.signals[at];
  if (!own) return undefined;
  const copy: PlanSignal = {
    ...own,
    id: freeId(plan, own.id),
    name: freeName(
      own.name,
      plan.signals.map((one) => one.name),
    ),
  };
  for (const key of ['pin', 'setting', 'locked', 'complement'] as const) delete copy[key];
  const signals = [...plan.signals.slice(0, at + 1), copy, ...plan.signals.slice(at + 1)];
  return { plan: { ...plan, signals }, id: copy.id };
}

/** A plan without a signal, and without phases that were counted from it. */
export function withoutSignal(plan: Plan, id: string | undefined): Plan {
  const others = plan.signals.filter((one) => one.id !== id);
  return { ...plan, signals: others.map((one) => withoutPhase(one, id)) };
}

/** A plan with settings that were found for its signals; what has none keeps its own. */
export function withSettings(plan: Plan, settings: readonly { signal: string; setting: Setting }[]): Plan {
  const found = new Map(settings.map(({ signal, setting }) => [signal, setting]));
  return {
    ...plan,
    signals: plan.signals.map((one) => {
      const setting = found.get(one.id);
      return setting ? { ...one, setting } : one;
    }),
  };
}

/** A plan with one of its signals replaced by another of the same id. */
export function replacedSignal(plan: Plan, signal: PlanSignal): Plan {
  return { ...plan, signals: plan.signals.map((one) => (one.id === signal.id ? signal : one)) };
}

/** A signal with another length of its handler; undefined goes back to the estimate. */
export function withHandlerCycles(
  signal: PlanSignal,
  cycles: Cycles | undefined,
  of: 'cycles' | 'match' = 'cycles',
): PlanSignal {
  const changed = { ...signal, handler: { ...signal.handler } };
  if (cycles !== undefined) changed.handler[of] = cycles;
  else delete changed.handler[of];
  if (Object.keys(changed.handler).length > 0) return changed;
  const plain: PlanSignal = { ...signal };
  delete plain.handler;
  return plain;
}

/** A signal without one of the things that may be told of it. */
export function withoutKey(
  signal: PlanSignal,
  key: 'load' | 'readings' | 'knob' | 'setting' | 'pin',
): PlanSignal {
  const rest: PlanSignal = { ...signal };
  delete rest[key];
  return rest;
}
