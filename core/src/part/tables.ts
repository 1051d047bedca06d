import type { Dialect } from './types.ts';

/** How C keeps a table that never changes, and reads an entry of it. */
export type Tables = {
  /** What stands behind the name of the table. */
  mark: string;
  /** An entry, or a member of one, of so many bits, as an expression without a sign. */
  read: (bits: number, place: string) => string;
  /** The header that this takes. */
  header?: string;
};

/** Where constants can be read as they are, wherever the compiler puts them. */
export const PLAIN_TABLES: Tables = { mark: '', read: (_, place) => place };

const WIDTHS: Readonly<Record<number, string>> = { 8: 'byte', 16: 'word', 32: 'dword' };

/** How a part's compiler keeps tables: the AVR library's copies constants to RAM unless they are marked and read by its own macros. */
export function tablesOf({ tables }: Dialect): Tables {
  if (tables !== 'pgmspace') return PLAIN_TABLES;
  return {
    mark: ' PROGMEM',
    read: (bits, place) => `pgm_read_${WIDTHS[bits] ?? 'dword'}(&${place})`,
    header: '<avr/pgmspace.h>',
  };
}
