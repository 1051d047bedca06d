import type { Arithmetic } from '../knob/arithmetic.ts';
import type { Interrupt, Writes } from '../part/types.ts';
import type { Ends } from '../signal/requirement.ts';
import type { Sending } from '../timer/sending.ts';
import type { Setting } from '../timer/setting.ts';

/**
 * A knob as the program needs it: a compare value, or the counts of a run, for each reading; how many readings make one mean, and by how many counts a
 * mean must differ from the last one that was taken.
 */
export type KnobCode = {
  arithmetic: Arithmetic;
  rate?: { keepsWidth: boolean };
  average?: number;
  hysteresis?: number;
};

/** Readings as the program needs them: what was seen, in thousandths and rising, with the compare value of each. */
export type ReadingsCode = { unit: string; rows: { seen: number; compare: number }[] };

/**
 * A sequence as the program needs it: its rows, whole periods with the same top and value, the value that keeps the pin low, whether the
 * top `moves`, and the interrupt at the end of each period, absent where the signal's own interrupts make the periods. The value is the
 * compare value of an output; where interrupts make the edges, that of the match, the interrupts for which the pin is high, or 1 where it is toggled, by them or by its timer.
 */
export type ProgramSequence = {
  tick?: Interrupt;
  /** Of a toggled output: what lets it change at its matches, and what keeps it low instead. */
  gate?: { on: Writes; off: Writes };
  rest: number;
  moves: boolean;
  entries: { periods: number; top: number; compare: number }[];
  once: boolean;
};

/**
 * One signal as the program needs it: its name, its sentence, the setting that produces it, what it moves over, of an input the
 * slowest rate in Hz, its sequence, and how bits are handed to its timer.
 */
export type ProgramSignal = {
  name: string;
  sentence: string;
  setting: Setting;
  span?: Ends;
  /** Its target is a width, which stays where the frequency changes; else its share of the period stays. */
  keepsWidth?: boolean;
  slowestHz?: number;
  sequence?: ProgramSequence;
  sending?: Sending;
  knob?: KnobCode;
  readings?: ReadingsCode;
};
