import { exact } from '../quantity/exact.ts';
import { withDuty, withFrequency } from './edit.ts';
import type { Signal } from './signal.ts';

/**
 * A signal whose target asks for a duty, a width (s) or a frequency (Hz) that was found on the bench; undefined where its
 * kind has none of it. Rounded to nine digits: no reading is finer. @param frequencyHz what a width is a share of.
 */
export function signalSetTo(
  signal: Signal,
  of: 'duty' | 'width' | 'frequency',
  value: number,
  frequencyHz: number,
): Signal | undefined {
  const rounded = exact(Number(value.toPrecision(9)));
  if (of === 'frequency') return value > 0 ? withFrequency(signal, rounded) : undefined;
  const frequency = exact(frequencyHz);
  return withDuty(signal, of === 'duty' ? rounded : rounded.mul(frequency), frequency);
}
