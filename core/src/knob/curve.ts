import { lightnessOf, shareOfLightness } from '../load/lightness.ts';
import type { KnobCurve } from './knob.ts';

/**
 * A quantity at a share of a knob's turn, as the curve wants it: evenly, by equal ratios (both ends above zero, else evenly),
 * or by equal steps of perceived lightness (of duties, as shares of full light).
 */
export function wantedAt(from: number, to: number, curve: KnobCurve, share: number): number {
  if (curve === 'logarithmic' && from > 0 && to > 0) return from * (to / from) ** share;
  if (curve === 'lightness' && from <= 1 && to <= 1) {
    const [low, high] = [lightnessOf(from), lightnessOf(to)];
    return shareOfLightness(low + (high - low) * share);
  }
  return from + (to - from) * share;
}
