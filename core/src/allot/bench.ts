import { scaleOf } from '../part/division.ts';
import type { ClockPath } from '../clock/path.ts';
import type { Mode, Output, Part, Timer } from '../part/schema.ts';
import type { TickGoal } from '../fit/candidate.ts';
import { laneOf } from '../fit/tops.ts';
import { holdTicks, interruptCycles, reloadLatency } from '../timer/run.ts';
import { cpuSteps } from './quality.ts';
import type { Request, UseDrive } from './request.ts';

/** One signal's use of a counter. The output is any of those it could have: they differ in their pins alone. */
export type Use = { request: Request; drive: UseDrive; outputs: readonly Output[]; channel?: string };

/** What a use gets from the counter: its compare value and polarity, or its number of runs. */
export type Share = { compare?: number; polarity?: 'normal' | 'inverted'; divider?: number };

/** A counter that serves all of its users: its numbers, what each gets, and what it is worth. */
export type Shared = {
  prescaler: number;
  top: number;
  shares: Share[];
  level: number;
  quality: number;
  cpu: number;
};

/** Interrupts of one timer may take so much of the processor at the most. */
export const MOST_CPU = 0.5;

/**
 * Whether a search gave up before everything was tried, so that what it did not find is no proof (`hit`), or gave up
 * looking for a finer one among those of the same price (`finer`).
 */
export type Limits = { hit: boolean; finer: boolean };

/** All that a counter is judged with. */
export type Bench = {
  part: Part;
  path: ClockPath;
  timer: Timer;
  mode: Mode;
  uses: readonly Use[];
  /** Each use's goal in the timer's ticks, the oscillator's tolerance taken off. */
  wanted: readonly TickGoal[];
  cpuHz: number;
  limits: Limits;
};

/** Runs of the counter in a period of the pin. */
export function runsIn(drive: UseDrive): number {
  return drive === 'toggle' ? 2 : 1;
}

/** Whether a period is one run of the counter, or two. */
export function isDirect({ drive }: Use): boolean {
  return drive === 'compare' || drive === 'toggle' || drive === 'pair';
}

/** Whether the program makes it by interrupts. */
export function isSoft({ drive }: Use): boolean {
  return drive === 'interrupt' || drive === 'counted' || drive === 'pair';
}

/** A run of the counter, in ticks. */
export function runOf({ mode, timer, part }: Bench, n: number, top: number): number {
  const { unit, shift } = laneOf(mode, n, 1);
  return unit * (top + shift) + holdTicks(mode, n, scaleOf(timer.prescaler), reloadLatency(part.cpu));
}

/** Changes a period of a use takes that counts runs, or ends its pulse by a match. */
function changesOf({ drive, request: { goal } }: Use): number {
  return drive === 'interrupt' && goal.pin ? 2 : 1;
}

/**
 * The processor's share that the interrupts of a counter take, all at their wanted rates: the way in and out once a run
 * (and once more for each pulse ended by a match), a handler's work for each that counts it.
 */
export function cpuOf({ part, uses, wanted, cpuHz }: Bench, run: number): number {
  const soft = uses.flatMap((use, at) => {
    const goal = wanted[at];
    return goal && isSoft(use) ? [{ use, goal }] : [];
  });
  if (soft.length === 0) return 0;
  const rates = soft.map(({ use, goal }) => {
    const change = (goal.periodFloat ?? run) / changesOf(use);
    return (goal.clockHz / change) * Math.max(1, Math.round(change / run));
  });
  const { cpu } = part;
  const around = interruptCycles(cpu) - cpu.handlerCycles;
  const matches = soft.filter(({ use }) => use.drive === 'pair').length;
  const cycles = around * (1 + matches) + cpu.handlerCycles * (soft.length + matches);
  return (Math.min(...rates) * cycles) / cpuHz;
}

/** Of two counters the better: the least processor time, then the most of what is scarce. */
export function better(one: Shared, other: Shared | undefined): boolean {
  if (!other) return true;
  const cost = cpuSteps(one.cpu) - cpuSteps(other.cpu);
  if (cost !== 0) return cost < 0;
  return one.level !== other.level ? one.level > other.level : one.quality > other.quality + 1e-9;
}
