import { clockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import type { Plan } from '../plan/plan.ts';
import { printSeconds } from '../quantity/print.ts';
import { failed, succeeded, type Result } from '../result/result.ts';
import type { Lane } from '../wave/merge.ts';
import { settingsOf } from './evaluate.ts';
import { simulatePlan } from './interrupts.ts';
import type { EvaluationMemory } from './memory.ts';
import { planProgram } from './program.ts';
import { planWaveforms } from './waveforms.ts';

/** The most interrupts that are followed for a file, whose edges are all kept. */
const MOST_FOLLOWED = 2_000_000;

/** The most edges of a delay loop among them. */
const MOST_LOOP_EDGES = 10_000_000;

/** A signal of a plan, or its opposite, as a file shows it. */
export type TracedLane = Lane & { signal: string };

/**
 * What the pins of a plan do under its program for some seconds from the start: those that handlers or a loop move as the program was played, all others
 * as their timers make them. A fault where so many interrupts come that they cannot be followed for as long.
 */
export function tracedLanes(
  plan: Plan,
  part: Part,
  seconds: number,
  memory?: EvaluationMemory,
): Result<TracedLane[]> {
  const lanes = planWaveforms(plan, part, memory);
  const path = clockPath(part, plan.clock);
  const settings = settingsOf(plan, part, path, memory);
  const known = planProgram(plan, part, path, settings);
  const short = simulatePlan(plan, part, path, settings, { seconds: 1e-3, seed: 1, most: 1 }, known);
  if (short.report.edges.size === 0) return succeeded(lanes);
  const options = { seconds, seed: 1, most: MOST_FOLLOWED, mostLoopEdges: MOST_LOOP_EDGES };
  const { cpu, run, edges } = simulatePlan(plan, part, path, settings, options, known);
  const cutLoops = [...edges.values()].flatMap(({ cycles }) =>
    cycles.length >= MOST_LOOP_EDGES ? (cycles[MOST_LOOP_EDGES - 1] ?? 0) : [],
  );
  const playedS = Math.min(run.cycles, ...cutLoops) / cpu.cpuHz;
  if (playedS < seconds * (1 - 1e-6))
    return failed(
      `Its interrupts can be followed for ${printSeconds(playedS)} and not for ${printSeconds(seconds)}; take a shorter time.`,
    );
  return succeeded(
    lanes.map((lane): TracedLane => {
      const made = edges.get(lane.signal);
      const { name, signal } = lane;
      return made ? { name, signal, edges: made.cycles, tickHz: cpu.cpuHz } : lane;
    }),
  );
}
