import type { Interrupt, Writes } from '../part/types.ts';
import type { FieldWrite } from '../timer/fields.ts';

/** An unsigned type of C, which is also how wide the processor's arithmetic with it is. */
export type Unsigned = 'uint8_t' | 'uint16_t' | 'uint32_t';

/** A variable that stays in memory from one interrupt to the next, or for the program to read. */
export type Kept = { kept: string; type: Unsigned };

/** A variable of one function, or its argument. */
export type Local = { local: string; type: Unsigned };

/** The operators of values; comparisons give 1 or 0. */
type Operator = '+' | '-' | '|' | '<<' | '>>' | '<' | '>=' | '==' | '!=';

/** What a step computes with. Numbers are whole and without a sign. */
export type Value =
  | number
  | Kept
  | Local
  /** A register that is read. */
  | { register: string }
  /** Not zero while a bit of a register, "TIFR1.TOV1", is set. */
  | { flag: string }
  /** A member of a table's row. */
  | { table: string; row: Value; member: string; type: Unsigned }
  | { left: Value; op: Operator; right: Value }
  | { not: Value }
  /** The value after adding 1 to a variable in memory. */
  | { increased: Kept }
  | { as: Unsigned; value: Value }
  | { test: Value; then: Value; else: Value };

/** A step of the program. Steps are data: they are printed in a language, counted in cycles, and played. */
export type Step =
  /** A remark on the steps that follow, or an empty line after them. */
  | { do: 'say'; text: string }
  | { do: 'gap' }
  /** A step of a timer's sequence: a whole register, or the bits that signals decide. */
  | { do: 'store'; register: string; writes: readonly FieldWrite[]; note?: string }
  /** Bits of registers that others use too. */
  | { do: 'change'; writes: readonly FieldWrite[] }
  /** A whole register at once: an order to it. */
  | { do: 'order'; order: Writes }
  /** A register gets a value, or it is added to what the register has. */
  | { do: 'load'; register: string; value: Value; adds?: true }
  /** A register is read, so that what was stored before has happened. */
  | { do: 'read'; register: string }
  /** Until a condition holds. */
  | { do: 'wait'; until: string }
  /** At least a time in µs, whatever clock the processor has. */
  | { do: 'delay'; us: number }
  /** A flag is taken away: in the handler of its interrupt, or before that is enabled. */
  | { do: 'clear'; interrupt: Interrupt; first?: true }
  /** The processor takes interrupts from here on; without `taken` that is left to the program. */
  | { do: 'allow'; taken: boolean }
  /** A counter of two bytes goes on from `reload` more than it has, in an order that loses no carry. */
  | { do: 'reload'; timer: string; upper: string; lower: string; reload: number }
  /** A compare value or a top, which a local of that name has, goes where the part wants it. */
  | { do: 'put'; writes: Writes; name: 'compare' | 'top' }
  /** A variable of the function begins with a value; one in memory gets a new one, or is changed by it. */
  | { do: 'local'; local: Local; value: Value }
  | { do: 'set'; to: Kept; op?: '-' | '^'; value: Value }
  | { do: 'if'; test: Value; then: readonly Step[]; else?: readonly Step[] }
  /** Steps again and again as long as a value is not zero: for what comes late, which is rarely. */
  | { do: 'while'; test: Value; steps: readonly Step[] }
  /** Steps with variables of their own, or that no interrupt is to come between. */
  | { do: 'block'; steps: readonly Step[] }
  | { do: 'together'; steps: readonly Step[] }
  /** A routine of the program, or a function of the user's. */
  | { do: 'call'; routine: string; outside?: true };

/** A variable in memory with what it begins with; `shared` ones are used outside of handlers too, `told` ones are for the program to read. */
export type State = Kept & { initial: number; shared?: boolean; told?: boolean };

/** A table that never changes: rows of members, each with its type. */
export type Table = {
  name: string;
  says: string;
  members: readonly { name: string; type: Unsigned }[];
  rows: readonly (readonly number[])[];
};

/**
 * A function of the program. `inner` ones are not for the user to call; a compiler puts one that is called at a single place there, and not
 * where `shared` says that there are more.
 */
export type Routine = {
  name: string;
  argument?: Local;
  steps: readonly Step[];
  inner?: boolean;
  shared?: boolean;
};

/** What happens at one flag. */
export type AtFlag = { interrupt: Interrupt; steps: Step[] };

/** A handler: the flags that come by one vector, in the order in which it asks them. */
export type Handler = { vector: string; flags: readonly AtFlag[] };

/** The type of an unsigned number up to a value. */
export function unsignedFor(max: number): Unsigned {
  return max < 2 ** 8 ? 'uint8_t' : max < 2 ** 16 ? 'uint16_t' : 'uint32_t';
}

/** Statements in two branches. */
export function either(test: Value, yes: readonly Step[], no: readonly Step[]): Step {
  return { do: 'if', test, then: yes, else: no };
}

/** Steps if a value is not zero. */
export function when(test: Value, ...then: readonly Step[]): Step {
  return { do: 'if', test, then };
}
