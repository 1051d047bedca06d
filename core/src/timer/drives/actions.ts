import type { Interrupt, Writes } from '../../part/types.ts';

/** One thing that an interrupt handler does for a signal, as data that the code generator writes out. */
export type Action =
  /** Puts a pin high or low. */
  | { do: 'level'; pin: string; high: boolean }
  /** Changes a pin every n interrupts. */
  | { do: 'toggle'; pin: string; every: number }
  /** Counts interrupts from 0 to `of` - 1; the pin is high while the count is below `highFor`. */
  | { do: 'count'; pin: string; highFor: number; of: number }
  /** Hands the width that the program has set to the match that ends the pulse: `value` at first, at most `max`. */
  | { do: 'load'; writes: Writes; value: number; max: number }
  /** Calls the user's function every n interrupts. */
  | { do: 'call'; every: number }
  /** Takes the difference of two captured counts; a run of the counter has `counts`, and `overflow` is the flag of its end. */
  | Measure
  /**
   * Notes that a run of the counter ended, so that a difference of more than one is not taken for a short one; an edge that waits for its
   * own interrupt is taken first.
   */
  | { do: 'lapse'; measure: Measure; edge: Interrupt };

/** How a period is measured: where the captured count is read, and what tells that a run has ended. */
export type Measure = {
  do: 'measure';
  registers: readonly string[];
  width: number;
  counts: number;
  overflow: string;
};

/** What one interrupt does for a setting; `keepsRunning` where it must reload its counter or move its match on. */
export type HandlerUse = { interrupt: Interrupt; keepsRunning: boolean; actions: readonly Action[] };

/** How a number that the program sets becomes a width: high for first + step x number counts, of `whole`, the number up to `max`. */
export type Adjustable = { first: number; step: number; min?: number; max: number; whole: number };

/** A loop of the program: the pin is high for some passes, then low for some. */
export type Loop = { pin: string; highPasses: number; lowPasses: number };

/** What a loop that sends bits does once a byte: counts it, in two halves, reads the next one ahead, and takes it. */
export type BitWork = 'count' | 'carry' | 'read' | 'fetch';

/**
 * A loop that sends bits on a pin, in cycles: of a bit, and high in a one and in a zero. `pauses` are the cycles to wait before
 * the test, between the two falls, and after the second; `work` is what is done in their place in each bit of a byte, the highest first.
 */
export type Bits = {
  pin: string;
  bit: number;
  one: number;
  zero: number;
  pauses: readonly [number, number, number];
  work: readonly (readonly (readonly BitWork[])[])[];
};

/**
 * When the interrupts of a setting come, in ticks of its outcome from the start of the counter. `reload` where the handler
 * must add the start value to the counter: the ticks of a count, the counts from there to the overflow and of a whole run,
 * and what the write does to the counter.
 */
export type InterruptEvents = {
  interrupt: Interrupt;
  firstTicks: number;
  everyTicks: number;
  reload?: { countTicks: number; counts: number; full: number; holdTicks: number; clears: boolean };
};
