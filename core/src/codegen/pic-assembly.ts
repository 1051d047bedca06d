import type { Assembly } from '../part/types.ts';

type Family = Assembly['family'];

/** Where each family has its status register. */
const STATUS = { pic14: 0x03, pic14e: 0x03, pic18: 0xfd8 } as const;

/** A byte as the assembler writes it. */
export function hexByte(value: number): string {
  return `0x${value.toString(16).toUpperCase().padStart(2, '0')}`;
}

/** What an instruction on a register of the 16-bit family ends with: its registers are in the access bank. */
export function accessOf(family: Family): string {
  return family === 'pic18' ? ', ACCESS' : '';
}

/** The bank that an address is in; the 16-bit family needs none for its registers. */
export function bankOf(family: Family, address: number): number {
  return family === 'pic18' ? 0 : Math.floor(address / 0x80);
}

/** Instructions that select a bank: two bits of the status register, a register of its own, or none. */
export function bankLines(family: Family, bank: number): string[] {
  if (family === 'pic18') return [];
  if (family === 'pic14e') return [`movlb ${hexByte(bank)}`];
  return [
    `${bank % 2 === 1 ? 'bsf' : 'bcf'} STATUS, 5`,
    `${Math.floor(bank / 2) % 2 === 1 ? 'bsf' : 'bcf'} STATUS, 6`,
  ];
}

/** Definitions that the instructions take: where results go, and registers by address. */
export function definitionLines(
  { family, device }: Assembly,
  registers: readonly { name: string; address: number }[],
): string[] {
  const hex = (value: number): string => `0x${value.toString(16).toUpperCase()}`;
  return [
    `        list p=${device}`,
    // Addresses are whole; the bank is selected before each access.
    ...(family === 'pic18' ? [] : ['        errorlevel -302']),
    'W          equ 0',
    'F          equ 1',
    ...(family === 'pic18' ? ['ACCESS     equ 0'] : []),
    `STATUS     equ ${hex(STATUS[family])}`,
    ...registers.map(({ name, address }) => `${name.padEnd(10)} equ ${hex(address)}`),
  ];
}
