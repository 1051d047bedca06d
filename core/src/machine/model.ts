/**
 * The processor as the simulation and the bounds see it. All times are whole cycles of the processor unless stated otherwise;
 * level 0 is the most urgent.
 */

/** Events at k x n / d cycles (rounded up to the cycle in which the processor sees them), each up to `jitter` cycles late. */
type PeriodicArrivals = { kind: 'periodic'; n: number; d: number; first: number; jitter: number };

/** Events at least `min` cycles apart, and up to `spread` cycles more than that. */
type SporadicArrivals = { kind: 'sporadic'; min: number; spread: number };

/** Events at these cycles, in ascending order; none after the last. */
export type ListedArrivals = { kind: 'times'; at: readonly number[] };

/**
 * Overflows of a counter that its handler must reload: the next one comes `counts` counts of `count` cycles after the
 * write. `adds` where the start value is added to what was counted meanwhile, else those counts are lost; `clears` where
 * the write clears the prescaler; `hold` cycles for which the write stops the count; `full` counts in a whole run.
 */
export type ReloadedArrivals = {
  kind: 'reloaded';
  first: number;
  count: number;
  counts: number;
  full: number;
  adds: boolean;
  clears: boolean;
  hold: number;
};

export type Arrivals = PeriodicArrivals | SporadicArrivals | ListedArrivals | ReloadedArrivals;

/**
 * One interrupt with its pending flag. Several share a handler where they have the same `vector`; it asks their flags in
 * the order of the list. Of pending ones of the same level the lower vector comes first.
 */
export type CpuTask = {
  id: string;
  name: string;
  level: number;
  vector: number;
  arrivals: Arrivals;
  /** Cycles of its part of the handler, between `min` and `max`. */
  cycles: { min: number; max: number };
  /** Cycles from the start of that part to its write: the reload of its counter, or the change of its pin. */
  writeAt: number;
  /** When its flag is cleared: on the way in, at the start or the end of its part, or never. */
  clears: 'entry' | 'start' | 'end' | 'never';
};

/** Cycles of the processor around handlers. */
export type CpuCore = {
  /** From the decision to the first instruction of the handler, and from its last one back. */
  entry: number;
  exit: number;
  /** From the end of a handler into the next one that is pending, where the processor need not go back first; at most `entry`. */
  tail?: number;
  /** The most cycles that the instruction under way may still take. */
  late: number;
  /** Whether one instruction of the main loop runs after each handler, whatever is pending; only where no handler is interrupted. */
  between: boolean;
  /** Whether no handler is interrupted, whatever the levels: they say only which of several that wait comes first. */
  masks?: true;
};

/**
 * A part of the main loop in which no interrupt is taken. With `repeats` it runs so many times in a row, and interrupts that
 * wait are taken between two of them.
 */
export type MaskedSection = { name: string; every: number; length: number; first: number; repeats?: number };

export type CpuModel = {
  core: CpuCore;
  tasks: readonly CpuTask[];
  masked: readonly MaskedSection[];
};
