/** What a field of a setting may be: an id of the part, a number, one of some words, or a group of fields. */
export type SettingField = (
  | { is: 'id' }
  | { is: 'number'; min: number; max: number; whole?: true }
  | { is: 'choice'; choices: readonly string[] }
  | { is: 'group'; fields: Readonly<Record<string, SettingField>> }
) & { optional?: true };

/** How a field of this type is described. */
type FieldFor<V> = V extends number
  ? SettingField & { is: 'number' }
  : V extends string
    ? SettingField & { is: 'id' | 'choice' }
    : SettingField & { is: 'group' };

type OptionalKey<S> = { [K in keyof S]-?: undefined extends S[K] ? K : never }[keyof S];

/**
 * The fields of a setting, each described once, in the order they are written. Their names and sorts follow the type of the
 * setting, whose required fields must all be there; the schema of the plan file follows from them. A file may leave the pin
 * to the signal.
 */
export type SettingFields<S> = {
  readonly [K in Exclude<keyof S, 'drive' | OptionalKey<S>>]: FieldFor<S[K]> & { optional?: never };
} & { readonly [K in OptionalKey<S>]?: FieldFor<NonNullable<S[K]>> & { optional: true } };

/** An id of the part: of a timer, a mode, a channel or a pin. */
export const ID = { is: 'id' } as const;

/** A count of a register or of the program. */
export const COUNT = { is: 'number', min: 0, max: 2 ** 48, whole: true } as const;

/** What a clock is divided by, which may have a fraction. */
const DIVISION = { is: 'number', min: 1, max: 2 ** 32 } as const;

/** A field that may be missing. */
export function optional<const F extends SettingField>(field: F): F & { optional: true } {
  return { ...field, optional: true };
}

/** The fields of a counter of a timer. */
export const COUNTER = { prescaler: DIVISION, top: COUNT } as const;
