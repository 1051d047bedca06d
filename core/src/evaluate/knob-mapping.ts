import { arithmeticOf, computed, type Arithmetic } from '../knob/arithmetic.ts';
import { wantedAt } from '../knob/curve.ts';
import { highestReading, type Knob } from '../knob/knob.ts';
import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import { supplyOf } from '../plan/starters.ts';
import { printHz, printPercent, printSeconds, printUnit } from '../quantity/print.ts';
import { failed, succeeded, type Result } from '../result/result.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import { compareFor, countsOf, grainOf, highCounts, maxCompare } from '../timer/count.ts';
import { driveOf, isOutput, outcomeUnder, resolveSetting } from '../timer/drives/index.ts';
import { topRange, type OutputSetting, type Setting } from '../timer/setting.ts';

/** How the counts that a knob writes become what the pin does. */
export type KnobMapping = {
  arithmetic: Arithmetic;
  /** The quantity that counts give, in its base unit; undefined where the timer cannot take them. */
  valueOf: (counts: number) => number | undefined;
  /** Whether counts are those of a period, and whether the time high stays as it is. */
  rate?: { keepsWidth: boolean };
  /** The setting with these counts. */
  settingOf: (counts: number) => Setting | undefined;
};

/** Scales of a frequency in whole numbers: Hz, tenths, hundredths... */
const SCALES = [1, 10, 100, 1000, 10_000, 100_000, 1_000_000];

/** A value of a knob in its unit, as text. */
export function knobText(sets: Knob['sets'], value: number, significant = 4): string {
  if (sets === 'frequency') return printHz(value, significant);
  if (sets === 'duty') return printPercent(value, significant);
  return sets === 'level' ? printUnit(value, 'V', significant) : printSeconds(value, significant);
}

function dutyMapping(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  knob: Knob,
  setting: OutputSetting,
): Result<KnobMapping> {
  const { mode, timer } = resolveSetting(part, setting);
  const periodS = outcomeUnder(part, path, setting).frequency.inverse().valueOf();
  const supplyV = supplyOf(signal);
  if (knob.sets === 'level' && supplyV === undefined) {
    return failed(
      'A knob that sets a level needs the supply: give the signal a load with a supply, or make it a level.',
    );
  }
  const unit = knob.sets === 'width' ? periodS : knob.sets === 'level' ? (supplyV ?? 1) : 1;
  if (Math.max(knob.from, knob.to) > unit * (1 + 1e-9)) {
    return failed(
      `The knob goes up to ${knobText(knob.sets, Math.max(knob.from, knob.to))}, and the whole period is ${knobText(knob.sets, unit)}.`,
    );
  }
  const inverted = setting.polarity === 'inverted';
  const whole = countsOf(mode, setting.top) * grainOf(mode);
  const compareOf = (value: number): number =>
    compareFor(mode, setting.top, timer.width, value / unit, inverted);
  const most = maxCompare(mode, setting.top, timer.width);
  const at = (share: number): number =>
    compareOf(wantedAt(knob.from / unit, knob.to / unit, knob.curve ?? 'linear', share) * unit);
  return succeeded({
    arithmetic: arithmeticOf(knob, { low: compareOf(knob.from), high: compareOf(knob.to), at }),
    valueOf: (counts) =>
      counts > most ? undefined : (highCounts(mode, setting.top, counts, inverted) / whole) * unit,
    settingOf: (counts) => (counts > most ? undefined : { ...setting, compare: counts }),
  });
}

/** The scale in which a span of frequencies has some numbers for each reading, and no number is too large. */
function scaleOf({ from, to }: Knob, highest: number): number {
  const fine =
    SCALES.find((one) => Math.abs(to - from) * one >= 8 * highest) ?? SCALES[SCALES.length - 1] ?? 1;
  const fits = SCALES.filter((one) => Math.max(from, to) * one < 2 ** 31);
  return Math.min(fine, fits[fits.length - 1] ?? 1);
}

function rateMapping(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  knob: Knob,
  setting: OutputSetting,
): Result<KnobMapping> {
  const { mode } = resolveSetting(part, setting);
  if (mode.top.kind === 'fixed')
    return failed('The top of this mode is fixed, so that no knob moves its frequency.');
  const outcome = outcomeUnder(part, path, setting);
  // Counts are top + base: an up-down counter goes through them twice.
  const countHz = outcome.frequency.mul(setting.top + mode.base).valueOf();
  const share = outcome.duty.valueOf();
  // A pulse of a width keeps it at every rate; all else keeps its share of the period.
  const keepsWidth = requirementOf(signal).width !== undefined && driveOf(setting).duty === 'match';
  const { min, max } = topRange(mode);
  const topOf = (counts: number): number | undefined => {
    const top = counts - mode.base;
    return top < min || top > max ? undefined : top;
  };
  const curve = knob.curve ?? 'linear';
  const ofPeriod = knob.sets === 'period';
  const highest = highestReading(knob);
  const scale = ofPeriod ? countHz : scaleOf(knob, highest);
  const number = (value: number): number => Math.round(value * scale);
  const ends = {
    low: number(knob.from),
    high: number(knob.to),
    at: (part01: number) => wantedAt(knob.from, knob.to, curve, part01) * scale,
    ...(ofPeriod ? {} : { dividend: Math.floor(countHz * scale) }),
  };
  return succeeded({
    arithmetic: arithmeticOf(knob, ends),
    rate: { keepsWidth },
    valueOf: (counts) => {
      const top = topOf(counts);
      if (top === undefined) return undefined;
      return ofPeriod ? counts / countHz : countHz / counts;
    },
    settingOf: (counts) => {
      const top = topOf(counts);
      if (top === undefined) return undefined;
      const { timer } = resolveSetting(part, setting);
      const compare = keepsWidth
        ? setting.compare
        : compareFor(mode, top, timer.width, share, setting.polarity === 'inverted');
      if (compare > maxCompare(mode, top, timer.width)) return undefined;
      return { ...setting, top, ...(driveOf(setting).duty === 'match' ? { compare } : {}) };
    },
  });
}

/** How a knob moves a setting. Fails where it can move nothing, or cannot reach its own ends. */
export function knobMapping(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  knob: Knob,
  setting: Setting,
): Result<KnobMapping> {
  if ((knob.deadLow ?? 0) + (knob.deadHigh ?? 0) >= highestReading(knob)) {
    return failed('The dead zones leave nothing of the knob’s turn.');
  }
  if (!isOutput(setting))
    return failed('A knob moves an output that a timer makes by its compare value; this setting is not one.');
  if (setting.complement?.channel !== undefined)
    return failed(
      'A knob would move one of two channels: with its opposite by a second channel, an output keeps its duty.',
    );
  if (setting.complement && knob.sets !== 'duty')
    return failed('An output with its opposite is moved by its duty alone.');
  return knob.sets === 'frequency' || knob.sets === 'period'
    ? rateMapping(part, path, signal, knob, setting)
    : dutyMapping(part, path, signal, knob, setting);
}

/** The first readings of all at which something goes wrong, by what it is; and how many different counts there are. */
export type Turned = { overflowAt?: number; zeroAt?: number; beyondAt?: number; outputs: number };

/** Goes through all readings of a knob. */
export function turnedOver({ arithmetic, valueOf }: KnobMapping, highest: number): Turned {
  const wrong: Omit<Turned, 'outputs'> = {};
  const counted = new Set<number>();
  for (let reading = 0; reading <= highest; reading += 1) {
    const { counts, overflow } = computed(arithmetic, reading);
    if (overflow) wrong.overflowAt ??= reading;
    if (counts === undefined) {
      wrong.zeroAt ??= reading;
      continue;
    }
    if (wrong.beyondAt === undefined && !counted.has(counts) && valueOf(counts) === undefined) {
      wrong.beyondAt = reading;
    }
    counted.add(counts);
  }
  return { ...wrong, outputs: counted.size };
}
