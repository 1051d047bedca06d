import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { PHASE_DEGREES, type Phase } from '../signal/sequence.ts';
import { beginTicks, isInput, isOutput, outcomeUnder } from '../timer/drives/index.ts';
import { hasTimer, type Setting } from '../timer/setting.ts';
import { checkPhase } from './check-timing.ts';
import type { Check } from './check.ts';

/** A setting with the name of its signal. */
export type NamedSetting = { name: string; setting: Setting };

/** When, in s, a setting's pin first rises in its steady state, counted from the start of its timer; with its rate. */
export function riseOf(
  part: Part,
  path: ClockPath,
  setting: Setting,
): { riseS: number; hz: number } | undefined {
  if (isInput(setting)) return undefined;
  const { cycle, tickHz, frequency } = outcomeUnder(part, path, setting);
  if (!('rise' in cycle.edges)) return undefined;
  const { periodTicks, edges } = cycle;
  const begin = isOutput(setting) ? beginTicks(part, setting) : 0;
  const rise = (edges.rise - begin + periodTicks) % periodTicks;
  return { riseS: rise / tickHz.valueOf(), hz: frequency.valueOf() };
}

function sameTimer(one: Setting, other: Setting): boolean {
  return hasTimer(one) && hasTimer(other) && one.timer === other.timer;
}

/** The phase of a signal to another one, in their steady state, all timers started at the same moment. */
export function phaseBetween(
  part: Part,
  path: ClockPath,
  phase: Phase,
  own: NamedSetting,
  other: NamedSetting,
): Check {
  const [mine, theirs] = [riseOf(part, path, own.setting), riseOf(part, path, other.setting)];
  if (!mine || !theirs) {
    const note = `${mine ? other.name : own.name} has no edges to tell a phase from.`;
    return { property: 'phase', unit: '°', verdict: 'unknown', note };
  }
  const wanted = {
    degrees: phase.degrees,
    tolerance: phase.toleranceDegrees ?? PHASE_DEGREES,
    other: other.name,
  };
  const check = checkPhase(mine.riseS - theirs.riseS, mine.hz, theirs.hz, wanted);
  const apart = !sameTimer(own.setting, other.setting) && check.verdict === 'pass';
  return apart ? { ...check, note: 'Where both timers start at the same moment.' } : check;
}
