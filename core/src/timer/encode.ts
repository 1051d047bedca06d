import { timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { laterWrites } from './clock-set-up.ts';
import { driveOf } from './drives/index.ts';
import { fieldWrites, registerWrite, type FieldWrite, type RegisterWrite } from './fields.ts';
import { hasTimer, type Setting } from './setting.ts';

/** Every field a setting decides, on the timer and on the pin (low until it is driven), in no particular order. */
export function settingWrites(part: Part, setting: Setting): FieldWrite[] {
  const drive = driveOf(setting);
  return fieldWrites(drive.writes(part, setting), drive.numbers(part, setting));
}

/** What a setting decides, with the count at which its timer begins even where that is 0: others may want another. */
export function claimedWrites(part: Part, setting: Setting): FieldWrite[] {
  const writes = settingWrites(part, setting);
  if (!hasTimer(setting) || ('begin' in setting && setting.begin)) return writes;
  const { counter, preset } = timerOf(part, setting.timer);
  return counter !== undefined && preset ? [...writes, { register: counter, field: null, value: 0 }] : writes;
}

/** Stores of field writes, one for each register, in the order of a list; registers outside of it come last. */
export function registersOf(
  part: Part,
  writes: readonly FieldWrite[],
  order: readonly string[],
): RegisterWrite[] {
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

/**
 * The values of all registers once a setting is in force, in the order of the part's sequence, pin registers last. `clock` are the
 * writes that set its clock up, whose registers come first.
 */
export function settingRegisters(
  part: Part,
  setting: Setting,
  clock: readonly FieldWrite[] = [],
): RegisterWrite[] {
  const order = hasTimer(setting) ? timerOf(part, setting.timer).sequence.map((step) => step.register) : [];
  const clocks = clock.map(({ register }) => register);
  return registersOf(part, laterWrites([...clock, ...settingWrites(part, setting)]), [...clocks, ...order]);
}
