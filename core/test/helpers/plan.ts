import { PLAN_VERSION } from '../../src/plan/versions.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';

/** A plan on an ATmega328P at 16 MHz, without signals. */
export const LOCK_GATE: Plan = {
  format: 'herzschlag-plan',
  version: PLAN_VERSION,
  name: 'Lock gate',
  part: 'atmega328p',
  clock: { source: 'crystal', sourceHz: 16_000_000 },
  signals: [],
};

/** A plan of some signals on a part, at the clock of a new plan. */
export function planOn(part: Part, ...signals: PlanSignal[]): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Try out',
    part: part.id,
    clock: part.defaultClock,
    signals,
  };
}
