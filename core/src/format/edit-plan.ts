import type { Plan, PlanSignal } from './plan.ts';

function withoutPhase(signal: PlanSignal, to: string | undefined): PlanSignal {
  if (signal.phase === undefined || signal.phase.to !== to) return signal;
  const rest = { ...signal };
  delete rest.phase;
  return rest;
}

/** A plan without a signal, and without phases that were counted from it. */
export function withoutSignal(plan: Plan, id: string | undefined): Plan {
  const others = plan.signals.filter((one) => one.id !== id);
  return { ...plan, signals: others.map((one) => withoutPhase(one, id)) };
}
