import { registerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { fieldBits, type RegisterWrite } from '../timer/fields.ts';
import { claimedWrites } from '../timer/encode.ts';
import type { Evaluation } from './evaluate.ts';

/** A field of a register: its bits, its value once the plan is in force, and the signals that want it so; none where it stays as it was. */
export type RegisterField = { name: string; high: number; low: number; value: number; signals: string[] };

/**
 * A register that a plan writes: its value once that is in force, bits that it leaves alone as after reset; the value after reset; its
 * fields, the uppermost first; and the signals that want something of it, none where only the clock does.
 */
export type RegisterRow = {
  name: string;
  address: number;
  width: number;
  value: number;
  reset: number;
  /** The bits that the plan decides. */
  mask: number;
  fields: RegisterField[];
  signals: string[];
};

/** What a signal wants of each register and field, by "register" and "register.field". */
function wantedBy(part: Part, evaluation: Evaluation): Map<string, string[]> {
  const found = new Map<string, string[]>();
  const add = (key: string, id: string): void => {
    const own = found.get(key) ?? [];
    if (!own.includes(id)) found.set(key, [...own, id]);
  };
  for (const { signal, outcome } of evaluation.signals) {
    if (!outcome) continue;
    for (const { register, field } of claimedWrites(part, outcome.setting)) {
      add(register, signal.id);
      if (field !== null) add(`${register}.${field}`, signal.id);
    }
  }
  return found;
}

/** A number without the bits of a mask, and with others in their place; up to 32 bits without a sign. */
function overlaid(below: number, mask: number, above: number): number {
  return Number((BigInt(below) & ~BigInt(mask)) | BigInt(above));
}

function rowOf(part: Part, write: RegisterWrite, wanted: ReadonlyMap<string, string[]>): RegisterRow {
  const register = registerOf(part, write.name);
  const reset = register.reset ?? 0;
  const value = overlaid(reset, write.mask, write.value);
  const fields = Object.keys(register.fields).map((name): RegisterField => {
    const { shift, mask } = fieldBits(register, name);
    return {
      name,
      low: shift,
      high: Math.round(Math.log2(mask / 2 ** shift + 1)) + shift - 1,
      value: Number((BigInt(value) & BigInt(mask)) >> BigInt(shift)),
      signals: wanted.get(`${write.name}.${name}`) ?? [],
    };
  });
  fields.sort((one, other) => other.low - one.low);
  return {
    name: write.name,
    address: write.address,
    width: write.width,
    value,
    reset,
    mask: write.mask,
    fields,
    signals: wanted.get(write.name) ?? [],
  };
}

/** Every register of a plan as a row of its fields, in the order in which they are written. */
export function registerRows(part: Part, evaluation: Evaluation): RegisterRow[] {
  const wanted = wantedBy(part, evaluation);
  return evaluation.registers.map((write) => rowOf(part, write, wanted));
}

/** The value of a register as shifts of its named bits that are set: "(1u << COM2B1) | (1u << WGM21)"; a number where it has no fields. */
export function shiftsText({ value, fields }: Pick<RegisterRow, 'value' | 'fields'>): string {
  if (fields.length === 0) return String(value);
  const set = fields.filter((field) => field.value !== 0);
  return set.length === 0 ? '0' : set.map(({ value: own, low }) => `(${own}u << ${low})`).join(' | ');
}
