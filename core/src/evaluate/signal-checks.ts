import { ratio } from '../quantity/exact.ts';
import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { checkInput } from '../check/check-input.ts';
import { checkEdges, checkWidth, type Check } from '../check/check.ts';
import type { PlanSignal } from '../plan/plan.ts';
import { hasToMove } from '../signal/requirement.ts';
import { countsOf, grainOf, highCounts, stillSentence, togglesTwice } from '../timer/count.ts';
import { isInput } from '../timer/drives/index.ts';
import type { Cycle, Outcome } from '../timer/outcome.ts';
import { feeding } from '../timer/run.ts';
import { compareForWidth } from '../timer/sending.ts';
import type { Setting } from '../timer/setting.ts';
import { periodicEdges } from '../wave/edges.ts';
import { knobChecks } from './knob.ts';
import { loadChecks, type Motion } from './load.ts';
import { placedSetting, type PlacedSetting } from './placed.ts';
import { spanChecks } from './span-checks.ts';
import { timingChecks } from './timing-checks.ts';

/** Periods that checks on a computed trace look at. */
const PERIODS = 8;

/** Counts of a spread cycle that are looked at, at most, if they show pulses enough. */
const LONGEST_SPREAD = 400_000;

/** Some whole periods; of counts that are spread one cycle, or the first stretch of a very long one. */
function tracedTicks(cycle: Cycle): number {
  if (!('spread' in cycle.edges)) return PERIODS * cycle.periodTicks;
  const { count, high, whole } = cycle.edges.spread;
  const apart = whole / Math.max(1, Math.min(high, whole - high));
  return Math.min(2 * whole, Math.max(LONGEST_SPREAD, Math.ceil(PERIODS * apart))) * count;
}

/** The other widths that the same counter must make, each by its nearest compare value. */
function otherWidths({
  part,
  setting,
  drive,
  requirement,
  outcome,
  output,
  tolerancePpm,
}: PlacedSetting): Check[] {
  const { alsoWidths = [] } = requirement;
  const as = { label: 'other width', tolerancePpm };
  const bits = drive.bits?.(part, setting);
  if (bits) {
    return alsoWidths.map((band) => checkWidth(ratio(bits.zero, 1).div(outcome.tickHz), band, as));
  }
  if (!output) return [];
  const { mode, timer, setting: own } = output;
  const inverted = own.polarity === 'inverted';
  const whole = countsOf(mode, own.top) * grainOf(mode);
  return alsoWidths.map((band): Check => {
    const compare = compareForWidth({ mode, timer }, own, band.ideal, outcome.frequency);
    const made = ratio(highCounts(mode, own.top, compare, inverted), whole).div(outcome.frequency);
    return checkWidth(made, band, as);
  });
}

/** A delay loop on a processor whose loops take no fixed time: its frequency is no more than an intention. */
function loopChecks({ part, drive }: PlacedSetting): Check[] {
  if (drive.cause !== 'loop' || part.cpu.loopJitterCycles !== 'none') return [];
  const note = `A delay loop takes no fixed time on ${part.name}: its caches decide.`;
  return [{ property: 'jitter', unit: 's', verdict: 'fail', note }];
}

/** Whether the program can hand over each bit in time, where the width changes from period to period. */
function feedingChecks({ part, cpuHz, requirement, outcome, output }: PlacedSetting): Check[] {
  const { alsoWidths = [] } = requirement;
  // A loop that sends the bits itself hands none over.
  if (alsoWidths.length === 0 || !output) return [];
  const { has, needs } = feeding(part.cpu, cpuHz.valueOf(), outcome.frequency.valueOf());
  const base = {
    property: 'feeding',
    label: 'cycles per bit',
    unit: 'count',
    value: has,
    low: needs,
    margin: has - needs,
  } as const;
  return has >= needs
    ? [{ ...base, verdict: 'pass' }]
    : [{ ...base, verdict: 'fail', note: `The program has ${has} cycles for each bit and needs ${needs}.` }];
}

/** What has to move while the counter runs, against an output that cannot. */
function movingChecks({ signal, requirement, drive, output }: PlacedSetting): Check[] {
  const moves = hasToMove(requirement) || signal.knob !== undefined || signal.readings !== undefined;
  if (!moves || !output || drive.duty !== 'match' || !togglesTwice(output.mode)) return [];
  const note = stillSentence(output.timer.name);
  return [{ property: 'range', unit: 'fraction', verdict: 'fail', note }];
}

/** What a setting does to a load, in numbers. */
export function motionOf({ frequency, duty, stepTicks, tickHz, steps }: Outcome): Motion {
  return {
    frequencyHz: frequency.valueOf(),
    duty: duty.valueOf(),
    stepS: stepTicks / tickHz.valueOf(),
    steps,
  };
}

/** A frequency that fails for what its reloads may lose, where the oscillator alone would let it pass. */
function unsureNote(check: Check, { outcome, tolerancePpm }: PlacedSetting): Check {
  const { unsurePpm } = outcome;
  const { property, value, margin, verdict } = check;
  if (property !== 'frequency' || verdict !== 'fail' || !unsurePpm || !value || margin === undefined)
    return check;
  if (margin + (value * unsurePpm) / 1e6 < 0) return check;
  const note = `Each reload clears the prescaler, which loses up to ${Math.round(unsurePpm)} ppm of the period as the way into the handler takes; the oscillator’s tolerance is ${tolerancePpm} ppm.`;
  return { ...check, note };
}

/** What a plan checks of a signal by itself. */
export function checksOf(placed: PlacedSetting): Check[] {
  const { part, path, signal, setting, requirement, tolerancePpm, outcome } = placed;
  if (requirement.input && isInput(setting)) {
    const countHz = outcome.frequency.mul(outcome.steps);
    return checkInput(requirement.input, outcome.frequency, countHz, tolerancePpm);
  }
  const trace = periodicEdges(outcome.cycle, 0, tracedTicks(outcome.cycle));
  return [
    ...checkEdges(
      trace,
      requirement,
      outcome.tickHz,
      tolerancePpm + (outcome.unsurePpm ?? 0),
      outcome.steps,
      outcome.jitterS,
    ).map((check) => unsureNote(check, placed)),
    ...otherWidths(placed),
    ...feedingChecks(placed),
    ...spanChecks(placed),
    ...movingChecks(placed),
    ...loopChecks(placed),
    ...timingChecks(placed),
    ...loadChecks(part, signal, motionOf(outcome)),
    ...knobChecks(part, path, signal, setting),
  ];
}

/** What a plan checks of a signal by itself. @throws SettingError when the part cannot do the setting. */
export function checksAlone(part: Part, path: ClockPath, signal: PlanSignal, setting: Setting): Check[] {
  return checksOf(placedSetting(part, path, signal, setting));
}
