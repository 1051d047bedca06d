import type { Prescaler, Writes } from './writes.ts';

/** What a clock may be at a point of the path, in Hz, and what the sentence calls it when a setting breaks it. */
export type ClockLimit = {
  name: string;
  min?: number;
  max?: number;
  /** The node before this one that it must not be faster than. */
  notAbove?: string;
};

/** An oscillator. A fixed one has one frequency, the others a range in Hz within which the user says theirs. */
export type ClockSource = {
  kind: 'source';
  id: string;
  name: string;
  hz: number | readonly [number, number];
  /** The tolerance of the oscillator in ppm, unless the plan has another. */
  tolerancePpm: number;
  /** Runs whatever the plan's source is; only for fixed ones. */
  always?: boolean;
  /** What has to be set for it where no program can: "configuration bits FOSC = HS". */
  needs?: string;
  note?: string;
};

/**
 * A point where one of several clocks is taken. With a `standard` it is a setting of its own; without one it takes the
 * plan's source.
 */
export type ClockChoice = {
  kind: 'choice';
  id: string;
  name: string;
  from: readonly string[];
  standard?: string;
  /** What it takes to start and select each clock, step by step; nothing for those that are not named. */
  start?: Record<string, readonly StartStep[]>;
  limit?: ClockLimit;
  note?: string;
};

/** A step of starting a clock: bits to set, a condition to wait for, or a time in µs that has to pass. */
export type StartStep = { set: Writes } | { until: string } | { waitUs: number };

/** A division or a multiplication by a value of a list or a range; `standard` holds where a plan does not say one. */
export type ClockFactor = {
  kind: 'divider' | 'multiplier';
  id: string;
  name: string;
  from: string;
  by: Prescaler;
  standard: number;
  limit?: ClockLimit;
  /** Writes that must come directly before the node's own. */
  unlock?: Writes;
  /** The generated code sets it for timers that it feeds, even where start-up code sets the rest of the path up. */
  always?: boolean;
  note?: string;
};

/** A clock that is doubled unless the divider it hangs on divides by one. */
type ClockDoubler = { kind: 'doubler'; id: string; name: string; from: string; unless: string };

/** A PLL whose output is the same whatever crystal it is locked to, in Hz; it is off by as much as the crystal is. */
type ClockFixed = { kind: 'fixed'; id: string; name: string; from: string; hz: number };

/** One node of the clock path; a timer names the node that feeds it. Nodes stand in the order of the path. */
export type ClockNode = ClockSource | ClockChoice | ClockFactor | ClockDoubler | ClockFixed;

/** When some steps of bringing the clocks up are taken: all that is named has to hold. */
export type BringUpCondition = {
  /** A node lies on the way to the processor or to a timer in use. */
  uses?: string;
  /** What choices take, by their ids: { sys: 'pllP' }. */
  takes?: Record<string, string>;
  /** The clock at a node is above so many Hz, and at most so many. */
  at?: { node: string; above?: number; upTo?: number };
};

/**
 * A step of bringing the clocks up: a wait, or a store to each register named. A store has the writes of some `factors`
 * of the path as they are set, and further ones, whose values from `divide` are those of the factor `by`. With `whole`
 * the rest of the register becomes zero, as where it takes orders.
 */
export type BringUpStep =
  | { until: string }
  | { waitUs: number }
  | { factors?: readonly string[]; set?: Writes; by?: string; whole?: boolean };

/** Steps that belong together: what they do, in a sentence for a remark, and when they are taken. */
export type BringUpGroup = { say: string; when?: BringUpCondition; steps: readonly BringUpStep[] };
