import { ratio, type Exact } from '../quantity/exact.ts';
import type { Part } from '../part/schema.ts';
import { countsOf, highCounts, neverMatches, runsOf, stepsOf } from './count.ts';
import { resolveSetting, type Resolved, type Setting } from './setting.ts';

/**
 * One period of a pin, in ticks of the clock that feeds the timer. `rise` and `fall` count from the moment the counter
 * leaves 0 upwards (the bottom); a pin that never changes has a `level` instead.
 */
export type Cycle = { periodTicks: number; edges: { rise: number; fall: number } | { level: 0 | 1 } };

/** What a setting really gives on its pin. */
export type Outcome = {
  cycle: Cycle;
  highTicks: number;
  /** Of the cycle, even where the pin never changes; in Hz. */
  frequency: Exact;
  /** The share of a period for which the pin is high. */
  duty: Exact;
  /** Duty values that can be told apart, their base-2 logarithm, and the length of one in ticks. */
  steps: number;
  bits: number;
  stepTicks: number;
  /** The least and the greatest duty the compare register can give in this mode. */
  reach: { least: Exact; most: Exact };
};

function pwmCycle({ mode, setting }: Resolved): Cycle {
  const counts = countsOf(mode, setting.top);
  const inverted = setting.polarity === 'inverted';
  const periodTicks = counts * setting.prescaler;
  if (neverMatches(mode, setting.top, setting.compare)) return { periodTicks, edges: { level: 0 } };
  const plain = highCounts(mode, setting.top, setting.compare, false);
  if (plain === 0 || plain === counts) {
    return { periodTicks, edges: { level: (plain === 0) === inverted ? 1 : 0 } };
  }
  const up = mode.count === 'up';
  const clear = (up ? plain : setting.compare + 1) * setting.prescaler;
  const set = (up ? 0 : (counts - setting.compare + 1) % counts) * setting.prescaler;
  return { periodTicks, edges: inverted ? { rise: clear, fall: set } : { rise: set, fall: clear } };
}

function toggleCycle({ mode, setting }: Resolved): Cycle {
  const run = countsOf(mode, setting.top) * setting.prescaler;
  const periodTicks = 2 * run;
  if (setting.compare > setting.top) return { periodTicks, edges: { level: 0 } };
  const rise = (setting.compare + 1) * setting.prescaler;
  return { periodTicks, edges: { rise: rise % periodTicks, fall: (rise + run) % periodTicks } };
}

function highOf(cycle: Cycle): number {
  if ('level' in cycle.edges) return cycle.edges.level * cycle.periodTicks;
  const { rise, fall } = cycle.edges;
  return (((fall - rise) % cycle.periodTicks) + cycle.periodTicks) % cycle.periodTicks;
}

function reachOf({ mode, setting }: Resolved): Outcome['reach'] {
  if (setting.drive === 'toggle') return { least: ratio(1, 2), most: ratio(1, 2) };
  const inverted = setting.polarity === 'inverted';
  const counts = countsOf(mode, setting.top);
  const ends = [0, setting.top].map((compare) => highCounts(mode, setting.top, compare, inverted));
  return { least: ratio(Math.min(...ends), counts), most: ratio(Math.max(...ends), counts) };
}

/**
 * The exact outcome of a setting. Up-counter: f = clk / (prescaler x (top + 1)); up-down counter:
 * f = clk / (2 x prescaler x top); a toggled output has half of that.
 * @param clockHz the clock that feeds the timer, in Hz. @throws SettingError when the part cannot do it.
 */
export function produce(part: Part, setting: Setting, clockHz: Exact): Outcome {
  const resolved = resolveSetting(part, setting);
  const { mode } = resolved;
  const cycle = setting.drive === 'compare' ? pwmCycle(resolved) : toggleCycle(resolved);
  const highTicks = highOf(cycle);
  const steps = stepsOf(mode, setting.drive, setting.top);
  return {
    cycle,
    highTicks,
    frequency: clockHz.div(countsOf(mode, setting.top) * runsOf(setting.drive) * setting.prescaler),
    duty: ratio(highTicks, cycle.periodTicks),
    steps,
    bits: Math.log2(steps),
    stepTicks: cycle.periodTicks / steps,
    reach: reachOf(resolved),
  };
}
