import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { planCpu } from '../../src/evaluate/cpu-model.ts';
import { evaluatePlan, settingsOf } from '../../src/evaluate/evaluate.ts';
import { tracedLanes } from '../../src/evaluate/traced.ts';
import type { CodeFile } from '../../src/codegen/c-files.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { driveOf } from '../../src/timer/drives/index.ts';
import { lanePieces } from '../../src/wave/merge.ts';

/** How the edges of a pin under the compiled program lie to those that the product says, in cycles. */
export type Witnessed = {
  signal: string;
  drive: string;
  /** Edges of both; they may differ by those at the end. */
  seen: number;
  said: number;
  /** How far the least and the greatest distance lie apart, after the time that the code needs to start. */
  apart: number;
  /** What they may: nothing for an output of a timer, else what the handlers of the plan take. */
  allowed: number;
};

/** A chip of which there is a model: what runs files on it for some seconds and tells the edges of its pins, in cycles. */
export type WitnessChip = {
  part: Part;
  cpuHz: number;
  run: (files: readonly CodeFile[], seconds: number) => ReadonlyMap<string, readonly number[]>;
  /** Cycles by which dividers with a fraction and the counter of an alarm move edges. */
  grain: number;
  /** Whether an output that is high from the start on is led to its pin some cycles later, which cuts its first pulse. */
  cutsFirst: boolean;
};

/** A plan that can be run without calls from outside: no strings, no inputs, no loops, nothing left out, no conflict. */
export function runsByItself(part: Part, plan: Plan): boolean {
  const { signals, conflicts, failures } = evaluatePlan(plan, part);
  // Where interrupts are lost, which of them depends on single cycles.
  if (failures.some(({ text }) => text.includes('wait of'))) return false;
  const able = signals.every(
    ({ signal: { kind }, outcome }) =>
      kind !== 'string' && kind !== 'measure' && outcome && driveOf(outcome.setting).cause !== 'loop',
  );
  return able && conflicts.length === 0 && planCode(plan, part, { failing: true }).leftOut.length === 0;
}

/** Runs the compiled program of a plan for some seconds, and lays its edges beside those that the product says. */
export function witnessed(chip: WitnessChip, plan: Plan, seconds: number): Witnessed[] {
  const { part, cpuHz, grain, cutsFirst } = chip;
  const path = clockPath(part, plan.clock);
  const settings = settingsOf(plan, part, path);
  const edges = chip.run(planCode(plan, part, { failing: true }).files, seconds);
  const lanes = tracedLanes(plan, part, seconds);
  if (!lanes.ok) throw new Error(lanes.fault.sentence);
  const { model } = planCpu(plan, part, path, settings);
  const { entry, exit, late } = model.core;
  const handlers = model.tasks.reduce((sum, { cycles }) => sum + cycles.max + entry + exit + late, 0);
  return plan.signals.flatMap(({ id, name }): Witnessed[] => {
    const lane = lanes.value.find(({ signal }) => signal === id);
    const setting = settings.get(id);
    const pin = setting?.pin;
    if (!lane || !setting || pin === undefined) return [];
    const said: number[] = [];
    for (const piece of lanePieces(lane, seconds))
      for (const edge of piece) said.push(Math.round((edge * cpuHz) / lane.tickHz));
    const seen = edges.get(pin) ?? [];
    const both = Math.min(seen.length, said.length);
    let [least, most] = [Infinity, -Infinity];
    for (let at = cutsFirst && said[0] === 0 ? 1 : 0; at < both; at += 1) {
      const distance = (seen[at] ?? 0) - (said[at] ?? 0);
      least = Math.min(least, distance);
      most = Math.max(most, distance);
    }
    return [
      {
        signal: name,
        drive: setting.drive,
        seen: seen.length,
        said: said.length,
        apart: most < least ? 0 : most - least,
        allowed: grain + ('edges' in lane ? handlers : 0),
      },
    ];
  });
}
