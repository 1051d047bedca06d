import type { ClockPath } from '../../clock/path.ts';
import type { Mode, Output, Part, Timer, Writes } from '../../part/types.ts';
import type { Exact } from '../../quantity/exact.ts';
import type { Requirement } from '../../signal/requirement.ts';
import type { Numbers } from '../fields.ts';
import type { InterruptSource } from '../interrupt-sources.ts';
import type { Outcome } from '../outcome.ts';
import type { Rung } from '../rungs.ts';
import type { Setting } from '../setting.ts';
import type { Adjustable, Bits, HandlerUse, InterruptEvents, Loop } from './actions.ts';
import type { SettingField, SettingFields } from './setting-fields.ts';

/** What makes the edges: an output of the timer, its interrupts, a loop of the program; or an input is measured. */
export type Cause = 'output' | 'interrupts' | 'loop' | 'input';

/** The numbers of a setting that can be changed by hand. */
export type AdjustedField = 'prescaler' | 'top' | 'compare' | 'reload' | 'postscale' | 'divider';

/** A number of a setting that can move by single counts: its range, and whether a greater one means a lesser value. */
export type Movable = { field: 'top' | 'compare'; min: number; max: number; falling: boolean };

/**
 * A way out of a timer: the channel it takes, the pin it is bound to, and the outputs to choose from there. Without a pin any
 * that the program can drive will do, or none for a tick.
 */
export type TimerPlace = { channel?: string; pin?: string; outputs: readonly Output[] };

/** What a proposal of settings starts from: the wanted frequency in Hz, the pin, and the interrupts that the part has. */
export type Proposal = {
  part: Part;
  requirement: Requirement;
  cpuHz: Exact;
  wantedHz: number;
  /** Absent for a tick, which is on no pin. */
  pin?: string;
  sources: readonly InterruptSource[];
};

/**
 * A method of producing a signal. Everything that depends on the drive of a setting is asked of its record, so that a new
 * drive is one new record. Methods that resolve names against a part throw SettingError with the field at fault.
 */
export type Drive<S extends { drive: string } = Setting> = {
  id: string;
  /** "PWM output", and a word for where there is little room: "PWM". */
  name: string;
  short: string;
  cause: Cause;
  /** How the share of high time is decided: by a match, by counting interrupts, always one half, or not at all. */
  duty: 'match' | 'counted' | 'half' | 'none';
  /** Whether a software divider counts interrupts. */
  divides: boolean;
  /** Interrupts in a run of the counter. */
  interruptsPerRun: 0 | 1 | 2;
  /**
   * How a waveform starts: as the counter's first runs make it, low until the first match, low for the first run, or with
   * its steady cycle.
   */
  start: 'simulated' | 'first-match' | 'second-run' | 'cycle';
  /** By how many ticks of its outcome the cycle of a setting begins later than its counter; 0 where absent. */
  lateTicks?(part: Part, setting: S): number;
  /** Every field of its settings; the schema of the plan file and the order in which it is written follow from it. */
  fields: SettingFields<S>;
  /**
   * The ways out of a timer in one of its modes; none where the mode cannot do it. Absent for a drive that takes no timer,
   * which assignment therefore leaves out.
   */
  places?(timer: Timer, mode: Mode): TimerPlace[];
  /** Whether some setting of it could meet a requirement, as far as that does not depend on the part. */
  canMeet(requirement: Requirement): boolean;
  /** Runs of the counter in a period, for a software divider of 1: 2 where one run makes one change of the pin. */
  runsPerPeriod(onPin: boolean): 1 | 2;
  /** Resolves every name and checks every number. @throws SettingError */
  check(part: Part, setting: S): void;
  /** The exact outcome under the clock of `clockNode` and that of the processor, both in Hz. @throws SettingError */
  outcome(part: Part, setting: S, clockHz: Exact, cpuHz: Exact): Outcome;
  /** The node of the clock path that decides the frequency. @throws SettingError */
  clockNode(part: Part, setting: S): string;
  /** Length of one count in ticks of that clock. */
  countTicks(part: Part, setting: S): number;
  /** The numbers that register fields take their values from. */
  numbers(part: Part, setting: S): Numbers;
  /** Every field the setting decides, on the timer and on its pins. @throws SettingError */
  writes(part: Part, setting: S): Writes;
  /** Of those the ones that prepare or select a pin, outside the timer's own sequence. @throws SettingError */
  pinWrites(part: Part, setting: S): Writes;
  /** The way from the oscillator to the pin, with every number put in. @throws SettingError */
  ladder(part: Part, path: ClockPath, setting: S): Rung[];
  /** What its interrupts do, as data. @throws SettingError */
  handlers(part: Part, setting: S): HandlerUse[];
  /** When these interrupts come, where the counter alone decides it. @throws SettingError */
  events?(part: Part, setting: S): InterruptEvents[];
  /** What the program can set of its width while it runs, where interrupts make the edges. */
  adjustable?(part: Part, setting: S): Adjustable;
  /** The loop of the program that makes it, where one does. */
  loop?: (setting: S) => Loop;
  /** The loop of the program that sends bits of two widths, where one does. */
  bits?: (part: Part, setting: S) => Bits | undefined;
  /** The setting with one number changed by hand; `share` is the wanted duty, which is kept as well as it can be. */
  adjust(part: Part, setting: S, share: number, field: AdjustedField, value: number): S;
  /** What moves the frequency and what moves the duty by single counts; absent where nothing does. */
  movable(part: Part, setting: S): { frequency?: Movable; duty?: Movable };
  /** Settings that could meet a requirement; absent for drives that the hardware and input searches find. */
  propose?(proposal: Proposal): S[];
  /** "OC1A", "interrupt", "tick": how the signal gets out, in a word or two. */
  means(setting: S): string;
  /** The numbers in one line: "fast-icr ÷ 64, top 15 624". */
  numbersText(setting: S): string;
  /** By what and where, for a comment: "Timer 1, OC1A on PB1, fast PWM". */
  method(part: Part, setting: S): string;
  /** Where it is, in words: "TIM3 CH3 on PB0". */
  place(part: Part, setting: S): string;
};

const records = new Map<string, Drive>();

/** Adds a drive, or replaces the one of that id; gives a function that takes it away again. */
export function registerDrive<S extends { drive: string }>(drive: Drive<S>): () => void {
  records.set(drive.id, drive as unknown as Drive);
  return () => {
    records.delete(drive.id);
  };
}

/** The drive of that id. @throws RangeError if it is not registered. */
export function driveById(id: string): Drive {
  const found = records.get(id);
  if (!found) throw new RangeError(`there is no drive “${id}”; there are ${[...records.keys()].join(', ')}`);
  return found;
}

/** Every field of a drive's settings by its name, in the order they are written. */
export function fieldsOf(drive: Drive): Readonly<Record<string, SettingField>> {
  return drive.fields;
}

/** The drive of a setting. */
export function driveOf(setting: { drive: string }): Drive {
  return driveById(setting.drive);
}

/** All drives in the order a list shows them: those that cost no processor time first. */
export function allDrives(): Drive[] {
  return [...records.values()];
}
