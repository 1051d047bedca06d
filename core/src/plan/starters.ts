import type { Knob, KnobQuantity } from '../knob/knob.ts';
import { loadKinds, loadModel, type LoadKind } from '../load/index.ts';
import type { Readings } from '../readings/readings.ts';
import { kindOf } from '../signal/kinds/index.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import type { PlanSignal } from './plan.ts';

/** Bits of the converter that a new knob is read with. */
const KNOB_BITS = 10;

/**
 * The knob that an editor begins with: what the kind says a knob moves, over the span that its target asks for; a frequency
 * from half to twice the present one, in Hz. Undefined where no knob moves such a signal.
 */
export function firstKnob(signal: PlanSignal, frequencyHz: number): Knob | undefined {
  const { knob } = kindOf(signal);
  if (!knob) return undefined;
  const rounded = (value: number): number => Number(value.toPrecision(3));
  const [from, to] =
    knob.span?.(signal.target) ??
    (knob.sets === 'frequency' ? [rounded(frequencyHz / 2), rounded(frequencyHz * 2)] : [0, 1]);
  return { bits: KNOB_BITS, sets: knob.sets, from, to, ...(knob.curve ? { curve: knob.curve } : {}) };
}

/** The volts of a high level that a signal or its load tells. */
export function supplyOf({ kind, target, load }: PlanSignal): number | undefined {
  const own = kindOf({ kind }).supplyV?.(target);
  return own ?? (load && 'supplyV' in load ? load.supplyV : undefined);
}

/**
 * Kinds of load for a signal, those that suit it first. Their values begin with what the signal tells: its supply, and the ends of its span of widths
 * where a load has such ends.
 */
export function loadsFor(signal: PlanSignal): LoadKind[] {
  const supplyV = kindOf(signal).supplyV?.(signal.target);
  const { span } = requirementOf(signal);
  return loadKinds(kindOf(signal).purpose).map((kind) => {
    const { fields, ends, starter } = kind;
    const own: Record<string, number> = {
      ...(supplyV !== undefined && 'supplyV' in fields ? { supplyV } : {}),
      ...(ends && span?.of === 'width'
        ? { [ends.low]: span.low.valueOf(), [ends.high]: span.high.valueOf() }
        : {}),
    };
    return { ...kind, starter: { ...starter, ...own } };
  });
}

/** What a knob of a signal can set: a level only where something tells the supply. */
export function knobQuantities(signal: PlanSignal): KnobQuantity[] {
  const all: KnobQuantity[] = ['frequency', 'period', 'width', 'duty'];
  return supplyOf(signal) === undefined ? all : [...all, 'level'];
}

/** The table of readings that an editor begins with; undefined where nothing is set on such a signal. */
export function firstReadings(signal: PlanSignal): Readings | undefined {
  const { readings } = kindOf(signal);
  if (!readings) return undefined;
  const seen = signal.load && loadModel(signal.load).seen;
  return { of: readings.of, unit: seen ?? readings.unit, points: [] };
}

/** Whether one hears a signal: by its kind, or by what hangs on its pin. */
export function isHeard(signal: PlanSignal): boolean {
  return (
    kindOf(signal).sounds === true || (signal.load !== undefined && loadModel(signal.load).sounds === true)
  );
}
