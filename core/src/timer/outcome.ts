import type { Exact } from '../quantity/exact.ts';

/**
 * One period of a pin, in ticks of the outcome's `tickHz`. `rise` and `fall` count from the moment the counter leaves 0
 * upwards (the bottom); a pin that never changes has a `level` instead.
 */
export type Cycle = { periodTicks: number; edges: { rise: number; fall: number } | { level: 0 | 1 } };

/** What a setting really gives on its pin. */
export type Outcome = {
  cycle: Cycle;
  /** Ticks in a second: the timer's clock, or a multiple of it where counts or dividers have fractions. */
  tickHz: Exact;
  highTicks: number;
  /** Of the cycle, even where the pin never changes; in Hz. */
  frequency: Exact;
  /** The share of a period for which the pin is high. */
  duty: Exact;
  /** Duty values that can be told apart, their base-2 logarithm, and the length of one in ticks. */
  steps: number;
  bits: number;
  stepTicks: number;
  /** How far an edge may stand from its mean place, in s: a divider with a fraction costs one clock. */
  jitterS: number;
  /** The least and the greatest duty the compare register can give in this mode. */
  reach: { least: Exact; most: Exact };
  /** The share of the processor's time it takes, 0 where the hardware does it alone. */
  cpu: number;
};
