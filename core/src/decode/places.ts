import type { Part, Register } from '../part/types.ts';
import { registerOfDevice } from '../part/register-names.ts';

/** What a statement writes: a register, a field of it by name, or one byte of its two. */
export type Place = { register: Register; field?: string; byte?: 0 | 1 };

/** TIM3->PSC is TIM3_PSC, GPIOB.MODER is GPIOB_MODER. */
export function plainName(name: string): string {
  return name.replace(/ ?-> ?/g, '_').replace(/\./g, '_');
}

/** A register by what a program calls it: its own name, that of the device's header or of a library, whatever the case of its letters. */
export function registerNamed(part: Part, name: string): Register | undefined {
  const spaced = name.replace(/\s/g, '');
  const bare = spaced.replace(/\.(?:reg|w|val|value)$/, '');
  for (const one of [spaced, bare, `${bare}.reg`, spaced.replace(/^REG_/, '')]) {
    const own = registerOfDevice(part, one);
    const wanted = (own ?? plainName(one)).toLowerCase();
    const found = part.registers.find((register) => register.name.toLowerCase() === wanted);
    if (found) return found;
  }
  return undefined;
}

/** The register at an address, which a cast, a macro of the family or a function of a library names. */
function registerAt(part: Part, address: bigint): Register | undefined {
  return part.registers.find((register) => BigInt(register.address) === address);
}

/** Macros and functions that take the address of a register; those of I/O addresses add 0x20 to it. */
const AT_ADDRESS = new Set([
  'HWREG',
  'REG32',
  'REG16',
  'REG8',
  '_SFR_MEM8',
  '_SFR_MEM16',
  '_MMIO_BYTE',
  '_MMIO_WORD',
]);
const AT_IO = new Set(['_SFR_IO8', '_SFR_IO16']);

/** The address in "*(volatile uint8_t *)0x24", "HWREG(0x4804003C)" or "_SFR_IO8(0x04)", as text with what is added to it. */
function addressIn(target: string): { text: string; base: bigint } | undefined {
  const text = target.trim();
  const open = text.indexOf('(');
  if (open < 0) return undefined;
  const head = text.slice(0, open).trim();
  if (AT_ADDRESS.has(head)) return { text: text.slice(open), base: 0n };
  if (AT_IO.has(head)) return { text: text.slice(open), base: 0x20n };
  const close = text.indexOf(')', open);
  const cast = head === '*' && close > 0 && text.slice(0, close).trimEnd().endsWith('*');
  return cast ? { text: text.slice(close + 1), base: 0n } : undefined;
}

/** A field by its own name: "TIM3_CR1.CEN", "T2CONbits.TMR2ON", "TC3->COUNT16.CTRLA.bit.ENABLE". */
const FIELD = /^(.+?)(?:bits)?\.(?:bit\.|b\.)?([A-Za-z_]\w*)$/;

/** The upper or the lower byte of a register of 16 bits: OCR1AH. */
const BYTE = /^(\w+)([HL])$/;

/** The only register that has a field of a name, as some headers let bits be set by their names alone: "TMR2ON = 1". */
function registerOfField(part: Part, name: string): Register | undefined {
  const holders = part.registers.filter(({ fields }) => Object.hasOwn(fields, name));
  return holders.length === 1 ? holders[0] : undefined;
}

/**
 * What the left side of an assignment is; undefined for what is no place of the part. `value` computes an address.
 */
export function placeNamed(part: Part, target: string, value: (text: string) => bigint): Place | undefined {
  const whole = registerNamed(part, target);
  if (whole) return { register: whole };
  const [, base, field] = FIELD.exec(target) ?? [];
  const holder = base === undefined ? undefined : registerNamed(part, base);
  if (holder && field !== undefined && Object.hasOwn(holder.fields, field))
    return { register: holder, field };
  const [, stem = '', which] = BYTE.exec(target) ?? [];
  const wide = which === undefined ? undefined : registerNamed(part, stem);
  if (wide?.width === 16) return { register: wide, byte: which === 'H' ? 1 : 0 };
  const own = registerOfField(part, target);
  if (own) return { register: own, field: target };
  const address = addressIn(target);
  const register = address && registerAt(part, value(address.text) + address.base);
  return register && { register };
}
