import { clockOf, type ClockPath } from '../clock/path.ts';
import { divisionRange, scaleOf } from '../part/division.ts';
import type { Mode, Part, Timer } from '../part/schema.ts';
import type { Exact } from '../quantity/exact.ts';
import type { Goal } from '../target/goal.ts';
import { grainOf } from '../timer/count.ts';
import { holdTicks, interruptCycles, reloadLatency } from '../timer/run.ts';
import { topRange } from '../timer/setting.ts';
import { tickOf } from '../timer/soft.ts';
import { roundSteps } from './tops.ts';

/** A timer in a mode that interrupts once a run, with its clock and how many interrupts a second fill the processor. */
export type Ticker = {
  timer: Timer;
  mode: Mode;
  clockHz: Exact;
  /** Parts of a clock in a second, that prescalers divide. */
  partHz: number;
  fullRate: number;
  latency: number;
  postscales: number[];
  /** The least and the greatest top. */
  least: number;
  most: number;
};

/** How a counter runs. */
export type CounterNumbers = { timer: string; mode: string; prescaler: number; top: number };

/** Modes that count alike need to be tried once: those that leave the outputs alone come first. */
function modesOf(timer: Timer): Mode[] {
  const able = timer.modes.filter((mode) => mode.count === 'up' && tickOf(timer, mode) && grainOf(mode) >= 1);
  const plain = [...able].sort((one, other) => Number(!!one.compare) - Number(!!other.compare));
  const shapes = new Map<string, Mode>();
  for (const mode of plain) {
    const fixed = mode.top.kind === 'fixed' ? mode.top.value : '';
    const shape = `${mode.base} ${fixed} ${mode.top.kind === 'power'}`;
    if (!shapes.has(shape)) shapes.set(shape, mode);
  }
  return [...shapes.values()];
}

/** Every timer that can interrupt, once for each way its runs can differ. */
export function tickersOf(part: Part, path: ClockPath): Ticker[] {
  const fullRate = clockOf(path, part.cpu.clock).valueOf() / interruptCycles(part.cpu);
  return part.timers.flatMap((timer) =>
    modesOf(timer).map((mode): Ticker => {
      const clockHz = clockOf(path, timer.clock);
      const postscaler = tickOf(timer, mode)?.postscaler;
      const range = postscaler ? divisionRange(postscaler) : { least: 1, most: 1 };
      return {
        timer,
        mode,
        clockHz,
        partHz: clockHz.valueOf() * scaleOf(timer.prescaler),
        fullRate,
        latency: reloadLatency(part.cpu),
        ...topRange(mode),
        postscales: Array.from({ length: range.most - range.least + 1 }, (_, at) => range.least + at),
      };
    }),
  );
}

/** A division by n parts of a clock with its highest count, and how far their run is from the wanted one, relatively. */
type Run = { n: number; top: number; error: number };

/**
 * Takes the division by n parts of a clock, with the counts whose run comes nearest to a period in such parts, where that
 * is closer than the best so far, or as close with more counts. `below` asks for a run not longer than the period.
 */
function takeRun(
  { mode, timer, latency, least, most }: Ticker,
  n: number,
  period: number,
  below: boolean,
  best: Run,
): void {
  const hold = mode.top.kind === 'reload' ? holdTicks(mode, n, scaleOf(timer.prescaler), latency) : 0;
  const ideal = (period - hold) / n - mode.base;
  const whole = mode.top.kind === 'power' ? 2 ** Math.round(Math.log2(Math.max(1, ideal + 1))) - 1 : ideal;
  const rounded = below ? Math.floor(whole + 1e-9) : Math.round(whole);
  const top = rounded < least ? least : rounded > most ? most : rounded;
  const error = Math.abs((n * (top + mode.base) + hold) / period - 1);
  if (error > best.error || (error === best.error && top <= best.top)) return;
  best.n = n;
  best.top = top;
  best.error = error;
}

/** So many dividers of a range are tried from the least that reaches a period. */
const TRIED = 512;

/** The run that comes closest to a period: of all divisions of a list, of a range from the finest on. */
function bestRun(ticker: Ticker, period: number, below: boolean): Run {
  const { mode, timer } = ticker;
  const { prescaler } = timer;
  const best: Run = { n: 1, top: 0, error: Infinity };
  if (prescaler.kind === 'list') {
    for (const { divide } of prescaler.options) {
      if (divide * (ticker.most + 1) * 2 >= period) takeRun(ticker, divide, period, below, best);
    }
    return best;
  }
  const { least, most } = prescaler;
  const first = Math.min(most, Math.max(least, Math.ceil(period / (ticker.most + mode.base) - 1e-9)));
  if (mode.top.kind === 'power') {
    const near: Run = { n: 1, top: 0, error: Infinity };
    takeRun(ticker, first, period, false, near);
    const fitted = Math.min(most, Math.max(least, Math.round(period / (near.top + mode.base))));
    takeRun(ticker, first, period, below, best);
    takeRun(ticker, fitted, period, below, best);
    return best;
  }
  const last = Math.min(most, first + TRIED);
  for (let n = first; n <= last && best.error > 0; n += 1) takeRun(ticker, n, period, below, best);
  return best;
}

function counterOf({ timer, mode }: Ticker, { n, top }: Run): CounterNumbers {
  return { timer: timer.id, mode: mode.id, prescaler: n / scaleOf(timer.prescaler), top };
}

/**
 * The counter that runs at a rate: of the divisions the closest, of equals the one with the most counts; undefined where
 * that would take more than a share of the processor or the rate is out of reach altogether.
 */
export function runFor(
  ticker: Ticker,
  rateHz: number,
  mostCpu: number,
  below: boolean,
): CounterNumbers | undefined {
  if (rateHz > mostCpu * ticker.fullRate) return undefined;
  const best = bestRun(ticker, ticker.partHz / rateHz, below);
  return best.error < 0.5 ? counterOf(ticker, best) : undefined;
}

/** A counter and how many of its runs make one change of the pin: first by the postscaler, then in software. */
export type DividedRun = { counter: CounterNumbers; postscale: number; divider: number };

/** At the most so many runs to a change are tried one by one. */
const MOST_RUNS = 1_024;

/** So many settings of one timer are listed at the most, those that cost the least first. */
const LISTED = 12;

function longestRun({ timer, mode, partHz, most }: Ticker): number {
  return (divisionRange(timer.prescaler).most * (most + mode.base)) / partHz;
}

/**
 * Ways to make changes at a rate: for more and more runs to a change those that come closer than any with fewer. Few
 * runs cost the least; exactness may need more.
 */
export function divideRuns(ticker: Ticker, rateHz: number, mostCpu: number): DividedRun[] {
  const first = Math.max(1, Math.ceil(1 / (rateHz * longestRun(ticker)) - 1e-9));
  const fastest = Math.floor((mostCpu * ticker.fullRate) / rateHz);
  const wide = ticker.timer.prescaler.kind === 'range';
  const most = Math.max(...ticker.postscales);
  const last = Math.min(fastest * most, first + (wide ? 3 : MOST_RUNS));
  const found: DividedRun[] = [];
  let best = Infinity;
  for (let runs = first; runs <= last && best > 0 && found.length < LISTED; runs += 1) {
    const run = bestRun(ticker, ticker.partHz / (rateHz * runs), false);
    if (run.error >= best || run.error > 0.5) continue;
    const postscale = Math.max(...ticker.postscales.filter((each) => runs % each === 0));
    if (runs / postscale > fastest) continue;
    best = run.error;
    found.push({ counter: counterOf(ticker, run), postscale, divider: runs / postscale });
  }
  return found;
}

/** Numbers of counts worth trying for a counted pin: those that hit the duty exactly, and round numbers. */
export function softStepsFor(goal: Goal): number[] {
  const least = Math.max(2, goal.minSteps);
  const exact = Number(goal.duty.ideal.d);
  const multiples = [1, 2, 4].map((times) => Math.ceil(least / exact) * exact * times);
  return [...new Set([...multiples, ...roundSteps(least, least * 8)])]
    .filter((steps) => steps >= least && steps <= 65_536)
    .sort((one, other) => one - other)
    .slice(0, 12);
}
