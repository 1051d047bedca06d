import { readStores } from '../../src/decode/statements.ts';
import { partById } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';

const avr = partById('atmega328p') as Part;

function value(text: string, register: string): number | undefined {
  return readStores(avr, text).values.get(register);
}

it.each([
  ['ICR1 = 4000; ICR1-=1;', 'ICR1', 3999],
  ['OCR1A = 1000; OCR1A >>= 1;', 'OCR1A', 500],
  ['OCR1A = 3; OCR1A <<= 2;', 'OCR1A', 12],
  ['TCNT1 = 5; TCNT1--; TCNT1 --;', 'TCNT1', 3],
  ['TCNT1 = 5; ++TCNT1; TCNT1++;', 'TCNT1', 7],
  ['TCNT1 = 0; --TCNT1;', 'TCNT1', 65535],
  ['OCR0A = 200; OCR0A /= 3;', 'OCR0A', 66],
  ['OCR0A = 200; OCR0A %= 7;', 'OCR0A', 4],
  ['OCR0A = 16; OCR0A *= 16;', 'OCR0A', 0],
  ['OCR0A = 017; /* octal */', 'OCR0A', 15],
  ['OCR0A = 1; // OCR0A = 2;', 'OCR0A', 1],
  ['OCR0A /* a */ = /* b */ 9;', 'OCR0A', 9],
])('computes what C computes: %s', (text, register, wanted) => {
  expect(value(text, register)).toBe(wanted);
});

it('reads no comparison as a store', () => {
  expect(readStores(avr, 'x = TCNT1 == 5; TCNT1 == 5;').stores).toEqual([]);
});

it.each([
  ['OCR0A = 089;', /begins with 0, so it is octal/],
  ['OCR0A = 5; OCR0A /= 0;', /division by zero/],
  [`OCR0A = ${'65535 * '.repeat(20)}1;`, /grows far beyond any register/],
  ['OCR0A = 0x;', /was not expected there/],
])('leaves out with a sentence: %s', (text, sentence) => {
  expect(readStores(avr, text).skipped.map(({ why }) => why)).toEqual([expect.stringMatching(sentence)]);
});

it('passes over long texts without stopping', () => {
  for (const text of ['/'.repeat(150_000), ' '.repeat(150_000), 'a->'.repeat(50_000), '/*'.repeat(70_000)]) {
    expect(readStores(avr, text).stores).toEqual([]);
  }
});
