import type { Check } from '../check/check.ts';
import type { ClockPath } from '../clock/path.ts';
import { arithmeticOf, computed, knobFunction, type Arithmetic } from '../knob/arithmetic.ts';
import { wantedAt } from '../knob/curve.ts';
import { highestReading, type Knob } from '../knob/knob.ts';
import { nervousness, type Nervousness } from '../knob/noise.ts';
import type { Part } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import { plainName } from '../quantity/words.ts';
import { printHz, printNumber, printPercent, printSeconds, printUnit } from '../quantity/print.ts';
import { failed, succeeded, type Result } from '../result/result.ts';
import { compareFor, countsOf, grainOf, highCounts, maxCompare } from '../timer/count.ts';
import { isOutput, outcomeUnder, resolveSetting } from '../timer/drives/index.ts';
import { topRange, type OutputSetting, type Setting } from '../timer/setting.ts';
import { requirementOf } from '../signal/requirement.ts';
import { exact } from '../quantity/exact.ts';

/** How the counts that a knob writes become what the pin does. */
type Course = {
  arithmetic: Arithmetic;
  /** The quantity that counts give, in its base unit; undefined where the timer cannot take them. */
  valueOf: (counts: number) => number | undefined;
  /** Whether counts are those of a period, and whether the time high stays as it is. */
  rate?: { keepsWidth: boolean };
  /** The setting with these counts. */
  settingOf: (counts: number) => Setting | undefined;
};

/** Everything about a knob: its curve over all readings, where it is coarse or nervous, and its code. */
export type KnobReport = {
  /** Readings that are listed: all of them up to 4096, else evenly some. */
  readings: number[];
  /** What the curve asks for, and what the firmware and the timer make of each; a gap where there is no result. */
  wanted: number[];
  made: (number | undefined)[];
  /** The first reading at which a product does not fit, and at which the division is by zero. */
  overflowAt?: number;
  zeroAt?: number;
  /** The first reading that asks for more or less than the timer can do. */
  beyondAt?: number;
  /** Different outputs over the turn. */
  outputs: number;
  /** The coarsest and the finest step between two neighbouring outputs, as a share of the value there. */
  coarsest: { reading: number; share: number };
  finest: { reading: number; share: number };
  /** The greatest deviation from the curve as a share of it. */
  worst: { reading: number; share: number };
  nervous?: Nervousness;
  display?: { unit: string; reading: number; shown: number; is: number };
  /** What all this means, in a sentence. */
  sentence: string;
  code: string;
};

/** Listed readings at most. */
const MOST_LISTED = 4096;

/** Scales of a frequency in whole numbers: Hz, tenths, hundredths... */
const SCALES = [1, 10, 100, 1000, 10_000, 100_000, 1_000_000];

/** A value of a knob in its unit, as text. */
export function knobText(sets: Knob['sets'], value: number, significant = 4): string {
  if (sets === 'frequency') return printHz(value, significant);
  if (sets === 'duty') return printPercent(value, significant);
  return sets === 'level' ? printUnit(value, 'V', significant) : printSeconds(value, significant);
}

/** The volts that a level is a share of. */
function supplyOf({ kind, target, load }: PlanSignal): number | undefined {
  if (kind === 'level') return exact(target.supplyV).valueOf();
  return load && 'supplyV' in load ? load.supplyV : undefined;
}

function dutyCourse(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  knob: Knob,
  setting: OutputSetting,
): Result<Course> {
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

function rateCourse(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  knob: Knob,
  setting: OutputSetting,
): Result<Course> {
  const { mode } = resolveSetting(part, setting);
  if (mode.top.kind === 'fixed')
    return failed('The top of this mode is fixed, so that no knob moves its frequency.');
  const outcome = outcomeUnder(part, path, setting);
  // Counts are top + base: an up-down counter goes through them twice.
  const countHz = outcome.frequency.mul(setting.top + mode.base).valueOf();
  const share = outcome.duty.valueOf();
  // A pulse of a width keeps it at every rate; all else keeps its share of the period.
  const keepsWidth = requirementOf(signal).width !== undefined && setting.drive === 'pwm';
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
      return { ...setting, top, ...(setting.drive === 'pwm' ? { compare } : {}) };
    },
  });
}

function courseOf(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  knob: Knob,
  setting: Setting,
): Result<Course> {
  if (!isOutput(setting))
    return failed('A knob moves an output that a timer makes by its compare value; this setting is none.');
  if (setting.complement && knob.sets !== 'duty')
    return failed('An output with its opposite is moved by its duty alone.');
  return knob.sets === 'frequency' || knob.sets === 'period'
    ? rateCourse(part, path, signal, knob, setting)
    : dutyCourse(part, path, signal, knob, setting);
}

/** Readings that are looked at. */
function listed(highest: number): number[] {
  const count = Math.min(highest + 1, MOST_LISTED);
  return Array.from({ length: count }, (_, at) => Math.round((at * highest) / (count - 1)));
}

/** Steps between neighbouring outputs as shares of the lesser of both, the coarsest and the finest that is none at all. */
function stepsOf(
  readings: readonly number[],
  made: readonly (number | undefined)[],
): Pick<KnobReport, 'coarsest' | 'finest'> {
  let coarsest = { reading: 0, share: 0 };
  let finest = { reading: 0, share: Infinity };
  for (let at = 1; at < made.length; at += 1) {
    const [one, next] = [made[at - 1], made[at]];
    if (one === undefined || next === undefined || one === next) continue;
    const share = Math.abs(next - one) / Math.max(1e-30, Math.min(one, next) || Math.max(one, next));
    const step = { reading: readings[at] ?? 0, share };
    if (share > coarsest.share) coarsest = step;
    if (share < finest.share) finest = step;
  }
  return { coarsest, finest: finest.share === Infinity ? coarsest : finest };
}

/** A value of a knob in the unit of its display. */
function inUnit(sets: Knob['sets'], value: number, unit: NonNullable<Knob['display']>['unit']): number {
  const hz = sets === 'period' ? 1 / value : value;
  if (unit === 'Hz') return hz;
  if (unit === 'rpm') return hz * 60;
  if (unit === 'ms') return (sets === 'frequency' ? 1 / value : value) * 1000;
  return unit === '%' ? value * 100 : value;
}

function displayOf(
  knob: Knob,
  readings: readonly number[],
  made: readonly (number | undefined)[],
): KnobReport['display'] {
  const { display, sets } = knob;
  if (!display) return undefined;
  const highest = highestReading(knob);
  const rows = readings.flatMap((reading, at) => {
    const value = made[at];
    if (value === undefined) return [];
    const shown = display.from + ((display.to - display.from) * reading) / highest;
    const is = inUnit(sets, value, display.unit);
    return [{ unit: display.unit, reading, shown, is }];
  });
  const off = ({ shown, is }: { shown: number; is: number }): number => Math.abs(shown / is - 1);
  return rows.reduce<KnobReport['display']>(
    (worst, one) => (!worst || off(one) > off(worst) ? one : worst),
    undefined,
  );
}

/** Where a knob that is linear in the frequency would stand in its middle if it were linear in the period, and back. */
function otherWay({ sets, curve = 'linear', from, to }: Knob): string {
  if (curve !== 'linear' || (sets !== 'frequency' && sets !== 'period') || from === 0 || to === 0) return '';
  const middle = (2 * from * to) / (from + to);
  const other = sets === 'frequency' ? 'period' : 'frequency';
  return `; linear in ${other} it would give ${knobText(sets, middle)}`;
}

function sentenceOf(knob: Knob, report: Omit<KnobReport, 'sentence' | 'code'>): string {
  const { sets } = knob;
  const { readings, made, overflowAt, zeroAt, beyondAt } = report;
  if (zeroAt !== undefined)
    return `At reading ${zeroAt} the frequency is zero, and a division by it has no result: let the knob end above zero.`;
  if (overflowAt !== undefined)
    return `From reading ${overflowAt} on the product does not fit into ${knob.wide ?? 32} bits and starts again from zero.`;
  if (beyondAt !== undefined)
    return `At reading ${beyondAt} the timer cannot follow: its counter has no such count with this prescaler.`;
  const middle = made[Math.floor(made.length / 2)];
  const moved = (at: number): string => {
    const near = Math.max(1, Math.min(made.length - 1, at));
    const [one, next] = [made[near - 1], made[near]];
    return one === undefined || next === undefined
      ? '–'
      : printPercent(Math.abs(next - one) / Math.max(1e-30, Math.max(one, next)), 2);
  };
  const half =
    middle === undefined ? '' : `Half of the turn gives ${knobText(sets, middle)}${otherWay(knob)}. `;
  return `${half}One count moves it by ${moved(1)} at the low end and by ${moved(readings.length - 1)} at the high end.`;
}

/** What a knob makes of its whole turn. Fails where it can move nothing, or cannot reach its own ends. */
export function knobReport(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  knob: Knob,
  setting: Setting,
): Result<KnobReport> {
  const course = courseOf(part, path, signal, knob, setting);
  if (!course.ok) return course;
  const { arithmetic, valueOf } = course.value;
  const highest = highestReading(knob);
  if ((knob.deadLow ?? 0) + (knob.deadHigh ?? 0) >= highest)
    return failed('The dead zones leave nothing of the knob’s turn.');
  const readings = listed(highest);
  const results = readings.map((reading) => computed(arithmetic, reading));
  const made = results.map(({ counts }) => (counts === undefined ? undefined : valueOf(counts)));
  const wanted = readings.map((reading) => {
    const low = Math.min(
      1,
      Math.max(0, (reading - (knob.deadLow ?? 0)) / (highest - (knob.deadLow ?? 0) - (knob.deadHigh ?? 0))),
    );
    return wantedAt(knob.from, knob.to, knob.curve ?? 'linear', low);
  });
  const firstOf = (is: (at: number) => boolean): number | undefined => {
    const at = readings.findIndex((_, place) => is(place));
    return at < 0 ? undefined : readings[at];
  };
  const overflowAt = firstOf((at) => results[at]?.overflow === true);
  const zeroAt = firstOf((at) => results[at]?.counts === undefined);
  const beyondAt = firstOf((at) => results[at]?.counts !== undefined && made[at] === undefined);
  const offs = readings.map((reading, at) => {
    const [value, ideal] = [made[at], wanted[at] ?? 0];
    return { reading, share: value === undefined || ideal === 0 ? 0 : Math.abs(value / ideal - 1) };
  });
  const display = displayOf(knob, readings, made);
  const nervous = nervousness(knob, readings, made);
  const report = {
    readings,
    wanted,
    made,
    ...(overflowAt === undefined ? {} : { overflowAt }),
    ...(zeroAt === undefined ? {} : { zeroAt }),
    ...(beyondAt === undefined ? {} : { beyondAt }),
    outputs: new Set(made).size,
    ...stepsOf(readings, made),
    worst: offs.reduce((worst, one) => (one.share > worst.share ? one : worst), { reading: 0, share: 0 }),
    ...(nervous ? { nervous } : {}),
    ...(display ? { display } : {}),
  };
  const name = `${plainName(signal.name, '_')}_${knob.sets === 'frequency' || knob.sets === 'period' ? 'period_counts' : 'compare'}`;
  return succeeded({ ...report, sentence: sentenceOf(knob, report), code: knobFunction(name, arithmetic) });
}

/** The setting that a reading of a signal's knob makes. Fails where the knob cannot move it there. */
export function settingAt(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  knob: Knob,
  setting: Setting,
  reading: number,
): Result<Setting> {
  const course = courseOf(part, path, signal, knob, setting);
  if (!course.ok) return course;
  const { counts } = computed(course.value.arithmetic, reading);
  const made = counts === undefined ? undefined : course.value.settingOf(counts);
  return made
    ? succeeded(made)
    : failed(`At reading ${printNumber(reading)} the firmware has no result that the timer can take.`);
}

/** What the generated code needs of a knob; undefined where it cannot move the setting. */
export function knobCode(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  setting: Setting,
): { arithmetic: Arithmetic; rate?: { keepsWidth: boolean } } | undefined {
  const course = signal.knob && courseOf(part, path, signal, signal.knob, setting);
  if (!course?.ok) return undefined;
  const { arithmetic, rate } = course.value;
  return { arithmetic, ...(rate ? { rate } : {}) };
}

/** Whether a signal's knob does over its whole turn what it is meant to. */
export function knobChecks(part: Part, path: ClockPath, signal: PlanSignal, setting: Setting): Check[] {
  const { knob } = signal;
  if (!knob) return [];
  const base = { property: 'load', label: 'knob', unit: 'count' } as const;
  const report = knobReport(part, path, signal, knob, setting);
  if (!report.ok) return [{ ...base, verdict: 'fail', note: report.fault.sentence }];
  const { zeroAt, overflowAt, beyondAt, sentence, outputs } = report.value;
  const wrong = zeroAt ?? overflowAt ?? beyondAt;
  return wrong === undefined
    ? [{ ...base, value: outputs, low: 2, verdict: outputs >= 2 ? 'pass' : 'fail' }]
    : [{ ...base, verdict: 'fail', note: sentence }];
}
