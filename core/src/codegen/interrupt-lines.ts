import { registerName } from '../part/register-names.ts';
import { registerOf } from '../part/find.ts';
import type { Interrupt, Part } from '../part/types.ts';
import { fieldBits, plainWrites } from '../timer/fields.ts';
import { fieldMask } from './field-names.ts';
import { byName, changes, hexText } from './statement.ts';

/** The bit of a flag in C: by its name, or by a number where it has none. */
export function flagBit(part: Part, place: string): string {
  const [name = '', field] = place.split('.');
  if (field !== undefined && byName(part)) return `(1 << ${field})`;
  const named = field === undefined ? undefined : fieldMask(part, name, field);
  return named ?? hexText(fieldBits(registerOf(part, name), field ?? null).mask);
}

/** An expression that is not zero while a flag is set. */
export function flagExpression(part: Part, place: string): string {
  const [name = ''] = place.split('.');
  return `${registerName(part, name)} & ${flagBit(part, place)}`;
}

/** The statement that takes a flag away by software. */
function clearStatement(
  part: Part,
  flag: string,
  how: 'write-one' | 'write-zero' | 'write-zeros' | 'read',
): string {
  const [name = ''] = flag.split('.');
  const register = registerOf(part, name);
  const bits = flagBit(part, flag);
  const place = registerName(part, name);
  if (how === 'read') return `(void)${place};`;
  if (how === 'write-one') return `${place} = ${bits};`;
  const others = register.width < 32 ? `(uint${register.width}_t)~${bits}` : `~${bits}`;
  return how === 'write-zeros' ? `${place} = ${others};` : `${place} &= ${others};`;
}

/**
 * The statements with which a handler takes its interrupt's flag away, where the hardware does not, and lets it come again where
 * it would not.
 */
export function clearFlag(part: Part, { flag, clear, rearm }: Interrupt): string[] {
  const again = rearm ? changes(part, plainWrites([rearm])) : [];
  if (clear === 'entry' || clear === 'entry-or-one' || clear === 'none') return again;
  return [clearStatement(part, flag, clear), ...again];
}

/** The statement that takes a flag away while its interrupt is disabled; starting the timer may have set it. */
export function clearFirst(part: Part, { flag, clear }: Interrupt): string[] {
  if (clear === 'entry' || clear === 'none') return [];
  return [clearStatement(part, flag, clear === 'entry-or-one' ? 'write-one' : clear)];
}
