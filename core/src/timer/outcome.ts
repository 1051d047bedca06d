import type { Exact } from '../quantity/exact.ts';
import type { Setting } from './setting.ts';

/**
 * One period of a pin, in ticks of the outcome's `tickHz`. `rise` and `fall` count from the moment the counter leaves 0
 * upwards (the bottom); a pin that never changes has a `level` instead.
 */
export type Cycle = {
  periodTicks: number;
  edges: { rise: number; fall: number } | { level: 0 | 1 } | { spread: Spread };
};

/** So many of a cycle's counts high, spread over it as evenly as can be; `count` is the length of one in ticks. */
export type Spread = { high: number; whole: number; count: number };

/** Rising edges in a cycle: one, but for spread counts as many as there are stretches of high ones; none on a steady pin. */
export function pulsesOf({ edges }: Cycle): number {
  if ('spread' in edges) return Math.min(edges.spread.high, edges.spread.whole - edges.spread.high);
  return 'level' in edges ? 0 : 1;
}

/** What a setting really gives on its pin. */
export type Outcome = {
  cycle: Cycle;
  /** Ticks in a second: the timer's clock, or a multiple of it where counts or dividers have fractions. */
  tickHz: Exact;
  highTicks: number;
  /** Of the cycle, even where the pin never changes; of the pulses where they are spread; in Hz. */
  frequency: Exact;
  /** The share of a period for which the pin is high. */
  duty: Exact;
  /** Duty values that can be told apart, their base-2 logarithm, and the length of one in ticks. */
  steps: number;
  bits: number;
  stepTicks: number;
  /** How far an edge may stand from its mean place, in s: a divider with a fraction costs one clock. */
  jitterS: number;
  /**
   * By how much the frequency may be off beside its oscillator, in ppm: a reload that clears the prescaler loses what the way into the handler
   * took, modulo the division, and the compiler decides that way.
   */
  unsurePpm?: number;
  /** The minimum and maximum duty the compare register can give in this mode. */
  reach: { min: Exact; max: Exact };
  /** The share of the processor's time it takes, 0 where the hardware does it alone. */
  cpu: number;
};

/** Ticks of a cycle during which the pin is high. */
export function highTicksOf({ edges, periodTicks }: Cycle): number {
  if ('level' in edges) return edges.level * periodTicks;
  if ('spread' in edges) return edges.spread.high * edges.spread.count;
  return (((edges.fall - edges.rise) % periodTicks) + periodTicks) % periodTicks;
}

/** A setting that code or registers put in force, with what it gives. */
export type Effect = { setting: Setting; outcome: Outcome };
