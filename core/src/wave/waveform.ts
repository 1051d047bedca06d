import { divisionOf } from '../part/division.ts';
import { timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { exact } from '../quantity/exact.ts';
import type { Cycle, Outcome } from '../timer/outcome.ts';
import { hasTimer, type OutputSetting, type Setting } from '../timer/setting.ts';
import { grainOf } from '../timer/count.ts';
import { onWholeClocks, withDeadTime } from './clock.ts';
import { simulateOutput, type Running } from './counter.ts';
import { periodicEdges } from './edges.ts';
import { passTicks, sequenceEdges } from './sequence-waveform.ts';
import type { Waveform, SteadyWaveform } from './stream.ts';
import {
  beginTicks,
  computeOutcome,
  driveOf,
  isOutput,
  resolveSetting,
  oppositeCycle,
} from '../timer/drives/index.ts';

/** Runs of the counter after which an output goes through its cycle. */
const SETTLED_RUNS = 2;

/** A cycle seen from a moment in it, in ticks. */
export function seenFrom(cycle: Cycle, ticks: number): Cycle {
  if (ticks === 0 || !('rise' in cycle.edges)) return cycle;
  const { periodTicks } = cycle;
  const moved = (edge: number): number => (((edge - ticks) % periodTicks) + periodTicks) % periodTicks;
  return { periodTicks, edges: { rise: moved(cycle.edges.rise), fall: moved(cycle.edges.fall) } };
}

/**
 * What a setting does on its pin from the moment its timer starts: a PWM output's first runs as the counter makes them
 * (the pin low before, an output that changes at matches without its first rise), then its cycle. A drive whose interrupt at
 * the end of a run sets the pin leaves it low for the first one. All others go through their cycle from the start.
 */
export function waveformOf(part: Part, setting: Setting, outcome: Outcome): SteadyWaveform {
  const { cycle } = outcome;
  const scale = clockScale(part, setting);
  const { start } = driveOf(setting);
  if (!isOutput(setting) || start !== 'simulated' || 'spread' in cycle.edges) {
    const settled = start === 'second-run' ? cycle.periodTicks : 0;
    const steady = { cycle, scale, settled, begin: new Float64Array(0) };
    return start === 'first-match'
      ? toggledWaveform(steady, isOutput(setting) && setting.polarity === 'inverted')
      : steady;
  }
  const { mode, timer, division, opposite } = resolveSetting(part, setting);
  const running = runningOf(setting);
  const counts = (SETTLED_RUNS * cycle.periodTicks) / division.n;
  const seen = simulateOutput(mode, 2 ** timer.width - 1, running, [], counts);
  const ticks = { ...seen, edges: seen.edges.map((edge) => edge * division.n), to: seen.to * division.n };
  const dead = opposite?.second ? 0 : (opposite?.deadTicks ?? 0) * division.scale * grainOf(mode);
  const begin = dead > 0 ? withDeadTime(ticks, dead).main : ticks;
  const whole = division.n % division.scale === 0 ? 1 : division.scale;
  return {
    cycle: seenFrom(cycle, beginTicks(part, setting)),
    scale: whole,
    settled: SETTLED_RUNS * cycle.periodTicks,
    begin: onWholeClocks(begin, whole).edges,
  };
}

function runningOf(setting: OutputSetting): Running {
  const { top, compare, begin, polarity } = setting;
  return { top, compare, inverted: polarity === 'inverted', ...(begin === undefined ? {} : { begin }) };
}

/**
 * What the pin with the opposite does from the timer's start on: low before it, then high whenever the output is low, a
 * dead time after its fall; where a second channel makes it, what that one does. Undefined where a setting has none.
 */
export function oppositeWaveform(part: Part, setting: Setting): SteadyWaveform | undefined {
  if (!isOutput(setting) || !setting.complement) return undefined;
  const cycle = oppositeCycle(part, setting);
  if (!cycle) return undefined;
  const { mode, timer, division, opposite } = resolveSetting(part, setting);
  if (opposite?.second) {
    return waveformOf(part, opposite.second, computeOutcome(part, opposite.second, exact(1)));
  }
  const running = runningOf(setting);
  const until = (SETTLED_RUNS * cycle.periodTicks) / division.n;
  const seen = simulateOutput(mode, 2 ** timer.width - 1, running, [], until);
  const ticks = { ...seen, edges: seen.edges.map((edge) => edge * division.n), to: seen.to * division.n };
  const dead = setting.complement.deadTicks * division.scale * grainOf(mode);
  const { edges } = withDeadTime(ticks, dead).complement;
  // It is low before the start and would be high at it, unless the output itself rises then.
  const first = edges[0] === 0 ? edges.slice(1) : Float64Array.from([0, ...edges]);
  const whole = division.n % division.scale === 0 ? 1 : division.scale;
  const begin = onWholeClocks({ start: 0, edges: first, from: 0, to: ticks.to }, whole).edges;
  const steady = seenFrom(cycle, beginTicks(part, setting));
  return { cycle: steady, scale: whole, settled: SETTLED_RUNS * cycle.periodTicks, begin };
}

/** A toggled output keeps its idle level until its first match: low, or high from the start on where it is inverted. */
function toggledWaveform(waveform: SteadyWaveform, inverted: boolean): SteadyWaveform {
  const { cycle, scale } = waveform;
  if (!('rise' in cycle.edges)) return waveform;
  const match = inverted ? cycle.edges.fall : cycle.edges.rise;
  const matches = [match, match + cycle.periodTicks / 2].filter((edge) => edge < cycle.periodTicks);
  // The idle level is high from the start on, unless the first match comes at once.
  const first = !inverted ? matches : match === 0 ? matches.slice(1) : [0, ...matches];
  const begin = { start: 0 as const, edges: Float64Array.from(first), from: 0, to: cycle.periodTicks };
  return { ...waveform, settled: cycle.periodTicks, begin: onWholeClocks(begin, scale).edges };
}

/** Parts of a clock in a tick of the outcome, where the divider has a fraction; else 1. */
export function clockScale(part: Part, setting: Setting): number {
  if (!hasTimer(setting)) return 1;
  const division = divisionOf(timerOf(part, setting.timer).prescaler, setting.prescaler);
  return division && division.n % division.scale !== 0 ? division.scale : 1;
}

/** The first edge of a lane after the start of its timer, in ticks; undefined if it has no edge. */
export function firstEdge(waveform: Waveform): number | undefined {
  if ('rows' in waveform) {
    const [first] = sequenceEdges(waveform, 0, waveform.leadTicks + 2 * passTicks(waveform));
    return first;
  }
  if (waveform.begin[0] !== undefined) return waveform.begin[0];
  const { cycle, settled } = waveform;
  if ('level' in cycle.edges) return cycle.edges.level === 1 ? settled : undefined;
  const { start, edges } = periodicEdges(cycle, settled, settled + 2 * cycle.periodTicks);
  return start === 1 ? settled : edges[0];
}
