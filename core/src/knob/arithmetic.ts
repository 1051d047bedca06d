import { PLAIN_TABLES, type Tables } from '../part/tables.ts';
import type { Knob } from './knob.ts';
import { highestReading } from './knob.ts';

/**
 * What the firmware computes from a reading, in whole numbers without a sign: first the reading behind its dead zones,
 * then a number between two ends, then, where the number is a frequency, the counts of a period.
 */
export type Arithmetic = {
  highest: number;
  deadLow: number;
  deadHigh: number;
  wide: 16 | 32;
  first: 'multiply' | 'divide';
  /** The number at both ends: a compare value, counts of a period, or a frequency in its unit. */
  low: number;
  high: number;
  /** Numbers at even distances of the reading, which a straight line joins; absent for a linear knob. */
  table?: { shift: number; numbers: number[] };
  /** Counts in a second times the frequency's unit, which the number divides; absent where it is not one. */
  dividend?: number;
};

/** Bits of the table's places. */
const TABLE_BITS = 5;

/** A quantity to be held in whole numbers, and how a knob runs through it. */
export function arithmeticOf(
  knob: Knob,
  ends: { low: number; high: number; at: (share: number) => number; dividend?: number },
): Arithmetic {
  const { curve = 'linear', deadLow = 0, deadHigh = 0, wide = 32, first = 'multiply' } = knob;
  const highest = highestReading(knob);
  const base = { highest, deadLow, deadHigh, wide, first, low: ends.low, high: ends.high };
  const shift = Math.max(0, knob.bits - TABLE_BITS);
  const places = 2 ** (knob.bits - shift);
  return {
    ...base,
    ...(ends.dividend === undefined ? {} : { dividend: ends.dividend }),
    ...(curve === 'linear'
      ? {}
      : {
          table: {
            shift,
            numbers: Array.from({ length: places + 1 }, (_, at) => Math.round(ends.at(at / places))),
          },
        }),
  };
}

/** What the arithmetic makes of one reading. */
export type Computed = {
  /** The number between the ends. */
  number: number;
  /** What is written: the number itself, or the counts of its period; absent where the division is by zero. */
  counts?: number;
  /** Whether a product did not fit into its bits. */
  overflow: boolean;
};

/** The reading between its dead zones, spread over all readings anew. */
function live(
  { highest, deadLow, deadHigh, wide }: Arithmetic,
  reading: number,
): { reading: number; overflow: boolean } {
  if (deadLow + deadHigh === 0) return { reading, overflow: false };
  const span = highest - deadLow - deadHigh;
  if (reading <= deadLow) return { reading: 0, overflow: false };
  if (reading >= highest - deadHigh || span <= 0) return { reading: highest, overflow: false };
  const product = (reading - deadLow) * highest;
  return { reading: Math.floor((product % 2 ** wide) / span), overflow: product >= 2 ** wide };
}

function scaled(own: Arithmetic, reading: number): { number: number; overflow: boolean } {
  const { low, high, highest, wide, first, table } = own;
  if (table) {
    const { shift, numbers } = table;
    const at = Math.floor(reading / 2 ** shift);
    const rest = reading % 2 ** shift;
    const [one = 0, next = 0] = [numbers[at], numbers[at + 1]];
    const product = Math.abs(next - one) * rest;
    const part = Math.floor((product % 2 ** wide) / 2 ** shift);
    return { number: next >= one ? one + part : one - part, overflow: product >= 2 ** wide };
  }
  const span = Math.abs(high - low);
  const product = first === 'multiply' ? reading * span : reading * Math.floor(span / highest);
  const kept = product % 2 ** wide;
  const part = first === 'multiply' ? Math.floor(kept / highest) : kept;
  return { number: high >= low ? low + part : low - part, overflow: product >= 2 ** wide };
}

/** What the firmware computes for a reading, bit by bit: truncation, and what a product loses that does not fit. */
export function computed(own: Arithmetic, reading: number): Computed {
  const input = live(own, reading);
  const { number: exactNumber, overflow } = scaled(own, input.reading);
  // A difference that goes below zero wraps as unsigned arithmetic does.
  const number = ((exactNumber % 2 ** 32) + 2 ** 32) % 2 ** 32;
  const lost = overflow || input.overflow;
  if (own.dividend === undefined) return { number, counts: number, overflow: lost };
  return number === 0
    ? { number, overflow: lost }
    : { number, counts: Math.floor(own.dividend / number), overflow: lost };
}

function table({ numbers }: NonNullable<Arithmetic['table']>): string {
  const lines: string[] = [];
  for (let at = 0; at < numbers.length; at += 8)
    lines.push(
      `        ${numbers
        .slice(at, at + 8)
        .map((one) => `${one}u`)
        .join(', ')},`,
    );
  return lines.join('\n');
}

/** A product of two numbers in the bits that the arithmetic has. */
function product(wide: 16 | 32, one: string, other: string): string {
  return `(uint${wide}_t)((uint32_t)${one} * ${other})`;
}

function liveLines({ highest, deadLow, deadHigh, wide }: Arithmetic): string[] {
  if (deadLow + deadHigh === 0) return [];
  const span = highest - deadLow - deadHigh;
  return [
    ...(deadLow > 0 ? [`    if (reading <= ${deadLow}u) reading = 0u;`] : []),
    `    ${deadLow > 0 ? 'else if' : 'if'} (reading >= ${highest - deadHigh}u) reading = ${highest}u;`,
    `    else reading = (uint16_t)(${product(wide, `(reading - ${deadLow}u)`, `${highest}u`)} / ${span}u);`,
  ];
}

function numberLines({ low, high, highest, wide, first, table: own }: Arithmetic, tables: Tables): string[] {
  const sign = high >= low ? '+' : '-';
  const span = Math.abs(high - low);
  if (own) {
    const mask = 2 ** own.shift - 1;
    return [
      `    static const uint32_t numbers[]${tables.mark} = {\n${table(own)}\n    };`,
      `    uint16_t at = (uint16_t)(reading >> ${own.shift});`,
      `    uint16_t rest = (uint16_t)(reading & ${mask}u);`,
      `    uint32_t one = ${tables.read(32, 'numbers[at]')}, next = ${tables.read(32, 'numbers[at + 1u]')};`,
      `    uint32_t number = next >= one ? one + (${product(wide, '(next - one)', 'rest')} >> ${own.shift})`,
      `                                  : one - (${product(wide, '(one - next)', 'rest')} >> ${own.shift});`,
    ];
  }
  const part =
    first === 'multiply'
      ? `${product(wide, 'reading', `${span}u`)} / ${highest}u`
      : product(wide, 'reading', `(${span}u / ${highest}u)`);
  return [`    uint32_t number = ${low}u ${sign} ${part};`];
}

/**
 * The same arithmetic as a function in C that computes what is written to the register; 0 stands for a division by zero. Compared
 * with `computed` for every reading in a test.
 */
export function knobFunction(name: string, own: Arithmetic, tables: Tables = PLAIN_TABLES): string {
  return [
    `static inline uint32_t ${name}(uint16_t reading)`,
    '{',
    ...liveLines(own),
    ...numberLines(own, tables),
    ...(own.dividend === undefined
      ? ['    return number;']
      : ['    if (number == 0u) return 0u;', `    return (uint32_t)(${own.dividend}ull / number);`]),
    '}',
    '',
  ].join('\n');
}
