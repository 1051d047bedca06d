import type { Check } from '../check/check.ts';
import type { ClockPath } from '../clock/path.ts';
import { computed, knobFunction } from '../knob/arithmetic.ts';
import { wantedAt } from '../knob/curve.ts';
import { highestReading, type Knob } from '../knob/knob.ts';
import { nervousness, type Nervousness } from '../knob/noise.ts';
import { tablesOf } from '../part/tables.ts';
import type { Part } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import { plainName } from '../quantity/words.ts';
import { printNumber, printPercent } from '../quantity/print.ts';
import { failed, succeeded, type Result } from '../result/result.ts';
import type { KnobCode } from '../program/signal.ts';
import type { Setting } from '../timer/setting.ts';
import { knobMapping, knobText, turnedOver, type Turned } from './knob-mapping.ts';

/** Everything about a knob: its curve over all readings, where it is coarse or nervous, and its code. */
export type KnobReport = Turned & {
  /** Readings that are listed: all of them up to 4096, else evenly some. */
  readings: number[];
  /** What the curve asks for, and what the firmware and the timer make of each; a gap where there is no result. */
  wanted: number[];
  made: (number | undefined)[];
  /** The coarsest and the finest step between two neighbouring outputs, as shares: see `sizeOf`. */
  coarsest: { reading: number; share: number };
  finest: { reading: number; share: number };
  /** The greatest deviation from the curve, as a share in the same way. */
  worst: { reading: number; share: number };
  nervous?: Nervousness;
  display?: { unit: string; reading: number; shown: number; is: number };
  /** What all this means, in a sentence. */
  sentence: string;
  code: string;
};

/** Listed readings at most. */
const MOST_LISTED = 4096;

/** Readings that are looked at. */
function listed(highest: number): number[] {
  const count = Math.min(highest + 1, MOST_LISTED);
  return Array.from({ length: count }, (_, at) => Math.round((at * highest) / (count - 1)));
}

/**
 * What a step is a share of: of the value itself where the ear and the eye count in ratios (frequency, period), else of the
 * whole turn, since a duty or a width may begin at nothing.
 */
function sizeOf({ sets, from, to }: Knob, one: number, next: number): number {
  return sets === 'frequency' || sets === 'period'
    ? Math.max(1e-30, Math.min(one, next))
    : Math.max(1e-30, Math.abs(to - from));
}

/** Steps between neighbouring outputs, the coarsest and the finest. */
function stepsOf(
  knob: Knob,
  readings: readonly number[],
  made: readonly (number | undefined)[],
): Pick<KnobReport, 'coarsest' | 'finest'> {
  let coarsest = { reading: 0, share: 0 };
  let finest = { reading: 0, share: Infinity };
  for (let at = 1; at < made.length; at += 1) {
    const [one, next] = [made[at - 1], made[at]];
    if (one === undefined || next === undefined || one === next) continue;
    const share = Math.abs(next - one) / sizeOf(knob, one, next);
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

/** What goes wrong over the turn, in a sentence; undefined where nothing does. */
function wrongText(knob: Knob, { zeroAt, overflowAt, beyondAt }: Turned): string | undefined {
  if (zeroAt !== undefined)
    return `At reading ${zeroAt} the frequency is zero, and a division by it has no result: let the knob end above zero.`;
  if (overflowAt !== undefined)
    return `From reading ${overflowAt} on the product does not fit into ${knob.wide ?? 32} bits and starts again from zero.`;
  if (beyondAt !== undefined)
    return `At reading ${beyondAt} the timer cannot follow: its counter has no such count with this prescaler.`;
  return undefined;
}

function sentenceOf(knob: Knob, report: Omit<KnobReport, 'sentence' | 'code'>): string {
  const { sets } = knob;
  const { readings, made } = report;
  const wrong = wrongText(knob, report);
  if (wrong !== undefined) return wrong;
  const middle = made[Math.floor(made.length / 2)];
  const moved = (at: number): string => {
    const near = Math.max(1, Math.min(made.length - 1, at));
    const [one, next] = [made[near - 1], made[near]];
    return one === undefined || next === undefined
      ? '–'
      : printPercent(Math.abs(next - one) / sizeOf(knob, one, next), 2);
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
  const mapping = knobMapping(part, path, signal, knob, setting);
  if (!mapping.ok) return mapping;
  const { arithmetic, valueOf } = mapping.value;
  const highest = highestReading(knob);
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
  const turned = turnedOver(mapping.value, highest);
  const offs = readings.map((reading, at) => {
    const [value, ideal] = [made[at], wanted[at] ?? 0];
    return { reading, share: value === undefined ? 0 : Math.abs(value - ideal) / sizeOf(knob, value, ideal) };
  });
  const display = displayOf(knob, readings, made);
  const nervous = nervousness(knob, readings, made);
  const report = {
    readings,
    wanted,
    made,
    ...turned,
    ...stepsOf(knob, readings, made),
    worst: offs.reduce((worst, one) => (one.share > worst.share ? one : worst), { reading: 0, share: 0 }),
    ...(nervous ? { nervous } : {}),
    ...(display ? { display } : {}),
  };
  const name = `${plainName(signal.name, '_')}_${knob.sets === 'frequency' || knob.sets === 'period' ? 'period_counts' : 'compare'}`;
  return succeeded({
    ...report,
    sentence: sentenceOf(knob, report),
    code: knobFunction(name, arithmetic, tablesOf(part.code)),
  });
}

/** The setting that a reading of a signal's knob makes. Fails where the knob cannot move it there. */
export function settingAtReading(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  knob: Knob,
  setting: Setting,
  reading: number,
): Result<Setting> {
  const mapping = knobMapping(part, path, signal, knob, setting);
  if (!mapping.ok) return mapping;
  const { counts } = computed(mapping.value.arithmetic, reading);
  const made = counts === undefined ? undefined : mapping.value.settingOf(counts);
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
): KnobCode | undefined {
  const { knob } = signal;
  const mapping = knob && knobMapping(part, path, signal, knob, setting);
  if (!knob || !mapping?.ok) return undefined;
  const { arithmetic, rate } = mapping.value;
  const { average = 1, hysteresis = 0 } = knob;
  return {
    arithmetic,
    ...(rate ? { rate } : {}),
    ...(average > 1 ? { average } : {}),
    ...(hysteresis > 0 ? { hysteresis } : {}),
  };
}

/** Whether a signal's knob does over its whole turn what it is meant to. */
export function knobChecks(part: Part, path: ClockPath, signal: PlanSignal, setting: Setting): Check[] {
  const { knob } = signal;
  if (!knob) return [];
  const base = { property: 'load', label: 'knob', unit: 'count' } as const;
  const mapping = knobMapping(part, path, signal, knob, setting);
  if (!mapping.ok) return [{ ...base, verdict: 'fail', note: mapping.fault.sentence }];
  const turned = turnedOver(mapping.value, highestReading(knob));
  const wrong = wrongText(knob, turned);
  return wrong === undefined
    ? [{ ...base, value: turned.outputs, low: 2, verdict: turned.outputs >= 2 ? 'pass' : 'fail' }]
    : [{ ...base, verdict: 'fail', note: wrong }];
}
