import type { Check } from '../check/check.ts';
import { loadReport, type Load } from '../load/index.ts';
import type { Driven, LoadCheck, LoadReport } from '../load/model.ts';
import type { Part } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import { readRange, setText, type Readings } from '../readings/readings.ts';
import { exact } from '../quantity/exact.ts';
import type { Amount } from '../signal/kinds/shape.ts';
import { kindOf } from '../signal/kinds/index.ts';
import { requirementOf } from '../signal/requirement-of.ts';

/** What a pin does, in the numbers that a load or a reading hangs on. */
export type Motion = { frequencyHz: number; duty: number; stepS: number; steps: number };

/** The pause that ends the frame of an LED string where a target does not say, in s. */
const PAUSE_S = 50e-6;

/** The widths in s that a signal can be set to besides its own: the ends of its span, of its knob, and of the rows of its sequence. */
function widthsOf(signal: PlanSignal, { frequencyHz }: Motion): Driven['widthsS'] {
  const { knob, sequence } = signal;
  const { span } = requirementOf(signal);
  const given = (values: readonly (Amount | undefined)[]): number[] =>
    values.flatMap((value) => (value === undefined ? [] : [exact(value).valueOf()]));
  const ofShare = (shares: readonly (Amount | undefined)[]): number[] =>
    given(shares).map((share) => share / frequencyHz);
  const ends = knob ? [knob.from, knob.to] : [];
  const spanned = span ? [span.low.valueOf(), span.high.valueOf()] : [];
  const steps = sequence?.steps ?? [];
  const widths = [
    ...(span?.of === 'width' ? spanned : []),
    ...(span?.of === 'duty' ? ofShare(spanned) : []),
    ...(knob?.sets === 'width' ? ends : []),
    ...(knob?.sets === 'duty' ? ofShare(ends) : []),
    ...steps.flatMap(({ widthS, toWidthS, duty, toDuty }) => [
      ...given([widthS, toWidthS]),
      ...ofShare([duty, toDuty]),
    ]),
  ];
  return widths.length === 0 ? undefined : { min: Math.min(...widths), max: Math.max(...widths) };
}

function drivenBy(part: Part, signal: PlanSignal, own: Motion): Driven {
  const pinA = part.limits.pinMilliamps / 1000;
  const widthsS = widthsOf(signal, own);
  const motion = widthsS ? { ...own, widthsS } : own;
  const bits = kindOf(signal).ledBits?.(signal.target);
  if (!bits) return { ...motion, pinA };
  return { ...motion, pinA, string: { leds: bits.leds, bitS: bits.bitS, pauseS: PAUSE_S } };
}

/** What the load of a signal does with what its pin does; undefined without one. */
export function signalLoad(part: Part, signal: PlanSignal, motion: Motion): LoadReport | undefined {
  return signal.load && loadReport(signal.load, drivenBy(part, signal, motion));
}

/** What a load would do with what a signal's pin does, before it is in the plan. */
export function triedLoad(part: Part, signal: PlanSignal, load: Load, motion: Motion): LoadReport {
  return loadReport(load, drivenBy(part, signal, motion));
}

function checkOf({ label, unit, value, low, high, byRate, note }: LoadCheck): Check {
  const margins = [
    ...(low === undefined ? [] : [value - low]),
    ...(high === undefined ? [] : [high - value]),
  ];
  const margin = Math.min(...margins);
  // What a setting gives is a fraction of counts; a limit met to the last digit is met.
  const verdict = margin >= -1e-12 * Math.max(1, Math.abs(value)) ? 'pass' : 'fail';
  return {
    property: 'load',
    unit,
    label,
    value,
    ...(low === undefined ? {} : { low }),
    ...(high === undefined ? {} : { high }),
    margin,
    verdict,
    ...(byRate ? {} : { fixed: true as const }),
    ...(note === undefined ? {} : { note }),
  };
}

/** What was set for readings, of what a pin does. */
function setOf({ of }: Readings, { frequencyHz, duty }: Motion): number {
  return of === 'duty' ? duty : of === 'width' ? duty / frequencyHz : frequencyHz;
}

const UNIT = { duty: 'fraction', width: 's', frequency: 'Hz' } as const;

/** Whether what a pin does is within what was read on the bench, with the step of the setting as room. */
function readingsCheck(readings: Readings, motion: Motion): Check {
  const { low, high } = readRange(readings);
  const value = setOf(readings, motion);
  const room = {
    duty: motion.stepS * motion.frequencyHz,
    width: motion.stepS,
    frequency: motion.frequencyHz * 1e-3,
  }[readings.of];
  const { note, ...check } = checkOf({
    label: 'usable range',
    unit: UNIT[readings.of],
    value,
    low: low - room / 2,
    high: high + room / 2,
  });
  const told = `Readings go from ${setText(readings.of, low)} to ${setText(readings.of, high)}.`;
  return check.verdict === 'pass' ? check : { ...check, note: note ?? told };
}

/** The limits of a signal's load and of its readings, compared with what its pin does. */
export function loadChecks(part: Part, signal: PlanSignal, motion: Motion): Check[] {
  return [
    ...(signalLoad(part, signal, motion)?.checks.map(checkOf) ?? []),
    ...(signal.readings ? [readingsCheck(signal.readings, motion)] : []),
  ];
}
