import { clockOf, type ClockPath } from '../clock/path.ts';
import { divisionRange, scaleOf } from '../part/division.ts';
import type { Mode, Part, Timer } from '../part/types.ts';
import type { Exact } from '../quantity/exact.ts';
import type { Requirement } from '../signal/requirement.ts';
import { grainOf } from './count.ts';
import { holdTicks, interruptCycles, reloadLatency } from './run.ts';
import { topRange } from './setting.ts';
import { MAX_DIVIDER, tickOf } from './tick.ts';
import { roundSteps } from './round-steps.ts';

/** Interrupts that take more of the processor than this are not offered. */
export const MAX_CPU = 0.5;

/** A timer in a mode that interrupts once a run, with its clock and how many interrupts a second fill the processor. */
export type InterruptSource = {
  timer: Timer;
  mode: Mode;
  clockHz: Exact;
  /** Parts of a clock in a second, that prescalers divide. */
  partHz: number;
  fullRate: number;
  latency: number;
  postscales: number[];
  /**
   * The listed divisions of the clock, the finest first, each with the coarser ones that are not multiples of it; none of a
   * prescaler that has a range.
   */
  divides: { divide: number; others: number[] }[];
  /** The minimum and maximum top. */
  min: number;
  max: number;
  /** What was found for a rate of changes; sources that count alike share it. */
  found: Map<number, Division[]>;
};

/** A run and how many of it make one change: by the postscaler, then in software. */
type Division = { run: Run; postscale: number; divider: number };

/** How a counter runs. */
export type CounterNumbers = { timer: string; mode: string; prescaler: number; top: number };

/** Modes that count alike need to be tried once: those that leave the outputs alone come first. */
function modesOf(timer: Timer): Mode[] {
  const able = timer.modes.filter((mode) => mode.count === 'up' && tickOf(timer, mode) && grainOf(mode) >= 1);
  const plain = [...able].sort((one, other) => Number(!!one.pwm) - Number(!!other.pwm));
  const shapes = new Map<string, Mode>();
  for (const mode of plain) {
    const fixed = mode.top.kind === 'fixed' ? mode.top.value : '';
    const shape = `${mode.base} ${fixed} ${mode.top.kind === 'power'}`;
    if (!shapes.has(shape)) shapes.set(shape, mode);
  }
  return [...shapes.values()];
}

function listedDivisions({ prescaler }: Timer): InterruptSource['divides'] {
  if (prescaler.kind === 'range') return [];
  const divides = prescaler.options.map(({ divide }) => divide).sort((one, other) => one - other);
  return divides.map((divide) => ({
    divide,
    others: divides.filter((other) => other > divide && other % divide !== 0),
  }));
}

/** All that the runs of a source depend on. */
function shapeOf({ clock, prescaler }: Timer, mode: Mode, postscales: { min: number; max: number }): string {
  const divides =
    prescaler.kind === 'list' ? prescaler.options.map((one) => one.divide) : { ...prescaler, writes: 0 };
  const { top, base } = mode;
  const hold = top.kind === 'reload' ? [top.hold, top.clears] : [];
  return JSON.stringify([clock, divides, base, top.kind, hold, topRange(mode), postscales]);
}

/** Every timer that can interrupt, once for each way its runs can differ. */
export function interruptSources(part: Part, path: ClockPath): InterruptSource[] {
  const fullRate = clockOf(path, part.cpu.clock).valueOf() / interruptCycles(part.cpu);
  const alike = new Map<string, InterruptSource['found']>();
  return part.timers.flatMap((timer) =>
    modesOf(timer).map((mode): InterruptSource => {
      const clockHz = clockOf(path, timer.clock);
      const postscaler = tickOf(timer, mode)?.postscaler;
      const range = postscaler ? divisionRange(postscaler) : { min: 1, max: 1 };
      const shape = shapeOf(timer, mode, range);
      const found = alike.get(shape) ?? new Map<number, Division[]>();
      alike.set(shape, found);
      return {
        timer,
        mode,
        clockHz,
        partHz: clockHz.valueOf() * scaleOf(timer.prescaler),
        fullRate,
        latency: reloadLatency(part.cpu),
        ...topRange(mode),
        divides: listedDivisions(timer),
        postscales: Array.from({ length: range.max - range.min + 1 }, (_, at) => range.min + at),
        found,
      };
    }),
  );
}

/** A division by n parts of a clock with its highest count, and how far their run is from the wanted one, relatively. */
type Run = { n: number; top: number; error: number };

/**
 * Takes the division by n parts of a clock, with the counts whose run is closest to a period in such parts, where that
 * is closer than the best so far, or as close with more counts. `below` asks for a run not longer than the period.
 */
function takeRun(
  { mode, timer, latency, min, max }: InterruptSource,
  n: number,
  period: number,
  below: boolean,
  best: Run,
): void {
  const hold = mode.top.kind === 'reload' ? holdTicks(mode, n, scaleOf(timer.prescaler), latency) : 0;
  const ideal = (period - hold) / n - mode.base;
  const whole = mode.top.kind === 'power' ? 2 ** Math.round(Math.log2(Math.max(1, ideal + 1))) - 1 : ideal;
  const rounded = below ? Math.floor(whole + 1e-9) : Math.round(whole);
  if (below && rounded < min) return;
  const top = rounded < min ? min : rounded > max ? max : rounded;
  const error = Math.abs((n * (top + mode.base) + hold) / period - 1);
  if (error > best.error || (error === best.error && top <= best.top)) return;
  best.n = n;
  best.top = top;
  best.error = error;
}

/** So many dividers of a range are tried from the least that reaches a period. */
const TRIED = 512;

/** Whether a period is within the counts of a division by n parts: then no multiple of n comes closer to it. */
function reaches({ mode, max }: InterruptSource, n: number, period: number): boolean {
  return mode.top.kind !== 'reload' && mode.top.kind !== 'power' && period / n - mode.base <= max;
}

/** The run that comes closest to a period: of all divisions of a list, of a range from the finest on. */
function bestRun(source: InterruptSource, period: number, below: boolean): Run {
  const { mode, timer } = source;
  const { prescaler } = timer;
  const best: Run = { n: 1, top: 0, error: Infinity };
  if (prescaler.kind === 'list') {
    for (const { divide, others } of source.divides) {
      if (divide * (source.max + 1) * 2 < period) continue;
      takeRun(source, divide, period, below, best);
      if (!reaches(source, divide, period)) continue;
      for (const other of others) takeRun(source, other, period, below, best);
      break;
    }
    return best;
  }
  const { min, max } = prescaler;
  const first = Math.min(max, Math.max(min, Math.ceil(period / (source.max + mode.base) - 1e-9)));
  if (mode.top.kind === 'power') {
    const near: Run = { n: 1, top: 0, error: Infinity };
    takeRun(source, first, period, false, near);
    const fitted = Math.min(max, Math.max(min, Math.round(period / (near.top + mode.base))));
    takeRun(source, first, period, below, best);
    takeRun(source, fitted, period, below, best);
    return best;
  }
  const last = Math.min(max, first + TRIED);
  const finest = reaches(source, first, period) ? first : 0;
  takeRun(source, first, period, below, best);
  for (let n = first + 1; n <= last && best.error > 0; n += 1) {
    if (finest === 0 || n % finest !== 0) takeRun(source, n, period, below, best);
  }
  return best;
}

function counterOf({ timer, mode }: InterruptSource, { n, top }: Run): CounterNumbers {
  return { timer: timer.id, mode: mode.id, prescaler: n / scaleOf(timer.prescaler), top };
}

/**
 * The counter that runs at a rate: of the divisions the closest, on ties the one with the most counts; undefined where
 * that would take more than a share of the processor or the rate is out of reach altogether.
 */
export function runFor(
  source: InterruptSource,
  rateHz: number,
  maxCpu: number,
  below: boolean,
): CounterNumbers | undefined {
  if (rateHz > maxCpu * source.fullRate) return undefined;
  const best = bestRun(source, source.partHz / rateHz, below);
  return best.error < 0.5 ? counterOf(source, best) : undefined;
}

/** A counter and how many of its runs make one change of the pin: first by the postscaler, then in software. */
export type DividedRun = { counter: CounterNumbers; postscale: number; divider: number };

/** Up to this many runs between two changes are tried one by one. */
const MAX_RUNS = 1_024;

/** So many settings of one timer are listed at most, those that cost the least first. */
const LISTED = 12;

function longestRun({ timer, mode, partHz, max }: InterruptSource): number {
  return (divisionRange(timer.prescaler).max * (max + mode.base)) / partHz;
}

/** For more and more runs to a change those that come closer than any with fewer. */
function findDivisions(source: InterruptSource, rateHz: number): Division[] {
  const first = Math.max(1, Math.ceil(1 / (rateHz * longestRun(source)) - 1e-9));
  const fastest = Math.min(MAX_DIVIDER, Math.floor((MAX_CPU * source.fullRate) / rateHz));
  const wide = source.timer.prescaler.kind === 'range';
  const max = Math.max(...source.postscales);
  const last = Math.min(fastest * max, first + (wide ? 3 : MAX_RUNS));
  const found: Division[] = [];
  let best = Infinity;
  for (let runs = first; runs <= last && best > 0 && found.length < LISTED; runs += 1) {
    const run = bestRun(source, source.partHz / (rateHz * runs), false);
    if (run.error >= best || run.error > 0.5) continue;
    const postscale = Math.max(...source.postscales.filter((each) => runs % each === 0));
    if (runs / postscale > fastest) continue;
    best = run.error;
    found.push({ run, postscale, divider: runs / postscale });
  }
  return found;
}

/**
 * Ways to make changes at a rate, with at most MAX_CPU of the processor: for more and more runs to a change those that
 * come closer than any with fewer. Few runs cost the least; exactness may need more.
 */
export function divideRuns(source: InterruptSource, rateHz: number): DividedRun[] {
  const found = source.found.get(rateHz) ?? findDivisions(source, rateHz);
  source.found.set(rateHz, found);
  return found.map(({ run, ...rest }) => ({ counter: counterOf(source, run), ...rest }));
}

/** Numbers of counts worth trying for a counted pin: those that hit the duty exactly, and round numbers. */
export function softwareStepsFor(requirement: Requirement): number[] {
  const min = Math.max(2, requirement.minSteps);
  const exact = Number(requirement.duty.ideal.d);
  const multiples = [1, 2, 4].map((times) => Math.ceil(min / exact) * exact * times);
  return [...new Set([...multiples, ...roundSteps(min, min * 8)])]
    .filter((steps) => steps >= min && steps <= 65_536)
    .sort((one, other) => one - other)
    .slice(0, 12);
}
