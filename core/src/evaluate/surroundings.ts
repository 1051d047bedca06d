import { clockPath } from '../clock/path.ts';
import type { Refusal } from '../fit/explain/refusal.ts';
import { landscapeOf, type Landscape } from '../fit/landscape.ts';
import type { Part } from '../part/types.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { otherSettings, pinsTaken, signalFit } from './choose.ts';

/** What else there is for a signal: all settings as a landscape, and why those that cannot serve it cannot. */
export type Surroundings = {
  considered: number;
  /** Whether any setting at all meets the target. */
  met: boolean;
  landscape: Landscape;
  refused: Refusal[];
};

/** What stands around the setting of a signal. */
export function signalSurroundings(plan: Plan, part: Part, signal: PlanSignal): Surroundings {
  const taken = pinsTaken(part, otherSettings(plan, signal.id));
  const fit = signalFit(part, clockPath(part, plan.clock), signal, 'all', taken);
  return {
    considered: fit.considered,
    met: fit.candidates.length > 0,
    landscape: landscapeOf(fit, requirementOf(signal)),
    refused: fit.refused,
  };
}
