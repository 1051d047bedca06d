import { pinOf, registerOf } from '../part/find.ts';
import { timerOf } from '../part/find.ts';
import { divisionOf } from '../part/division.ts';
import type { Encoded, Interrupt, Part, Register, Writes } from '../part/types.ts';
import { resolveCapture } from './capture.ts';
import { resolveDelayLoop, resolveSoftware } from './software.ts';
import { isOutput, resolveSetting, type CaptureSetting, type Setting } from './setting.ts';

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

/** The numbers of a setting. A reload value is what is left of the counter's width. */
export function numbersOf(part: Part, setting: Setting): Numbers {
  if (setting.drive === 'delay-loop') return {};
  const { top, prescaler } = setting;
  const reload = 2 ** timerOf(part, setting.timer).width - (top + 1);
  const counted = isOutput(setting) || setting.drive === 'interrupt-pair' ? { compare: setting.compare } : {};
  const postscale = 'postscale' in setting ? (setting.postscale ?? 1) : 1;
  const dead = isOutput(setting) && setting.complement ? { dead: setting.complement.deadTicks } : {};
  return { ...dead, top, divide: prescaler, bits: Math.log2(top + 1), reload, postscale, ...counted };
}

/** Writes as a list; values that a setting decides need its numbers. */
export function fieldWrites(writes: Writes, numbers: Numbers = {}): FieldWrite[] {
  return Object.entries(writes).map(([key, value]) => {
    const [register = '', field] = key.split('.');
    return { register, field: field ?? null, value: valueOf(value, numbers) };
  });
}

/** The writes that let an interrupt happen, with its postscaler where it has one. */
export function interruptWrites({ enable, postscaler }: Interrupt, postscale = 1): Writes {
  return { ...(postscaler ? divisionOf(postscaler, postscale)?.writes : {}), ...enable };
}

function captureWrites(part: Part, setting: CaptureSetting): Writes {
  const { timer, mode, division, input, capture } = resolveCapture(part, setting);
  return {
    ...timer.power,
    ...pinOf(part, setting.pin).idle,
    ...mode.writes,
    ...division.writes,
    ...(mode.top.kind === 'fixed' ? {} : mode.top.writes),
    ...input.writes,
    ...interruptWrites(capture.interrupt),
  };
}

function softwareWrites(part: Part, setting: Exclude<Setting, { drive: 'pwm' | 'toggle' }>): Writes {
  if (setting.drive === 'capture') return captureWrites(part, setting);
  if (setting.drive === 'delay-loop') {
    const { idle, software } = resolveDelayLoop(part, setting);
    return { ...idle, ...software.output };
  }
  const { timer, mode, division, tick, pin, match } = resolveSoftware(part, setting);
  return {
    ...timer.power,
    ...pin?.idle,
    ...pin?.software.output,
    ...mode.writes,
    ...division.writes,
    ...match?.channel.compare,
    ...(mode.top.kind === 'fixed' ? {} : mode.top.writes),
    ...interruptWrites(tick, 'postscale' in setting ? setting.postscale : 1),
    ...(match ? interruptWrites(match.interrupt) : {}),
  };
}

/** Every field a setting decides, on the timer and on the pin (low until it is driven), in no particular order. */
export function settingWrites(part: Part, setting: Setting): FieldWrite[] {
  const numbers = numbersOf(part, setting);
  if (!isOutput(setting)) return fieldWrites(softwareWrites(part, setting), numbers);
  const { timer, mode, channel, output, division, opposite } = resolveSetting(part, setting);
  const pin = pinOf(part, setting.pin);
  const other = opposite && pinOf(part, opposite.pin);
  const writes: Writes = {
    ...timer.power,
    ...pin.idle,
    ...pin.enable,
    ...mode.writes,
    ...division.writes,
    ...output.writes,
    ...other?.idle,
    ...other?.enable,
    ...opposite?.writes,
    ...channel.compare,
    ...(mode.top.kind === 'fixed' ? {} : mode.top.writes),
  };
  return fieldWrites(writes, numbers);
}

/** Where a field (null: the whole register) lies. @throws RangeError when the register has none of that name. */
export function placeOf(register: Register, field: string | null): { shift: number; mask: number } {
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
    const { shift, mask } = placeOf(register, field);
    const known = result.fields.find((one) => one.field === field);
    if (known?.value === value) continue;
    const taken = result.fields.some((one) => {
      const other = placeOf(register, one.field);
      return other.shift <= Math.log2(mask) && shift <= Math.log2(other.mask);
    });
    if (taken) throw new RangeError(`${name}.${field ?? 'value'} is wanted in two ways`);
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
  const order =
    setting.drive === 'delay-loop' ? [] : timerOf(part, setting.timer).sequence.map((step) => step.register);
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
