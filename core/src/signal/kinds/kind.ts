import type { Exact } from '../../quantity/exact.ts';
import type { Dimension, Quantity } from '../../quantity/quantity.ts';
import type { Scale } from '../../quantity/scaled.ts';
import type { Knob, KnobQuantity } from '../../knob/knob.ts';
import type { Purpose } from '../../load/model.ts';
import type { ReadingQuantity as ReadingQuantity } from '../../readings/readings.ts';
import type { Requirement } from '../requirement.ts';
import type { Shape } from './shape.ts';
import type { Wish } from './wish.ts';

/** A piece of a signal's sentence: plain words, or a token that can be edited. */
export type Piece =
  | { text: string }
  | {
      token: string;
      text: string;
      also: string;
      dimension: Dimension | 'pin' | 'name';
      label: string;
      /** What the arrow keys move to the next value the hardware can make. */
      stepped?: 'frequency' | 'duty';
    };

/** A quantity as it was typed, with its text. */
export type Typed = Quantity & { text: string };

/** A token of a sentence: what may be typed there and what an entry makes of the target. */
export type Token<T> = {
  dimension: Dimension;
  label: string;
  stepped?: 'frequency' | 'duty';
  /** The field it stands for, as an amount, or as a plain number where `plain` says so. */
  field?: keyof T & string;
  plain?: boolean;
  /** Fields that `set` writes, where `field` does not name the one. */
  says?: readonly string[];
  /** Fields that say the same thing in another way and go when this one is said. */
  replaces?: readonly (keyof T & string)[];
  /** Where a field alone does not do: the target after the entry, or a sentence that says what is wrong. */
  set?: (target: T, typed: Typed) => T | string;
};

/** A tolerance that could be wider: what it is, up to what it is still worth proposing, and how it is said. */
export type Relaxation = {
  field: string;
  now: number;
  max: number;
  say: (value: number) => string;
  /** Whether less is asked for with a lesser value, such as fewer steps. */
  falling?: { min: number };
};

/**
 * A kind of signal. Everything that depends on the kind of a signal is asked of its record, so that a new kind is one new
 * record. Methods throw TargetError with the field at fault where a target cannot be understood.
 */
export type Kind<T extends object = object, Id extends string = string> = {
  id: Id;
  /** "blinks", and what its high time is called: "lit". */
  verb: string;
  high: string;
  /** The default name of a new signal. */
  name: string;
  /** A starting point for a new signal, in words and as a target. */
  starter: { text: string; target: T };
  /** The fields of its target. */
  shape: Shape;
  /** Whether it drives a pin, listens to one, or is for the processor alone. */
  on: 'output' | 'input' | 'processor';
  /** What it is made for, which decides the loads that are offered first; absent where nothing hangs on it. */
  purpose?: Purpose;
  /** What a knob of it moves at first; absent where no knob moves it. `span` tells the ends that its target asks for. */
  knob?: {
    sets: KnobQuantity;
    curve?: Knob['curve'];
    span?(target: T): readonly [number, number] | undefined;
  };
  /** What a table of readings of it has at first: what was set, and the unit of what is seen. Absent where it has none. */
  readings?: { of: ReadingQuantity; unit: string };
  /** Whether one hears it. */
  sounds?: true;
  requirement(target: T): Requirement;
  /** The words and tokens after name and pin, beginning with a space and ending with a full stop. */
  sentence(target: T): Piece[];
  tokens: Readonly<Record<string, Token<T>>>;
  /** The target at another frequency, and at another duty; undefined where that is no longer this kind. */
  withFrequency(target: T, frequency: Exact): T;
  withDuty(target: T, duty: Exact, frequency: Exact): T | undefined;
  relaxations(target: T): Relaxation[];
  /**
   * The target with the tolerances that were not given made wide enough for an oscillator that is off by up to so many ppm;
   * absent where none hangs on the oscillator, unchanged where a wide one would be of no use, such as a note out of tune.
   */
  eased?(target: T, oscillatorPpm: number): T;
  wish: Wish<T>;
  /** The turn that its widths stand for. */
  window?(target: T): Scale['window'];
  /** The voltage of its high level, where volts are wanted. */
  supplyV?(target: T): number;
  /** The LEDs that its bits are for, and the time of a bit in s; absent where it sends no bits. */
  ledBits?(target: T): { leds: number; bitS: number; frameHz?: number };
};

const records = new Map<string, Kind>();

/** Adds a kind, or replaces the one of that id; gives a function that takes it away again. */
export function registerKind<T extends object, Id extends string>(kind: Kind<T, Id>): () => void {
  records.set(kind.id, kind as unknown as Kind);
  return () => {
    records.delete(kind.id);
  };
}

/** All kinds in the order a list shows them. */
export function allKinds(): Kind[] {
  return [...records.values()];
}

/** The kind of that id, if there is one. */
export function findKind(id: string): Kind | undefined {
  return records.get(id);
}

/** The kind of a signal. @throws RangeError if it is not registered. */
export function kindOf(signal: { kind: string }): Kind {
  const found = records.get(signal.kind);
  if (!found) throw new RangeError(`there is no kind “${signal.kind}” of signal`);
  return found;
}
