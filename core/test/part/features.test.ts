import { PARTS } from '../helpers/parts.ts';
import { answers, featuresOf } from '../../src/part/features.ts';

function found(query: string): string[] {
  return PARTS.filter((part) => answers({ ...part, features: featuresOf(part) }, query)).map(
    (part) => part.id,
  );
}

it.each([
  ['32-bit timer', ['stm32f401', 'samd21g18', 'rp2040', 'bcm2835', 'am3358', 'mk20dx256']],
  ['fractional divider', ['rp2040', 'esp32', 'bcm2835']],
  ['16 channels', ['atmega2560', 'rp2040', 'esp32']],
  ['6 channels', ['atmega328p']],
  ['24 channels, 9 timers', ['stm32f401']],
  ['14 channels', ['samd21g18']],
  ['13 channels', ['am3358']],
  ['phase-correct 8-bit timer', ['atmega328p', 'atmega2560', 'attiny85']],
  ['postscaler', ['pic16f684', 'pic16f18875', 'pic18f4620', 'am3358']],
  ['overflow timer', ['pic16f684', 'pic16f18875', 'pic18f4620']],
  ['PIC18', ['pic18f4620']],
  ['ATTINY', ['attiny85']],
  ['warp drive', []],
  ['', PARTS.map((part) => part.id)],
])('%s finds %j and no other', (query, ids) => {
  expect(found(query)).toEqual(ids);
});

it('counts what is there in hardware once, however many ways there are to use it', () => {
  const esp32 = PARTS.find((part) => part.id === 'esp32');
  expect(esp32 && featuresOf(esp32)).toEqual(expect.arrayContaining(['12 timers', '16 channels']));
});
