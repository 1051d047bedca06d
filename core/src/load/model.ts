import Joi from 'joi';
import type { Dimension } from '../quantity/quantity.ts';

/** A number of a load in its base unit (V, A, Ω, F, H, s, Hz, °, a fraction of one). */
export type NumberField = {
  label: string;
  dimension: Dimension;
  min?: number;
  above?: number;
  max: number;
  optional?: true;
};

/** One of several words, the first of which holds where none is given. */
export type ChoiceField = { label: string; choices: readonly string[]; optional: true };

/** The fields of a load. The type of the load and the schema of the plan file are both derived from them. */
type LoadFields = Readonly<Record<string, NumberField | ChoiceField>>;

type FieldValue<F> = F extends { choices: readonly (infer C)[] } ? C : number;
type Optional<S> = { [K in keyof S]: S[K] extends { optional: true } ? K : never }[keyof S];

/** The values of a load with these fields. */
export type LoadValues<S extends LoadFields> = {
  -readonly [K in Exclude<keyof S, Optional<S>>]: FieldValue<S[K]>;
} & {
  -readonly [K in Optional<S>]?: FieldValue<S[K]>;
};

/** What a pin does to its load, in numbers, with the limit of the pin. */
export type Driven = {
  frequencyHz: number;
  /** Time high as a share of the period; what a pulse is in each frame as well. */
  duty: number;
  /** The finest step of the time high in s, and how many there are in a period. */
  stepS: number;
  steps: number;
  /** The least and the greatest time high in s that the signal can be set to: by its span, its knob, its sequence. */
  widthsS?: { min: number; max: number };
  /** Most current of one pin in A. */
  pinA: number;
  /** The bits of an LED string: how many LEDs, the time of a bit and the pause that ends a frame, in s. */
  string?: { leds: number; bitS: number; pauseS: number };
};

/** A limit of a load compared with what the pin does. */
export type LoadCheck = {
  label: string;
  unit: 'A' | 'fraction' | 's' | 'Hz' | 'V';
  value: number;
  low?: number;
  high?: number;
  /** Set where another frequency would change it. */
  byRate?: true;
  note?: string;
};

/** What a picture of a load shows, in numbers. */
export type LoadPicture =
  | { kind: 'glow'; lightness: number; duty: number }
  | { kind: 'note'; frequencyHz: number; levelDb: number; resonanceHz?: number }
  | { kind: 'rhythm'; frequencyHz: number; duty: number }
  | { kind: 'arm'; degrees: number; from: number; to: number; inside: boolean }
  | { kind: 'spin'; meanShare: number; rippleShare: number; turns: boolean }
  | { kind: 'level'; volts: number; ripple: number; supplyV: number; low?: number; high?: number }
  | { kind: 'disc'; rpm: number; marks: number; flashHz: number; onS: number; images: number }
  | { kind: 'string'; leds: number; share: number };

/** What a load does with a waveform: a figure, facts in words, advice, limits and a picture. */
export type LoadReport = {
  headline: string;
  aside?: string;
  facts: { label: string; text: string }[];
  advice: string[];
  checks: LoadCheck[];
  picture: LoadPicture;
};

/**
 * What a signal is made for: the rhythm of something that goes on and off, the brightness of a lamp, flashes, sound, the
 * place of a servo, power in steps, a mean voltage, or the bits of an LED string.
 */
export type Purpose = 'rhythm' | 'brightness' | 'flash' | 'sound' | 'position' | 'power' | 'voltage' | 'bits';

/** One kind of load, a file each. Everything that depends on the kind of a load is asked of its record. */
export type LoadModel<T = Record<string, number | string>, Id extends string = string> = {
  id: Id;
  name: string;
  /** What signals it is moved by are made for, what it does most often first; offered first where that is the signal's own. */
  suits: readonly Purpose[];
  /** What one sees or measures of it, as the unit of readings from the bench; absent where its signal decides. */
  seen?: string;
  /** Whether one hears its signal. */
  sounds?: true;
  /** A signal that shows it at work, as kind and target, for pictures and tests. */
  demo: { kind: string; target: object };
  fields: LoadFields;
  /** The fields with the least and the greatest width that it takes. */
  ends?: { low: string; high: string };
  /** The values an editor begins with. */
  starter: T;
  report: (load: T, driven: Driven) => LoadReport;
};

function fieldSchema(field: NumberField | ChoiceField): Joi.Schema {
  if ('choices' in field) return Joi.string().valid(...field.choices);
  const number = Joi.number().max(field.max).label(field.label);
  const low = field.above === undefined ? number.min(field.min ?? 0) : number.greater(field.above);
  return field.optional ? low : low.required();
}

/** The shape of a load of one model in a plan. */
export function loadSchema({ id, fields }: Pick<LoadModel, 'id' | 'fields'>): Joi.ObjectSchema {
  const own = Object.entries(fields).map(([key, field]) => [key, fieldSchema(field)] as const);
  return Joi.object({ type: Joi.string().valid(id).required(), ...Object.fromEntries(own) });
}

/** A voltage above zero. */
export const VOLTS = { dimension: 'volts', above: 0, max: 1000 } as const;

/** A current above zero. */
export const AMPS = { dimension: 'amps', above: 0, max: 1000 } as const;

/** A resistance above zero. */
export const OHMS = { dimension: 'ohms', above: 0, max: 1e9 } as const;

/** A fraction of one. */
export const PART_OF_ONE = { dimension: 'duty', min: 0, max: 1 } as const;
