import { cpuSteps } from './counter/quality.ts';

/** What an assignment is worth: first the least processor time, then the most of what is scarce, then the fewest timers. */
export type Objective = { cpu: number; level: number; timers: number };

/** Below zero where the first is better. */
export function compareObjectives(one: Objective, other: Objective): number {
  return cpuSteps(one.cpu) - cpuSteps(other.cpu) || other.level - one.level || one.timers - other.timers;
}
