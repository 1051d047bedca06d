/**
 * A part as data. Nothing in the core knows a part by its name: timers, modes, channels and pins are described here
 * together with the register fields that select them, so that one encoder serves every part.
 */

/** What a field write takes its value from when the setting, not the part, decides it. */
export type Encoded = {
  of: 'top' | 'compare' | 'divide';
  /** Added to the value before it is written: -1 where the register holds one less than the count. */
  bias?: number;
};

/** Field or register to value. "TCCR1B.CS10": 1 writes one field, "ICR1": {of: 'top'} a whole register. */
export type Writes = Record<string, number | Encoded>;

/** A register: data-space address, width in bits, value after reset, and fields as [most, least] significant bit. */
export type Register = {
  name: string;
  address: number;
  width: number;
  reset: number;
  fields: Record<string, readonly [number, number]>;
};

/** An oscillator. A fixed one has one frequency, the others a range in Hz within which the user says theirs. */
export type ClockSource = {
  kind: 'source';
  id: string;
  name: string;
  hz: number | readonly [number, number];
  /** What the oscillator is off by at most, in ppm, unless the plan says otherwise. */
  tolerancePpm: number;
  note?: string;
  writes?: Writes;
};

/** A point where one of several clocks is taken. */
export type ClockChoice = {
  kind: 'choice';
  id: string;
  name: string;
  from: readonly string[];
  note?: string;
};

/** A division by one of a list of values. */
export type ClockDivider = {
  kind: 'divider';
  id: string;
  name: string;
  from: string;
  options: readonly { divide: number; writes: Writes }[];
  /** Divider in force when a plan does not say one. */
  standard: number;
  /** Writes that must come directly before the divider's own. */
  unlock?: Writes;
  note?: string;
};

/** One node of the clock path; a timer names the node that feeds it. */
export type ClockNode = ClockSource | ClockChoice | ClockDivider;

/** Where a mode's highest count comes from. A top taken from a channel costs that channel its compare output. */
export type Top =
  | { kind: 'fixed'; value: number }
  | { kind: 'register'; register: string; least: number; most: number }
  | { kind: 'channel'; channel: string; register: string; least: number; most: number };

/** When a value written while the timer runs takes effect. */
export type Update = 'immediate' | 'top' | 'bottom';

/** One way a timer can count, and what its outputs can do then. */
export type Mode = {
  id: string;
  name: string;
  count: 'up' | 'updown';
  top: Top;
  /**
   * Channels with a PWM output in this mode. `high` tells how a compare value becomes a width: the output is high for
   * `compare` or for `compare + 1` counts of an up-counter, for 2 x compare counts of an up-down counter.
   */
  compare?: { channels: readonly string[]; high: 'compare' | 'compare+1' };
  /** Channels whose output can be toggled by the match, once a period of the counter. */
  toggle?: { channels: readonly string[] };
  update: { top: Update; compare: Update };
  writes: Writes;
};

/** One way a channel can drive a pin. */
export type Output = {
  pin: string;
  drive: 'compare' | 'toggle';
  polarity: 'normal' | 'inverted';
  writes: Writes;
};

/** A compare channel: the register its compare value goes to, and what it can drive. */
export type Channel = {
  id: string;
  name: string;
  compareRegister: string;
  outputs: readonly Output[];
  interrupt?: Interrupt;
};

/** An interrupt: the name of its vector, its number, the field that enables it and the one that shows it. */
export type Interrupt = { vector: string; number: number; enable: string; flag: string };

/** A step of the order in which a timer's registers are written; fields in `without` stay zero in that step. */
export type SequenceStep = { register: string; without?: readonly string[] };

/** A timer: what feeds it, how it divides, how it can count, its channels, and the order of its writes. */
export type Timer = {
  id: string;
  name: string;
  width: number;
  clock: string;
  prescalers: readonly { divide: number; writes: Writes }[];
  modes: readonly Mode[];
  channels: readonly Channel[];
  counter: string;
  interrupts: { overflow?: Interrupt; capture?: Interrupt & { pin: string } };
  sequence: readonly SequenceStep[];
  /** Timers that tap the same prescaler counter: resetting it shifts them all; their frequencies stay independent. */
  sharesPrescalerWith?: readonly string[];
};

/** A pin: its port and bit, the writes that make it a low output, its numbers on the packages. */
export type Pin = {
  id: string;
  port: string;
  bit: number;
  package: Record<string, number>;
  latch: string;
  direction: string;
  note?: string;
};

/** A part as a whole. `verified` says whether addresses and bits were tested against an independent source. */
export type Part = {
  id: string;
  name: string;
  about: string;
  registers: readonly Register[];
  clocks: readonly ClockNode[];
  /** The clock a new plan of this part starts with. */
  standardClock: { source: string; sourceHz: number };
  timers: readonly Timer[];
  pins: readonly Pin[];
  cpu: { clock: string; entryCycles: number; exitCycles: number };
  limits: { pinMilliamps: number; maxHz: number };
  code: { headers: readonly string[] };
  verified: boolean;
};
