import { scaleOf } from '../../part/division.ts';
import { driveById } from '../../timer/drives/index.ts';
import { clockAt, clockOf, type ClockPath } from '../../clock/path.ts';
import type { Mode, Output, Part, Timer } from '../../part/types.ts';
import { tickRequirement, type TickRequirement } from '../../fit/candidate.ts';
import type { Route } from '../../fit/hardware/routes.ts';
import { holdTicks, interruptCycles, reloadLatency } from '../../timer/run.ts';
import { topRange, type OutputDrive } from '../../timer/setting.ts';
import { ceilOf } from '../../quantity/exact.ts';
import type { Requirement } from '../../signal/requirement.ts';
import { cpuSteps, roundedCpu, scalesOf, type Scales } from './quality.ts';
import { narrowed, type Request } from '../request.ts';

/** One signal's use of a counter. The output is any of those it could have: they differ in their pins alone. */
export type Use = { request: Request; drive: string; outputs: readonly Output[]; channel?: string };

/** What a use gets from the counter: its compare value and polarity, or its number of runs. */
export type Share = { compare?: number; polarity?: 'normal' | 'inverted'; divider?: number };

/** A counter that serves all of its users: its numbers, what each gets, and its objective. */
export type Shared = {
  prescaler: number;
  top: number;
  shares: Share[];
  level: number;
  quality: number;
  cpu: number;
};

/** The maximum share of the processor's time for the interrupts of one timer. */
export const MAX_CPU = 0.5;

/** Whether a search reached a limit before it had tried everything, so that finding nothing proves nothing. */
export type Limits = { hit: boolean };

/**
 * The numbers of a counter: a run takes `factor` x n x (top + shift) ticks and what a reload adds, `hold` and the
 * `latency` left over by a division of n. `powers` where the top must be 2^n - 1.
 */
export type CounterRun = {
  factor: number;
  shift: number;
  min: number;
  max: number;
  powers: boolean;
  hold: number;
  latency: number;
};

/**
 * What the interrupts of a counter cost: `cycles` each time. They are counted at the rate that the fastest of its users
 * wants, so that nothing is won at the edge of a tolerance: its number of runs in `ticks`.
 */
export type Cost = {
  cycles: number;
  clockHz: number;
  cpuHz: number;
  /** Absent where its users only have a minimum frequency: there the runs themselves count. */
  fastest?: { at: number; ticks: number };
};

/** All that a counter is judged with. */
export type CounterContext = {
  part: Part;
  path: ClockPath;
  timer: Timer;
  mode: Mode;
  uses: readonly Use[];
  /** Each use's requirement in the timer's ticks, the oscillator's tolerance taken off, and what its quality is measured with. */
  wanted: readonly TickRequirement[];
  scales: readonly Scales[];
  /** How the hardware makes a use; undefined for those of the program. */
  routes: readonly (Route | undefined)[];
  limits: Limits;
  counter: CounterRun;
  cost: Cost;
  /** Ticks that an interrupt takes, and how late it may come, in s. */
  busyTicks: number;
  lateS: number;
};

/** Runs of the counter in a period of the pin. */
export function runsIn(drive: string): number {
  return driveById(drive).runsPerPeriod(true);
}

/** Whether a period is one run of the counter, or two. */
export function isDirect({ drive }: Use): boolean {
  const { divides, cause } = driveById(drive);
  return !divides && cause !== 'input';
}

/** Whether a compare register of the hardware decides its duty, so that steps of it count. */
export function needsCompare(drive: string): boolean {
  const { cause, duty } = driveById(drive);
  return cause === 'output' && duty === 'match';
}

/** Whether it is an input that is measured. */
export function isInputUse({ drive }: { drive: string }): boolean {
  return driveById(drive).cause === 'input';
}

/** Whether the program makes it by interrupts. */
function isSoftware({ drive }: Use): boolean {
  return driveById(drive).cause === 'interrupts';
}

/** The numbers of a timer in one of its modes. */
function counterOf(part: Part, timer: Timer, mode: Mode): CounterRun {
  const { min, max } = topRange(mode);
  const scale = scaleOf(timer.prescaler);
  const { top } = mode;
  const clears = top.kind === 'reload' && top.clears;
  return {
    factor: mode.count === 'up' ? 1 : 2,
    shift: mode.base,
    min,
    max,
    powers: top.kind === 'power',
    hold: holdTicks(mode, 1, scale, 0),
    latency: clears ? reloadLatency(part.cpu) * scale : 0,
  };
}

/** A run of the counter, in ticks. */
export function runOf({ factor, shift, hold, latency }: CounterRun, n: number, top: number): number {
  return factor * n * (top + shift) + hold + (latency % n);
}

/** Runs of the counter in a period of a use, for each run to its change. */
export function changesOf({ drive, request: { requirement } }: Use): number {
  return driveById(drive).runsPerPeriod(requirement.pin);
}

/**
 * What the interrupts of a counter take: the way in and out once a run (and once more for each pulse ended by a match), a
 * handler's work for each that counts it.
 */
export function costOf(
  { cpu }: Part,
  cpuHz: number,
  uses: readonly Use[],
  wanted: readonly TickRequirement[],
): Cost {
  const soft = uses.filter(isSoftware).length;
  const matches = uses.filter(({ drive }) => driveById(drive).interruptsPerRun === 2).length;
  const around = interruptCycles(cpu) - cpu.handlerCycles;
  const cost: Cost = {
    cycles: soft === 0 ? 0 : around * (1 + matches) + cpu.handlerCycles * (soft + matches),
    clockHz: wanted[0]?.clockHz ?? 0,
    cpuHz,
  };
  for (const [at, use] of uses.entries()) {
    const requirement = wanted[at];
    if (!requirement || requirement.periodFloat === undefined || isInputUse(use)) continue;
    const ticks = requirement.periodFloat / changesOf(use);
    if (!cost.fastest || ticks < cost.fastest.ticks) cost.fastest = { at, ticks };
  }
  return cost;
}

/** The CPU share of a counter’s interrupts for a run length in ticks, with `runs` runs between two changes. */
export function cpuOf(
  { cycles, clockHz, cpuHz, fastest }: Cost,
  run: number,
  runs: readonly number[],
): number {
  const rate = fastest ? (runs[fastest.at] ?? 1) / fastest.ticks : 1 / run;
  return roundedCpu((rate * clockHz * cycles) / cpuHz);
}

type ContextRequirement = { wanted: TickRequirement; scales: Scales };

const contextRequirements = new WeakMap<Requirement, Map<string, ContextRequirement | undefined>>();

/** A requirement in ticks of a timer, what its oscillator may be off taken off; undefined where nothing is left. Kept, once made. */
function contextRequirement(
  requirement: Requirement,
  path: ClockPath,
  timer: Timer,
): ContextRequirement | undefined {
  const { hz, tolerancePpm } = clockAt(path, timer.clock);
  const scale = scaleOf(timer.prescaler);
  const key = `${hz.n}/${hz.d} ${tolerancePpm} ${scale}`;
  const cache = contextRequirements.get(requirement) ?? new Map<string, ContextRequirement | undefined>();
  contextRequirements.set(requirement, cache);
  if (cache.has(key)) return cache.get(key);
  const own = narrowed(requirement, path, timer);
  const known = own && { wanted: tickRequirement(own, hz.mul(scale), scale), scales: scalesOf(own) };
  cache.set(key, known);
  return known;
}

function routeOf(timer: Timer, mode: Mode, { drive, outputs, channel: id }: Use): Route | undefined {
  const [output] = outputs;
  const channel = timer.channels.find((one) => one.id === id) ?? timer.channels[0];
  if (driveById(drive).cause !== 'output' || !output || !channel) return undefined;
  return { timer, mode, drive: drive as OutputDrive, channel, pin: output.pin, outputs: [...outputs] };
}

/** The bench of a counter for its uses; undefined where its oscillator alone is worse than a requirement allows. */
export function counterContext(
  part: Part,
  path: ClockPath,
  { timer, mode }: { timer: Timer; mode: Mode },
  uses: readonly Use[],
  limits: Limits,
): CounterContext | undefined {
  const own = uses.flatMap(({ request }) => contextRequirement(request.requirement, path, timer) ?? []);
  if (own.length < uses.length) return undefined;
  const wanted = own.map((one) => one.wanted);
  const cpuHz = clockOf(path, part.cpu.clock);
  const tickHz = clockOf(path, timer.clock).mul(scaleOf(timer.prescaler));
  const soft = uses.some(isSoftware);
  return {
    part,
    path,
    timer,
    mode,
    uses,
    wanted,
    scales: own.map(({ scales }) => scales),
    routes: uses.map((use) => routeOf(timer, mode, use)),
    limits,
    counter: counterOf(part, timer, mode),
    cost: costOf(part, cpuHz.valueOf(), uses, wanted),
    busyTicks: soft ? ceilOf(tickHz.mul(interruptCycles(part.cpu)).div(cpuHz)) : 0,
    lateS: part.cpu.lateCycles / cpuHz.valueOf(),
  };
}

/** Of two counters the better: the least CPU time, then the largest margin. */
export function better(one: Shared, other: Shared | undefined): boolean {
  if (!other) return true;
  const cost = cpuSteps(one.cpu) - cpuSteps(other.cpu);
  if (cost !== 0) return cost < 0;
  return one.level !== other.level ? one.level > other.level : one.quality > other.quality + 1e-9;
}
