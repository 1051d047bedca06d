import type { Prescaler, Writes } from './writes.ts';

/**
 * How an interrupt's flag goes away: by entering the handler, by writing one or zero to it, by reading it, or never,
 * where there is no flag to clear. `write-zeros` is a register of flags that only takes zeros: ones are written to all others
 * at once, so that a flag that arrives in between is not lost. `entry-or-one` flags also go by writing one, which is how they
 * are cleared before the interrupt is enabled.
 */
type FlagClear = 'entry' | 'entry-or-one' | 'write-one' | 'write-zero' | 'write-zeros' | 'read' | 'none';

/** An interrupt: the name of its vector, its number, the writes that enable it, its flag and how that is cleared. */
export type Interrupt = {
  vector: string;
  /** What the compiler's vector table calls its handler, where the part's template does not give it. */
  handler?: string;
  number: number;
  enable: Writes;
  /** What disables it, where the bits that enable it cannot be put back to zero. */
  disable?: Writes;
  flag: string;
  /** Where its flag is read, if it is cleared in another register. */
  status?: string;
  /** Where the flag is read while the interrupt is disabled, if it is elsewhere; false where it is not set then. */
  polled?: string | false;
  /** What lets the flag be set while the interrupt is disabled, where it is not set by itself. */
  pollWith?: Writes;
  clear: FlagClear;
  /** Writes of its handler without which it does not come again. */
  rearm?: Writes;
  /** Where the number of the processor's line goes that it is routed to, where start-up code decides that; a register or field. */
  route?: string;
  /** Divides the interrupts, never the output. */
  postscaler?: Prescaler;
};

/** A pin whose edges a capture listens to: the writes that make it an input and have its rising edges captured. */
export type CaptureInput = { pin: string; writes: Writes };

/**
 * A capture: at an edge of its pin the running count is copied to its registers, the low one first where it takes two,
 * and its interrupt comes. `mode` is the one in which the counter runs through its whole width.
 */
export type CaptureUnit = {
  id: string;
  name: string;
  mode: string;
  value: readonly string[];
  interrupt: Interrupt;
  inputs: readonly CaptureInput[];
};
