import { pinOf, registerOf } from '../part/find.ts';
import type { Encoded, Part, Register, Writes } from '../part/schema.ts';
import { resolveSetting, type Setting } from './setting.ts';

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

function valueOf(value: number | Encoded, setting: Setting | undefined): number {
  if (typeof value === 'number') return value;
  if (!setting) throw new RangeError(`a value taken from the ${value.of} needs a setting`);
  const base = {
    top: setting.top,
    compare: setting.compare,
    divide: setting.prescaler,
    bits: Math.log2(setting.top + 1),
  }[value.of];
  const whole = base * (value.scale ?? 1) + (value.bias ?? 0);
  const shifted = Math.floor(whole / 2 ** (value.shift ?? 0));
  return value.keep === undefined ? shifted : shifted % 2 ** value.keep;
}

/** Writes as a list; values that a setting decides need one. */
export function fieldWrites(writes: Writes, setting: Setting | undefined): FieldWrite[] {
  return Object.entries(writes).map(([key, value]) => {
    const [register = '', field] = key.split('.');
    return { register, field: field ?? null, value: valueOf(value, setting) };
  });
}

/** Every field a setting decides, on the timer and on the pin (low until the timer drives it), in no particular order. */
export function settingWrites(part: Part, setting: Setting): FieldWrite[] {
  const { timer, mode, channel, output, division } = resolveSetting(part, setting);
  const pin = pinOf(part, setting.pin);
  const writes: Writes = {
    ...timer.power,
    ...pin.idle,
    ...pin.enable,
    ...mode.writes,
    ...division.writes,
    ...output.writes,
    ...channel.compare,
    ...(mode.top.kind === 'fixed' ? {} : mode.top.writes),
  };
  return fieldWrites(writes, setting);
}

/** Where a field (null: the whole register) lies. @throws RangeError when the register has none of that name. */
export function placeOf(register: Register, field: string | null): { shift: number; mask: number } {
  const bits = field === null ? ([register.width - 1, 0] as const) : register.fields[field];
  if (!bits) throw new RangeError(`${register.name} has no field ${field}`);
  const [most, least] = bits;
  return { shift: least, mask: (2 ** (most - least + 1) - 1) * 2 ** least };
}

/**
 * One store out of field writes of one register.
 * @throws RangeError for a field the register does not have or a value too large for its field.
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
    const { shift, mask } = placeOf(register, field);
    if (value < 0 || value * 2 ** shift > mask)
      throw new RangeError(`${value} does not fit ${name}.${field ?? 'value'}`);
    result.value += value * 2 ** shift;
    result.mask += mask;
    result.fields.push({ field, value, shift });
  }
  result.fields.sort((one, other) => other.shift - one.shift);
  return result;
}

/** The values of all registers once a setting is in force, in the order of the part's sequence, pin registers last. */
export function settingRegisters(part: Part, setting: Setting): RegisterWrite[] {
  const writes = settingWrites(part, setting);
  const { timer } = resolveSetting(part, setting);
  const order = timer.sequence.map((step) => step.register);
  const names = [...new Set(writes.map((write) => write.register))];
  const rank = (name: string): number => (order.includes(name) ? order.indexOf(name) : order.length);
  names.sort((one, other) => rank(one) - rank(other));
  return names.map((name) =>
    registerWrite(
      part,
      name,
      writes.filter((write) => write.register === name),
    ),
  );
}
