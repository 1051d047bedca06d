import { registerOf } from '../part/find.ts';
import { divisionOf } from '../part/division.ts';
import type { Encoded, Interrupt, Part, Register, Timer, Writes } from '../part/types.ts';

/** A field (or, with `field` null, a whole register) and the value it gets. */
export type FieldWrite = { register: string; field: string | null; value: number };

/** One store to a register: its fields as they stand in that step, their sum, and which bits it decides. */
export type RegisterWrite = {
  name: string;
  address: number;
  width: number;
  value: number;
  mask: number;
  fields: { field: string | null; value: number; shift: number }[];
};

/** The numbers of a setting, or of a clock's division, that values of fields are taken from. */
export type Numbers = Partial<Record<Encoded['of'], number>>;

function valueOf(value: number | Encoded, numbers: Numbers): number {
  if (typeof value === 'number') return value;
  const base = numbers[value.of];
  if (base === undefined) throw new RangeError(`a value taken from the ${value.of} needs a setting`);
  const whole = base * (value.scale ?? 1) + (value.bias ?? 0);
  const shifted = Math.floor(whole / 2 ** (value.shift ?? 0));
  return value.keep === undefined ? shifted : shifted % 2 ** value.keep;
}

/** Writes as a list; values that a setting decides need its numbers. */
export function fieldWrites(writes: Writes, numbers: Numbers = {}): FieldWrite[] {
  return Object.entries(writes).map(([key, value]) => {
    const [register = '', field] = key.split('.');
    return { register, field: field ?? null, value: valueOf(value, numbers) };
  });
}

/** Writes with the values that a setting decides in them as plain numbers. */
export function encodedWrites(writes: Writes, numbers: Numbers): Writes {
  return Object.fromEntries(Object.entries(writes).map(([key, value]) => [key, valueOf(value, numbers)]));
}

/** The field writes of several sets of writes that no setting decides. */
export function plainWrites(sets: readonly (Writes | undefined)[]): FieldWrite[] {
  return sets.flatMap((writes) => (writes ? fieldWrites(writes) : []));
}

/** The registers that some writes change, each with its own writes, in their first order. */
export function byRegister(writes: readonly FieldWrite[]): { register: string; writes: FieldWrite[] }[] {
  const registers = [...new Set(writes.map(({ register }) => register))];
  return registers.map((register) => ({
    register,
    writes: writes.filter((write) => write.register === register),
  }));
}

/** The writes that let an interrupt happen, with its postscaler where it has one. */
export function interruptWrites({ enable, postscaler }: Interrupt, postscale = 1): Writes {
  return { ...(postscaler ? divisionOf(postscaler, postscale)?.writes : {}), ...enable };
}

/** The numbers of a counter. A reload value is what is left of the counter's width. */
export function counterNumbers(timer: Timer, top: number, prescaler: number): Numbers {
  const reload = 2 ** timer.width - (top + 1);
  return { top, divide: prescaler, bits: Math.log2(top + 1), reload, postscale: 1 };
}

/** Of writes those to registers that are not in a timer's own sequence. */
export function outsideSequence(timer: Timer, writes: Writes): Writes {
  const inSequence = new Set(timer.sequence.map((step) => step.register));
  return Object.fromEntries(
    Object.entries(writes).filter(([key]) => !inSequence.has(key.split('.')[0] ?? '')),
  );
}

/** Where a field (null: the whole register) lies. @throws RangeError when the register has none of that name. */
export function fieldBits(register: Register, field: string | null): { shift: number; mask: number } {
  const bits = field === null ? ([register.width - 1, 0] as const) : register.fields[field];
  if (!bits) throw new RangeError(`${register.name} has no field ${field}`);
  const [max, min] = bits;
  return { shift: min, mask: (2 ** (max - min + 1) - 1) * 2 ** min };
}

/**
 * One store out of field writes of one register; a field that several users want alike is written once.
 * @throws RangeError for a field the register does not have, a value too large for its field, or bits wanted twice in
 * different ways.
 */
export function registerWrite(part: Part, name: string, writes: readonly FieldWrite[]): RegisterWrite {
  const register = registerOf(part, name);
  const result: RegisterWrite = {
    name,
    address: register.address,
    width: register.width,
    value: 0,
    mask: 0,
    fields: [],
  };
  for (const { field, value } of writes) {
    const { shift, mask } = fieldBits(register, field);
    const known = result.fields.find((one) => one.field === field);
    if (known?.value === value) continue;
    const taken = result.fields.some((one) => {
      const other = fieldBits(register, one.field);
      return other.shift <= Math.log2(mask) && shift <= Math.log2(other.mask);
    });
    if (taken) throw new RangeError(`${name}.${field ?? 'value'} has conflicting values`);
    if (value < 0 || value * 2 ** shift > mask)
      throw new RangeError(`${value} does not fit ${name}.${field ?? 'value'}`);
    result.value += value * 2 ** shift;
    result.mask += mask;
    result.fields.push({ field, value, shift });
  }
  result.fields.sort((one, other) => other.shift - one.shift);
  return result;
}
