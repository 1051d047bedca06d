import { cpuSteps } from './counter/quality.ts';

/** How assignments are compared: first the least CPU time, then the largest margin, then the fewest timers. */
export type Objective = { cpu: number; level: number; timers: number };

/** Below zero where the first is better. */
export function compareObjectives(one: Objective, other: Objective): number {
  return cpuSteps(one.cpu) - cpuSteps(other.cpu) || other.level - one.level || one.timers - other.timers;
}
