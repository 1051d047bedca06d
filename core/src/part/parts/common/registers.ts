import type { Register } from '../../types.ts';

/** Fields of a register by name, as [most, least] significant bit. */
export type Fields = Register['fields'];

/** A field of some bits from `least` up. */
export function field(min: number, bits = 1): readonly [number, number] {
  return [min + bits - 1, min];
}

/** A register that resets to zero, of 32 bits unless stated otherwise. */
export function register(name: string, address: number, fields: Fields = {}, width = 32): Register {
  return { name, address, width, reset: 0, fields };
}

/** A register whose zeros do nothing when written. */
export function strobe(name: string, address: number, fields: Fields = {}, width = 32): Register {
  return { ...register(name, address, fields, width), strobe: true };
}

/** Fields of one bit each, from bit 0 up; a gap is a dash. */
export function bits(names: string): Fields {
  const entries = names.split(' ').map((name, bit) => [name, field(bit)] as const);
  return Object.fromEntries(entries.filter(([name]) => name !== '-'));
}

/** Fields of one bit each by a common name and the number of the bit. */
export function numbered(name: string, list: readonly number[], from = 0): Fields {
  return Object.fromEntries(list.map((bit) => [`${name}${bit}`, field(from + bit)]));
}
