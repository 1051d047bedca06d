import { ratio, type Exact } from '../quantity/exact.ts';
import type { Part } from '../part/types.ts';
import { maxCompare, countsOf, grainOf, highCounts, neverMatches, stepsOf } from './count.ts';
import { pulsesOf, type Cycle, type Outcome } from './outcome.ts';
import { resolveSetting, type OutputSetting, type Resolved } from './setting.ts';

function pwmCycle({ mode, setting, division }: Resolved): Cycle {
  const whole = countsOf(mode, setting.top) * grainOf(mode);
  const inverted = setting.polarity === 'inverted';
  const periodTicks = whole * division.n;
  if (neverMatches(mode, setting.top, setting.compare)) return { periodTicks, edges: { level: 0 } };
  const plain = highCounts(mode, setting.top, setting.compare, false);
  if (plain === 0 || plain === whole) {
    return { periodTicks, edges: { level: (plain === 0) === inverted ? 1 : 0 } };
  }
  if (mode.pwm?.spread) {
    const high = inverted ? whole - plain : plain;
    return { periodTicks, edges: { spread: { high, whole, count: division.n } } };
  }
  const up = mode.count === 'up';
  const lag = mode.lag ?? 0;
  const clear = (up ? plain : setting.compare + lag) * division.n;
  const set = (up ? 0 : (whole - setting.compare + lag) % whole) * division.n;
  return { periodTicks, edges: inverted ? { rise: clear, fall: set } : { rise: set, fall: clear } };
}

function toggleCycle({ mode, setting, division }: Resolved): Cycle {
  const count = division.n * grainOf(mode);
  const run = countsOf(mode, setting.top) * count;
  const periodTicks = 2 * run;
  if (setting.compare > setting.top) return { periodTicks, edges: { level: 0 } };
  const rise = (setting.compare + (mode.lag ?? 0)) * count;
  return { periodTicks, edges: { rise: rise % periodTicks, fall: (rise + run) % periodTicks } };
}

/** The dead time of a setting in ticks of its outcome. */
function deadTicks({ mode, division, opposite }: Resolved): number {
  return (opposite?.deadTicks ?? 0) * division.scale * grainOf(mode);
}

/** A cycle whose rise comes so much later; low for good where the pulse is no longer than that. */
function delayed(cycle: Cycle, ticks: number): Cycle {
  if (!('rise' in cycle.edges)) return cycle;
  const { periodTicks } = cycle;
  if (highOf(cycle) <= ticks) return { periodTicks, edges: { level: 0 } };
  const { rise, fall } = cycle.edges;
  return { periodTicks, edges: { rise: (rise + ticks) % periodTicks, fall } };
}

/**
 * What the pin with the opposite does: high while the output is low, but each rise of either comes a dead time after the
 * other's fall. Undefined where a setting has none.
 */
export function oppositeCycle(part: Part, setting: OutputSetting): Cycle | undefined {
  if (!setting.complement) return undefined;
  const resolved = resolveSetting(part, setting);
  const { periodTicks, edges } = pwmCycle(resolved);
  if ('spread' in edges) return undefined;
  if ('level' in edges) return { periodTicks, edges: { level: edges.level === 1 ? 0 : 1 } };
  return delayed({ periodTicks, edges: { rise: edges.fall, fall: edges.rise } }, deadTicks(resolved));
}

function highOf(cycle: Cycle): number {
  if ('level' in cycle.edges) return cycle.edges.level * cycle.periodTicks;
  if ('spread' in cycle.edges) return cycle.edges.spread.high * cycle.edges.spread.count;
  const { rise, fall } = cycle.edges;
  return (((fall - rise) % cycle.periodTicks) + cycle.periodTicks) % cycle.periodTicks;
}

function reachOf({ mode, setting, timer }: Resolved): Outcome['reach'] {
  if (setting.drive === 'toggle') return { min: ratio(1, 2), max: ratio(1, 2) };
  const inverted = setting.polarity === 'inverted';
  const whole = countsOf(mode, setting.top) * grainOf(mode);
  const max = maxCompare(mode, setting.top, timer.width);
  const ends = [0, max].map((compare) => highCounts(mode, setting.top, compare, inverted));
  return { min: ratio(Math.min(...ends), whole), max: ratio(Math.max(...ends), whole) };
}

/** One clock for a divider with a fraction; one count where the counts are spread. */
function jitterOf({ mode, division }: Resolved, clockHz: Exact): number {
  const fraction = division.n % division.scale === 0 ? 0 : 1 / clockHz.valueOf();
  const count = mode.pwm?.spread ? division.n / division.scale / clockHz.valueOf() : 0;
  return fraction + count;
}

/**
 * The exact outcome of an output's setting. Up-counter: f = clk / (prescaler x (top + base)), base being 1 nearly everywhere;
 * up-down counter: f = clk / (2 x prescaler x (top + base)), base mostly 0; a toggled output has half of that.
 * @param clockHz the clock that feeds the timer, in Hz. @throws SettingError when the part cannot do it.
 */
export function outputOutcome(part: Part, setting: OutputSetting, clockHz: Exact): Outcome {
  const resolved = resolveSetting(part, setting);
  const { mode, division } = resolved;
  const tickHz = clockHz.mul(division.scale * grainOf(mode));
  const cycle =
    setting.drive === 'pwm' ? delayed(pwmCycle(resolved), deadTicks(resolved)) : toggleCycle(resolved);
  const highTicks = highOf(cycle);
  const steps = stepsOf(mode, setting.drive, setting.top);
  return {
    cycle,
    tickHz,
    highTicks,
    frequency: tickHz.mul(Math.max(1, pulsesOf(cycle))).div(cycle.periodTicks),
    duty: ratio(highTicks, cycle.periodTicks),
    steps,
    bits: Math.log2(steps),
    stepTicks: cycle.periodTicks / steps,
    jitterS: jitterOf(resolved, clockHz),
    reach: reachOf(resolved),
    cpu: 0,
  };
}
