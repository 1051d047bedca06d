import { registerName } from '../part/register-names.ts';
import { registerOf } from '../part/find.ts';
import type { Interrupt, Part } from '../part/types.ts';
import { fieldBits, plainWrites } from '../timer/fields.ts';
import { byName, changes, hexText } from './statement.ts';

/** An expression that is not zero while a flag is set. */
export function flagExpression(part: Part, place: string): string {
  const [name = '', field = null] = place.split('.');
  const bits =
    byName(part) && field !== null
      ? `(1 << ${field})`
      : hexText(fieldBits(registerOf(part, name), field).mask);
  return `${registerName(part, name)} & ${bits}`;
}

/** The statement that takes a flag away by software. */
function clearStatement(
  part: Part,
  flag: string,
  how: 'write-one' | 'write-zero' | 'write-zeros' | 'read',
): string {
  const [name = '', field = null] = flag.split('.');
  const register = registerOf(part, name);
  const { mask } = fieldBits(register, field);
  const bits = byName(part) && field !== null ? `(1 << ${field})` : hexText(mask);
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
