import { exact, ratio, type Exact } from '../quantity/exact.ts';
import type { Part } from '../part/types.ts';
import { grainOf } from './count.ts';
import type { Cycle, Outcome } from './outcome.ts';
import { interruptCycles, reloadLatency, runTicks } from './run.ts';
import type { DelayLoopSetting, InterruptDriven } from './setting.ts';
import { resolveDelayLoop, resolveSoftware, type ResolvedSoftware } from './software.ts';

type Shape = { cycle: Cycle; steps: number; reach: Outcome['reach']; interrupts: number };

function pulse(periodTicks: number, high: number): Cycle {
  if (high <= 0) return { periodTicks, edges: { level: 0 } };
  if (high >= periodTicks) return { periodTicks, edges: { level: 1 } };
  return { periodTicks, edges: { rise: 0, fall: high } };
}

const HALVES = { min: ratio(1, 2), max: ratio(1, 2) };

/** Ticks of the timer in so many cycles of the processor, rounded up to whole ones. */
function ticksIn(cycles: number, tickHz: Exact, cpuHz: Exact): number {
  return Math.ceil(tickHz.mul(cycles).div(cpuHz).valueOf());
}

/** A pin set by one interrupt and cleared by another: neither can come before the other has ended. */
function pairShape({ setting, mode, division }: ResolvedSoftware, run: number, busy: number): Shape {
  const compare = setting.drive === 'interrupt-pair' ? setting.compare : 0;
  const count = division.n * grainOf(mode);
  const wanted = (compare + (mode.lag ?? 0)) * count;
  const high = Math.min(Math.max(wanted, busy), Math.max(run - busy, 0));
  return {
    cycle: pulse(run, high),
    steps: Math.max(2, Math.floor((run - 2 * busy) / count)),
    reach: { min: ratio(Math.min(busy, run), run), max: ratio(Math.max(run - busy, 0), run) },
    interrupts: 2,
  };
}

function shapeOf(resolved: ResolvedSoftware, run: number, busy: number): Shape {
  const { setting } = resolved;
  if (setting.drive === 'interrupt-pair') return pairShape(resolved, run, busy);
  const { divider, postscale = 1 } = setting;
  const interrupt = run * postscale;
  if (setting.drive === 'software-pwm') {
    return {
      cycle: pulse(interrupt * divider, interrupt * setting.compare),
      steps: divider,
      reach: { min: exact(0), max: exact(1) },
      interrupts: divider,
    };
  }
  const period = interrupt * divider;
  if (setting.pin === undefined) {
    const width = Math.max(1, Math.min(busy, Math.floor(period / 2)));
    return { cycle: pulse(period, width), steps: 1, reach: HALVES, interrupts: divider };
  }
  return {
    cycle: { periodTicks: 2 * period, edges: { rise: period, fall: 0 } },
    steps: 2,
    reach: HALVES,
    interrupts: 2 * divider,
  };
}

function outcomeOf({ cycle, steps, reach }: Shape, tickHz: Exact, jitterS: number, cpu: number): Outcome {
  const { periodTicks, edges } = cycle;
  const high =
    'rise' in edges
      ? (edges.fall - edges.rise + periodTicks) % periodTicks
      : 'level' in edges
        ? edges.level * periodTicks
        : 0;
  return {
    cycle,
    tickHz,
    highTicks: high,
    frequency: tickHz.div(periodTicks),
    duty: ratio(high, periodTicks),
    steps,
    bits: Math.log2(steps),
    stepTicks: periodTicks / steps,
    jitterS,
    reach,
    cpu,
  };
}

/**
 * The exact outcome of an interrupt-driven setting, with nothing else that interrupts. A toggle every n interrupts is a
 * period of 2n; a tick without a pin is shown as high while its handler runs. Entry and exit shift all edges alike.
 * @param clockHz the timer's clock. @param cpuHz the processor's. @throws SettingError when the part cannot do it.
 */
export function softwareOutcome(part: Part, setting: InterruptDriven, clockHz: Exact, cpuHz: Exact): Outcome {
  const resolved = resolveSoftware(part, setting);
  const { mode, division } = resolved;
  const tickHz = clockHz.mul(division.scale * grainOf(mode));
  const run = runTicks(mode, division.n, division.scale, setting.top, reloadLatency(part.cpu));
  const cycles = interruptCycles(part.cpu);
  const shape = shapeOf(resolved, run, ticksIn(cycles, tickHz, cpuHz));
  const perSecond = tickHz.div(shape.cycle.periodTicks).mul(shape.interrupts).valueOf();
  const fraction = division.n % division.scale === 0 ? 0 : 1 / clockHz.valueOf();
  const jitterS = part.cpu.lateCycles / cpuHz.valueOf() + fraction;
  return outcomeOf(shape, tickHz, jitterS, (perSecond * cycles) / cpuHz.valueOf());
}

/** The outcome of a delay loop: passes of `loopCycles` each, all of the processor's time. @throws SettingError */
export function delayLoopOutcome(part: Part, setting: DelayLoopSetting, cpuHz: Exact): Outcome {
  resolveDelayLoop(part, setting);
  const cycles = part.cpu.loopCycles;
  const shape: Shape = {
    cycle: pulse(setting.top * cycles, setting.compare * cycles),
    steps: setting.top,
    reach: { min: exact(0), max: exact(1) },
    interrupts: 0,
  };
  return outcomeOf(shape, cpuHz, 0, 1);
}
