import type { CpuRun } from '../machine/record.ts';
import type { CpuLoop, PlanCpu } from './cpu-model.ts';
import type { PlayedPin } from './firmware.ts';

/** Least, greatest and mean of a number of lengths, in s. */
export type EdgeSpread = { min: number; max: number; mean: number };

/** Edges of a pin in cycles of the processor, and to which level each goes. */
export type CycleEdges = { cycles: Float64Array; levels: Uint8Array };

/** What interrupts really make of a signal, as far as they were simulated. */
export type RealEdges = {
  /** How many edges were simulated. */
  count: number;
  /** From one rising edge to the next, and from each to the falling one after it; absent where there is none. */
  periodS?: EdgeSpread;
  widthS?: EdgeSpread;
  /** How far the delays of its edges behind their events lie apart, in s. */
  jitterS: number;
  /** Events that were lost, so that an edge is missing. */
  lost: number;
  /** Whether a loop of the program makes it, whose periods handlers lengthen. */
  stretched: boolean;
  /** Whether they were not simulated but are those that the longest waits allow. */
  certain?: true;
};

function spreadOf(lengths: readonly number[], cpuHz: number): EdgeSpread | undefined {
  if (lengths.length === 0) return undefined;
  let [min, max, sum] = [Infinity, 0, 0];
  for (const length of lengths) {
    min = Math.min(min, length);
    max = Math.max(max, length);
    sum += length;
  }
  return { min: min / cpuHz, max: max / cpuHz, mean: sum / lengths.length / cpuHz };
}

/** Periods and widths between edges, in cycles. */
function lengthsOf(
  cycles: readonly number[],
  levels: readonly number[],
): { periods: number[]; widths: number[] } {
  const periods: number[] = [];
  const widths: number[] = [];
  let rise: number | undefined;
  cycles.forEach((cycle, i) => {
    if (levels[i] === 1) {
      if (rise !== undefined) periods.push(cycle - rise);
      rise = cycle;
    } else if (rise !== undefined) widths.push(cycle - rise);
  });
  return { periods, widths };
}

/** The edges that handlers made of a signal's pin, and how many of its events were lost. */
export function pinEdges(
  { cpuHz }: PlanCpu,
  { cycles, levels, least, most }: PlayedPin,
  lost: number,
): { figures: RealEdges; edges: CycleEdges } {
  const { periods, widths } = lengthsOf(cycles, levels);
  const periodS = spreadOf(periods, cpuHz);
  const widthS = spreadOf(widths, cpuHz);
  const figures: RealEdges = {
    count: cycles.length,
    ...(periodS ? { periodS } : {}),
    ...(widthS ? { widthS } : {}),
    jitterS: cycles.length === 0 ? 0 : (most - least) / cpuHz,
    lost,
    stretched: false,
  };
  return { figures, edges: { cycles: Float64Array.from(cycles), levels: Uint8Array.from(levels) } };
}

/** The edges that a delay loop makes while handlers interrupt it, up to so many: what they take comes on top of its own cycles. */
export function loopEdges(
  { cpuHz }: PlanCpu,
  { spans, cycles: end }: CpuRun,
  { period, rise, fall }: CpuLoop,
  most: number,
): { figures: RealEdges; edges: CycleEdges } {
  const cycles: number[] = [];
  const levels: (0 | 1)[] = [];
  let handled = 0;
  let span = 0;
  const happensAt = (own: number): number => {
    while (span < spans.who.length && (spans.from[span] ?? 0) < own + handled) {
      if ((spans.who[span] ?? 0) >= 0) handled += (spans.to[span] ?? 0) - (spans.from[span] ?? 0);
      span += 1;
    }
    return own + handled;
  };
  const first = rise < fall ? 1 : 0;
  for (let k = 0; cycles.length < most; k += 1) {
    const at = happensAt(
      Math.floor(k / 2) * period + (k % 2 === 0 ? Math.min(rise, fall) : Math.max(rise, fall)),
    );
    if (at >= end) break;
    cycles.push(at);
    levels.push(k % 2 === 0 ? first : ((1 - first) as 0 | 1));
  }
  const { periods, widths } = lengthsOf(cycles, levels);
  const periodS = spreadOf(periods, cpuHz);
  const widthS = spreadOf(widths, cpuHz);
  const figures: RealEdges = {
    count: cycles.length,
    ...(periodS ? { periodS } : {}),
    ...(widthS ? { widthS } : {}),
    jitterS: periodS ? periodS.max - periodS.min : 0,
    lost: 0,
    stretched: true,
  };
  return { figures, edges: { cycles: Float64Array.from(cycles), levels: Uint8Array.from(levels) } };
}
