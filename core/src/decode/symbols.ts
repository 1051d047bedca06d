import type { Part, Register } from '../part/types.ts';

/** The bits of a field, in a register: the lowest one, and a mask in place. */
type Bits = { low: number; mask: bigint };

type Index = ReadonlyMap<string, Bits>;

function bitsOf([high, low]: readonly [number, number]): Bits {
  return { low, mask: ((1n << BigInt(high - low + 1)) - 1n) << BigInt(low) };
}

/** A name without the digits at its end. */
function withoutNumber(name: string): string {
  let end = name.length;
  while (end > 0 && name.charAt(end - 1) >= '0' && name.charAt(end - 1) <= '9') end -= 1;
  return name.slice(0, end);
}

/** TIM2_CCMR1 is TIM_CCMR1 for every TIM, PORTC_PCR3 is PORT_PCR, FTM0_C2SC is FTM_CnSC: names without the number of an instance. */
function familyNames(name: string): string[] {
  const [block = '', ...rest] = name.split('_');
  const own = rest.join('_');
  const unnumbered = withoutNumber(block);
  const plain = [unnumbered, unnumbered === block ? block.replace(/[A-K]$/, '') : unnumbered];
  const registers = [own, withoutNumber(own), own.replace(/\d+/, 'n'), own.replace(/\d+/, 'x')];
  return own === '' ? [] : plain.flatMap((one) => registers.map((register) => `${one}_${register}`));
}

const indexes = new WeakMap<Part, Index>();

/** The fields of a part by the names that macros of headers give them, without the number of an instance. */
function indexOf(part: Part): Index {
  const known = indexes.get(part);
  if (known) return known;
  const index = new Map<string, Bits>();
  for (const { name, fields } of part.registers) {
    for (const [field, bits] of Object.entries(fields)) {
      for (const family of familyNames(name)) {
        const key = `${family}_${field}`;
        if (!index.has(key)) index.set(key, bitsOf(bits));
      }
    }
  }
  indexes.set(part, index);
  return index;
}

/** A field that a macro names: of the register that is written first, else of its family; leading words of a library are left out. */
function fieldOf(part: Part, register: Register | undefined, macro: string): Bits | undefined {
  const words = macro.split('_');
  for (let from = 0; from < Math.min(words.length - 1, 3); from += 1) {
    const name = words.slice(from).join('_');
    const own =
      register && [register.name, ...familyNames(register.name)].find((one) => name.startsWith(`${one}_`));
    const field = own && register.fields[name.slice(own.length + 1)];
    if (field) return bitsOf(field);
    const found = indexOf(part).get(name);
    if (found) return found;
  }
  return undefined;
}

/** Endings of macros that name the lowest bit of a field, and those that name its mask. */
const PLACE = /_(?:Pos|POS|LSB|SHIFT|bp|pos)$/;
const MASK = /_(?:Msk|MSK|BITS|MASK|bm|gm|msk)$/;

/** The mask of a field whose bits the part's data names one by one, such as OC1M0, OC1M1 and OC1M2. */
function maskOfBits(part: Part, register: Register | undefined, field: string): bigint | undefined {
  const bits = [0, 1, 2, 3].flatMap((bit) => fieldOf(part, register, `${field}${bit}`) ?? []);
  return bits.length < 2 ? undefined : bits.reduce((all, { mask }) => all | mask, 0n);
}

/** The n of a division that a macro names, and the name of its field: "TC_CTRLA_PRESCALER_DIV64". */
const DIVISION = /^(\w+)_DIV(?:ISION)?_?(\d+)(?:_Val)?$/;

/** What a macro of a division stands for: the value of the field that a prescaler of the part writes for it. */
function divisionValue(part: Part, register: Register | undefined, macro: string): bigint | undefined {
  const [, field = '', divide] = DIVISION.exec(macro) ?? [];
  const bits = fieldOf(part, register, field);
  if (!bits) return undefined;
  const name = field.split('_').at(-1) ?? '';
  for (const { prescaler } of part.timers) {
    if (prescaler.kind !== 'list') continue;
    const option = prescaler.options.find((one) => one.divide === Number(divide));
    const [, value] = Object.entries(option?.writes ?? {}).find(([key]) => key.endsWith(`.${name}`)) ?? [];
    if (typeof value === 'number') return BigInt(value) << BigInt(bits.low);
  }
  return undefined;
}

/**
 * The value of a macro of a device's header: the mask of a field, its place ("_Pos" and the like), one bit of it ("_1"), a value
 * that the part's data lists, or a division of a prescaler. Undefined for a name that is none of them.
 */
export function macroValue(part: Part, register: Register | undefined, macro: string): bigint | undefined {
  const listed = part.code.macros;
  if (listed && Object.hasOwn(listed, macro)) return BigInt(listed[macro] ?? 0);
  if (PLACE.test(macro)) {
    const field = macro.replace(PLACE, '');
    const bits = fieldOf(part, register, field) ?? fieldOf(part, register, `${field}0`);
    return bits && BigInt(bits.low);
  }
  const whole = fieldOf(part, register, macro.replace(MASK, ''));
  if (whole) return whole.mask;
  const [, field, bit] = /^(\w+)_(\d)$/.exec(macro) ?? [];
  if (field !== undefined && bit !== undefined) {
    const bits = fieldOf(part, register, field);
    if (bits) return (1n << BigInt(bits.low + Number(bit))) & bits.mask;
    const single = fieldOf(part, register, `${field}${bit}`);
    if (single) return single.mask;
  }
  return maskOfBits(part, register, macro.replace(MASK, '')) ?? divisionValue(part, register, macro);
}

/** The value of a macro with an argument, which puts it into a field: "PORT_PCR_MUX(4)"; undefined for a name that is none. */
export function macroCall(
  part: Part,
  register: Register | undefined,
  macro: string,
  value: bigint,
): bigint | undefined {
  if (/^(_BV|bit|BIT|_BITUL|_U_|UINT\d+_C|BV)$/i.test(macro)) {
    if (!/^(_U_|UINT)/i.test(macro)) return value < 64n && value >= 0n ? 1n << value : undefined;
    return value;
  }
  const bits = fieldOf(part, register, macro.replace(/_(?:VAL|VALUE|F|gf)$/, ''));
  return bits && (value << BigInt(bits.low)) & bits.mask;
}

/** Pins as numbers of their bits, as the headers of ports name them: PD3, DDB5, PORTB5 and PINB5, RC2 and TRISC2. */
const PIN_BIT = /^(?:P|DD|PORT|PIN|R|_?TRIS|_?LAT)([A-L])(\d)$/;

/** Registers of ports, whose bits are pins. */
const PORT = /^(?:DDR|PORT|PIN|TRIS|LAT|ANSEL)([A-L]?)$/;

/** The bit of a pin in a register of its port, where a name is a pin's. */
export function pinBit({ name }: Register, pin: string): number | undefined {
  const [, port] = PORT.exec(name) ?? [];
  const [, letter, bit] = PIN_BIT.exec(pin) ?? [];
  return port !== undefined && bit !== undefined && (port === '' || port === letter)
    ? Number(bit)
    : undefined;
}
