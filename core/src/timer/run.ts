import type { Cpu, Mode } from '../part/types.ts';
import { countsOf, grainOf } from './count.ts';

/**
 * Clocks of the timer in one run of its counter, in parts of a clock (n of them divide it once). A reloaded counter also
 * stands still for the clocks its write holds it, and loses what its prescaler had counted since the overflow:
 * period = n x (top + 1) + hold + latency mod n.
 * @param n parts of the clock to a count. @param scale parts in a clock. @param latency clocks from overflow to the write.
 */
export function runTicks(mode: Mode, n: number, scale: number, top: number, latency: number): number {
  return countsOf(mode, top) * grainOf(mode) * n + holdTicks(mode, n, scale, latency) * grainOf(mode);
}

/** What a reload adds to a run, in parts of the timer's clock; 0 where the counter is not reloaded. */
export function holdTicks({ top }: Mode, n: number, scale: number, latency: number): number {
  if (top.kind !== 'reload') return 0;
  const lost = top.clears ? (latency * scale) % n : 0;
  return top.hold * scale + lost;
}

/**
 * Clocks of the timer from an overflow to the write that reloads it: the way into the handler and to its write,
 * where processor and timer count the same clock. With a prescaler of 1 it does not matter.
 */
export function reloadLatency(cpu: Cpu): number {
  return cpu.entryCycles + cpu.reloadCycles;
}

/**
 * Cycles that the program has for each period of a signal whose width changes from period to period, and those it needs to
 * wait for the timer, take the next bit and write its width.
 */
export function feeding(cpu: Cpu, cpuHz: number, frequencyHz: number): { has: number; needs: number } {
  return { has: Math.floor(cpuHz / frequencyHz + 1e-9), needs: cpu.feedCycles };
}

/** Cycles of the processor that one interrupt of a short handler takes, its way in and out included. */
export function interruptCycles(cpu: Cpu): number {
  return cpu.entryCycles + cpu.handlerCycles + cpu.exitCycles;
}
