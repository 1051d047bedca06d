import { conditionOf } from './condition.ts';
import type { Prescaler, PriorityFields, Register, Writes } from './types.ts';

/** Something a part's data refers to that is not there, or a value that does not fit: where, and a sentence. */
export type PartFault = { path: string; sentence: string };

/** The check of a part: its registers by name, and the faults found so far. */
export type Look = { registers: Map<string, Register>; faults: PartFault[]; priorities?: PriorityFields };

/** Notes a fault at a path. */
export function fault({ faults }: Look, path: string, text: string): void {
  faults.push({ path, sentence: `${path}: ${text}` });
}

/** A place is a register, or a field of one. */
export function checkPlace(look: Look, path: string, key: string): number | undefined {
  const [name = '', field] = key.split('.');
  const register = look.registers.get(name);
  if (!register) {
    fault(look, path, `there is not a register ${name}.`);
    return undefined;
  }
  if (field === undefined) return 2 ** register.width - 1;
  const bits = register.fields[field];
  if (!bits) {
    const known = Object.keys(register.fields).join(', ') || 'none';
    fault(look, path, `${name} has no field ${field}; it has ${known}.`);
    return undefined;
  }
  return 2 ** (bits[0] - bits[1] + 1) - 1;
}

/** A condition names a field, and a value that fits it. */
export function checkCondition(look: Look, path: string, condition: string): void {
  const { register, field, is } = conditionOf(condition);
  const max = checkPlace(look, path, `${register}.${field}`);
  if (max !== undefined && typeof is === 'number' && is > max)
    fault(look, path, `${is} does not fit, the greatest value is ${max}.`);
}

/** Writes go to places that there are, and plain values fit them. */
export function checkWrites(look: Look, path: string, writes: Writes): void {
  for (const [key, value] of Object.entries(writes)) {
    const max = checkPlace(look, `${path}["${key}"]`, key);
    if (max !== undefined && typeof value === 'number' && value > max) {
      fault(look, `${path}["${key}"]`, `${value} does not fit, the greatest value is ${max}.`);
    }
  }
}

/** Writes that no setting decides: each value is a number. */
export function checkPlain(look: Look, path: string, writes: Writes): void {
  checkWrites(look, path, writes);
  for (const [key, value] of Object.entries(writes)) {
    if (typeof value !== 'number')
      fault(look, `${path}["${key}"]`, 'a value that a setting decides has no place here.');
  }
}

/** An id is among those that there are. */
export function checkKnown(
  look: Look,
  path: string,
  what: string,
  id: string,
  known: ReadonlySet<string>,
): void {
  if (!known.has(id))
    fault(look, path, `there is no ${what} ${id}; there are ${[...known].slice(0, 12).join(', ')}.`);
}

/** A range begins below its end. */
export function checkRange(look: Look, path: string, { min, max }: { min?: number; max?: number }): void {
  if (min !== undefined && max !== undefined && min > max) fault(look, path, `${min} is above ${max}.`);
}

/** A range of divisions begins below its end. */
export function checkDivision(look: Look, path: string, prescaler: Prescaler): void {
  if (prescaler.kind === 'range') checkRange(look, path, prescaler);
}
