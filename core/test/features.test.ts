import { PARTS } from '../src/part/catalogue.ts';
import { answers, featuresOf } from '../src/part/features.ts';

function found(query: string): string[] {
  return PARTS.filter((part) => answers({ ...part, features: featuresOf(part) }, query)).map(
    (part) => part.id,
  );
}

it.each([
  ['32-bit timer', ['stm32f401', 'bcm2835']],
  ['fractional divider', ['rp2040', 'esp32', 'bcm2835']],
  ['16 channels', ['atmega2560', 'rp2040']],
  ['phase-correct 8-bit', ['atmega328p', 'atmega2560']],
  ['postscaler', ['pic16f684', 'pic18f4620']],
  ['PIC18', ['pic18f4620']],
  ['ATTINY', ['attiny85']],
  ['warp drive', []],
  ['', PARTS.map((part) => part.id)],
])('%s finds %j', (query, ids) => {
  expect(expect.arrayContaining(ids)).toEqual(found(query));
  if (ids.length === 0 || query === '') expect(found(query)).toEqual(ids);
});
