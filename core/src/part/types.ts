/**
 * A part as data. Nothing in the core knows a part by its name: timers, modes, channels and pins are described here
 * together with the register fields that select them, so that one encoder serves every part.
 */

import type { BringUpGroup, ClockNode } from './clock-types.ts';
import type { Prescaler, Writes } from './writes.ts';
import type { Cpu, Dialect } from './cpu-types.ts';
import type { CaptureUnit, Interrupt } from './interrupt-types.ts';
import type { PART_VERSION } from './versions.ts';

export type { Encoded, Prescaler, Writes } from './writes.ts';
export type {
  BringUpCondition,
  BringUpGroup,
  BringUpStep,
  ClockLimit,
  ClockSource,
  ClockChoice,
  StartStep,
  ClockFactor,
  ClockNode,
} from './clock-types.ts';
export type {
  Assembly,
  BitLoop,
  Cpu,
  CycleRange,
  Dialect,
  Exclusion,
  Operations,
  PriorityFields,
} from './cpu-types.ts';
export type { CaptureUnit, CaptureInput, Interrupt } from './interrupt-types.ts';

/** A register: data-space address, width in bits, value after reset, and fields as [most, least] significant bit. */
export type Register = {
  name: string;
  address: number;
  width: number;
  reset: number;
  fields: Record<string, readonly [number, number]>;
  /** Zeros written to it do nothing (set, clear and flag registers): bits are stored plainly, never read back first. */
  strobe?: boolean;
  /** What is to be waited for after a store, until the hardware has taken it over; a condition. */
  taken?: string;
};

/**
 * Where a mode's highest count comes from. A top taken from a channel costs that channel its compare output; a power is
 * 2^bits - 1 with the bits chosen by a field. A counter that can only overflow is reloaded by its interrupt: the run has
 * top + 1 counts, and the value added to the running counter is 2^width - (top + 1). `hold` are the clocks for which the
 * write stops the counter, `clears` says that it also clears the prescaler. Where the counter runs on for ever, the
 * interrupt moves its match on by top + 1 counts each time.
 */
type Top =
  | { kind: 'fixed'; value: number }
  | {
      kind: 'reload';
      writes: Writes;
      min: number;
      max: number;
      hold: number;
      clears: boolean;
      /**
       * Where the running count is read and written in two bytes: their registers, and the cycles from the read of the lower one
       * through its write, for which it counts for nothing. The upper one is written first. `latched` where the upper one is read and
       * written together with the lower one, so that no carry comes between.
       */
      bytes?: { upper: string; lower: string; cycles: number; latched?: boolean };
    }
  | { kind: 'moved'; writes: Writes; min: number; max: number }
  /** `running` is where it goes while the timer runs, if not there: a buffer. */
  | { kind: 'register'; writes: Writes; running?: Writes; min: number; max: number }
  | { kind: 'channel'; channel: string; writes: Writes; min: number; max: number }
  | { kind: 'power'; writes: Writes; minBits: number; maxBits: number };

/** When a value written while the timer runs takes effect. */
type Update = 'immediate' | 'top' | 'bottom';

/** One way a timer can count, and what its outputs can do then. */
export type Mode = {
  id: string;
  name: string;
  count: 'up' | 'updown';
  /** A run has top + base counts, twice that when the counter goes up and down. */
  base: 0 | 1;
  top: Top;
  /**
   * Channels with a PWM output in this mode. `high` tells how a compare value becomes a width: the output is high for
   * `compare` or for `compare + 1` counts of an up-counter, for 2 x compare counts of an up-down counter. `grain` is
   * how many compare steps a count has (4 where the duty register counts quarters), `bits` the width of the compare
   * value where it is not the timer's.
   */
  pwm?: {
    channels: readonly string[];
    high: 'compare' | 'compare+1';
    grain?: number;
    bits?: number;
    /**
     * An output that changes only at the match itself misses one behind the counter; others follow a comparison. One that is
     * toggled by match and overflow needs both in each run: its compare value lies between 1 and top and stays as it is while
     * the counter runs.
     */
    changes?: 'match' | 'toggle';
    /** A compare value equal to top gives the whole run, whatever `high` says. */
    full?: 'top';
    /** The counts for which the output is high do not follow each other: they are spread over the run as evenly as can be. */
    spread?: boolean;
    /** By channel: other values of some of the mode's fields under which its output is the other way round. */
    turned?: Readonly<Record<string, Writes>>;
  };
  /** Channels whose output can be toggled by the match, once a period of the counter. */
  toggle?: { channels: readonly string[] };
  /** Counts by which an output changes after the match. */
  lag?: number;
  /** The interrupt that comes once a run: 'overflow', 'capture', or the id of the channel that is the top. */
  tick?: string;
  /** When the running timer takes new values: its top, compare values of outputs, and those of matches that only interrupt, where they differ. */
  update: { top: Update; compare: Update; match?: Update };
  writes: Writes;
  /** Where the counter begins, for one that counts up from a value it is loaded with; all others begin at 0. */
  start?: Writes;
  /** It begins so many counts before its first run, with the outputs at rest; absent where it begins with the run. */
  lead?: number;
  /** Other values of some of these fields under which the counter and its outputs do the same. */
  same?: readonly Writes[];
  /** Fields of outputs that decide nothing in this mode, such as the action at a count that never comes down. */
  neutral?: readonly string[];
};

/** One way a channel can drive a pin. */
export type Output = {
  pin: string;
  drive: 'pwm' | 'toggle';
  polarity: 'normal' | 'inverted';
  writes: Writes;
  /** Of a toggled output: other values of some of these fields, under which it is low and stays so; with its own it goes on from there. */
  low?: Writes;
  /** Other values of some of these fields under which the pin does the same. */
  same?: readonly Writes[];
  /** Other pins that the same fields drive as soon as they are outputs, so that nothing else can use them. */
  takes?: readonly string[];
};

/** A compare channel: where its compare value goes, and what it can drive. */
export type Channel = {
  id: string;
  name: string;
  compare: Writes;
  /** Other places of the compare value, each with the fields under which it is there. */
  forms?: readonly { when: Writes; compare: Writes }[];
  /** Where it goes while the timer runs, if not there: a buffer that is taken over when the mode says. */
  running?: Writes;
  /** Orders that let the hardware take the new value over, written after it while the timer runs. */
  commit?: Writes;
  /**
   * Orders that bring the level of its outputs low, for a stop: without them a start would begin with the level they had. Those of several channels of a timer
   * are given together, one by one.
   */
  rest?: readonly Writes[];
  /** A queue from which it takes a value a period. */
  queue?: Queue;
  outputs: readonly Output[];
  /** Pins that carry the opposite of its PWM output, kept apart by the timer's dead time. */
  complement?: readonly Complement[];
  /** The dead times of this channel alone, where the timer’s channels have one each. */
  deadTime?: readonly DeadBand[];
  interrupt?: Interrupt;
};

/**
 * A queue of compare values: the writes that make a channel take its values from there, one a period, the register that they are stored in,
 * the conditions in which it has room and is empty, and the flag, cleared by a one, of a period in which it had none. Then the output is low.
 */
export type Queue = { writes: Writes; data: string; room: string; empty: string; gap: string };

/**
 * A pin that carries the opposite of a channel's output, and the writes that make it do so, after those of the output. It holds for outputs on
 * the pins named in `beside`; without, for outputs on every pin of the channel that does not carry the opposite itself.
 */
export type Complement = { pin: string; beside?: readonly string[]; writes: Writes };

/** Dead times from `least` to `most` ticks of the timer's clock in steps, and the writes that choose one. */
export type DeadBand = { min: number; max: number; step: number; writes: Writes };

/**
 * A step of the order in which a timer's registers are written; fields in `without` stay zero in that step. After it comes the
 * wait for a condition, if there is one.
 */
type SequenceStep = { register: string; without?: readonly string[]; until?: string };

/** A timer: what feeds it, how it divides, how it can count, its channels, and the order of its writes. */
export type Timer = {
  id: string;
  name: string;
  /** The timer that this is another use of: on another clock, or joined with its neighbour. */
  variantOf?: string;
  width: number;
  clock: string;
  prescaler: Prescaler;
  modes: readonly Mode[];
  channels: readonly Channel[];
  captures?: readonly CaptureUnit[];
  /** The dead times it can keep between an output and its opposite, for all channels at once, the shortest band first. */
  deadTime?: readonly DeadBand[];
  /** The register of the running count, set to zero before the clock starts. */
  counter?: string;
  /** Whether it can begin at any other count of a run instead, which shifts its outputs against those of other timers. */
  preset?: boolean;
  interrupts: { overflow?: Interrupt; capture?: Interrupt };
  sequence: readonly SequenceStep[];
  /** Writes that give the timer its clock or power before anything else. */
  power?: Writes;
  /** Orders to registers that take one at a time, each stored whole, after the power. */
  commands?: readonly Writes[];
  /** Orders that stop the counter, and let values be taken at once again as after a reset. */
  halt?: readonly Writes[];
  /** Conditions to wait for after that, until the timer can be written. */
  ready?: readonly string[];
  /** Fields, as REGISTER.FIELD, that never change the steady waveform: buffers, filters of inputs, flags. */
  neutral?: readonly string[];
  /** Timers that tap the same prescaler counter: resetting it shifts them all; their frequencies stay independent. */
  sharesPrescalerWith?: readonly string[];
};

/** A pin as the program's own output: the writes that make it one, and those that put it high and low. */
export type SoftwarePin = { output: Writes; high: Writes; low: Writes };

/** A pin: its port and bit, its numbers on the packages, and the writes that make it an output. */
export type Pin = {
  id: string;
  port: string;
  bit: number;
  package: Record<string, number | string>;
  /** Writes that prepare the pin before its timer runs: power, a low level. */
  idle: Writes;
  /** Conditions to wait for once it has power. */
  ready?: readonly string[];
  /** Writes that make it an output once the timer runs. */
  enable: Writes;
  /** Where a program can drive it itself. */
  software?: SoftwarePin;
  note?: string;
};

/** A part as a whole. */
export type Part = {
  format: 'herzschlag-part';
  version: typeof PART_VERSION;
  id: string;
  name: string;
  about: string;
  registers: readonly Register[];
  clocks: readonly ClockNode[];
  /**
   * The steps that bring the clock path up from the state after reset, in the order the hardware needs, for code on demand;
   * or a sentence why no code of the program's can. Absent where the code sets the clocks in any case.
   */
  bringUp?: readonly BringUpGroup[] | string;
  /** The clock a new plan of this part starts with. */
  defaultClock: { source: string; sourceHz: number; settings?: Record<string, number | string> };
  timers: readonly Timer[];
  pins: readonly Pin[];
  cpu: Cpu;
  /** What must not be exceeded: the current of one pin in mA, and the clock of the processor in Hz. */
  limits: { pinMilliamps: number; maxHz: number };
  code: Dialect;
  /** Functions of its timers that this data leaves out: what needs one of them may fit the part although it is refused. */
  leftOut?: readonly string[];
  /** What the data was taken from. */
  source: string;
};
