import { highestReading, type Knob } from './knob.ts';

/** How far noise of the readings moves an output, as a share of it at its worst reading. */
export type Nervousness = {
  reading: number;
  /** By the readings as they are, by their average, and behind the hysteresis too. */
  plain: number;
  averaged: number;
  steady: number;
};

/**
 * What noise does to an output. Readings stray by some counts to both sides; the mean of n independent ones strays by a
 * share 1 / sqrt(n) of that; hysteresis of no less than what is left holds the output still, and a lesser one lets through
 * what is above it. The worst reading is where the output moves most for it.
 */
export function nervousness(
  knob: Knob,
  readings: readonly number[],
  made: readonly (number | undefined)[],
): Nervousness | undefined {
  const { noise = 0, average = 1, hysteresis = 0 } = knob;
  const [first = 0, second = 1] = readings;
  if (noise === 0 || made.length < 2) return undefined;
  const byRatio = knob.sets === 'frequency' || knob.sets === 'period';
  const distance = Math.max(1, second - first);
  const moved = (at: number, counts: number): number => {
    const places = Math.max(counts > 0 ? 1 : 0, Math.round(counts / distance));
    const [low, high] = [Math.max(0, at - places), Math.min(made.length - 1, at + places)];
    const [one, other, own] = [made[low], made[high], made[at]];
    if (one === undefined || other === undefined || own === undefined) return 0;
    return Math.abs(other - one) / Math.max(1e-30, byRatio ? own : Math.abs(knob.to - knob.from));
  };
  let worst = { at: 0, share: 0 };
  for (let at = 0; at < made.length; at += 1) {
    const share = moved(at, noise);
    if (share > worst.share) worst = { at, share };
  }
  const left = noise / Math.sqrt(average);
  const through = left <= hysteresis ? 0 : left;
  return {
    reading: Math.min(highestReading(knob), readings[worst.at] ?? 0),
    plain: worst.share,
    averaged: moved(worst.at, left),
    steady: moved(worst.at, through),
  };
}
