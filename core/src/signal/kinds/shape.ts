/** A number in base units: a JSON number, or an exact fraction as text ("16000000/15999"). */
export type Amount = number | string;

/**
 * What a field of a target may hold: an amount (a number or a fraction as text), a plain number, a whole one, or a short
 * text; with its limits, both of them inclusive but for `above`.
 */
export type FieldShape = {
  type: 'amount' | 'number' | 'integer' | 'text';
  min?: number;
  above?: number;
  max?: number;
  required?: true;
};

/** The fields of a target. The type of the target and the schema of the plan file are both derived from it. */
export type Shape = Readonly<Record<string, FieldShape>>;

type ValueOf<F extends FieldShape> = F extends { type: 'amount' }
  ? Amount
  : F extends { type: 'text' }
    ? string
    : number;

type RequiredKeys<S extends Shape> = { [K in keyof S]: S[K] extends { required: true } ? K : never }[keyof S];

/** The type of a target with these fields. */
export type TargetOf<S extends Shape> = { -readonly [K in RequiredKeys<S>]: ValueOf<S[K]> } & {
  -readonly [K in Exclude<keyof S, RequiredKeys<S>>]?: ValueOf<S[K]>;
};

/** An amount of zero or more. */
export const AMOUNT = { type: 'amount', min: 0, max: 1e12 } as const satisfies FieldShape;

/** An amount above zero. */
export const POSITIVE = { type: 'amount', above: 0, max: 1e12 } as const satisfies FieldShape;

/** A fraction of one, as an amount. */
export const SHARE = { type: 'amount', min: 0, max: 1 } as const satisfies FieldShape;

/** A tolerance in parts per million. */
export const PPM = { type: 'number', min: 0, max: 1e6 } as const satisfies FieldShape;

/** A tolerance of a share, a fraction of one. */
export const FRACTION = { type: 'number', min: 0, max: 1 } as const satisfies FieldShape;

/** A positive number that takes no fraction. */
export const QUANTITY = { type: 'number', above: 0, max: 1e12 } as const satisfies FieldShape;

/** A whole number from 1 to a maximum. */
export function whole<M extends number>(max: M) {
  return { type: 'integer', min: 1, max } as const satisfies FieldShape;
}

/** A field that must be there. */
export function required<F extends FieldShape>(field: F): F & { required: true } {
  return { ...field, required: true };
}
