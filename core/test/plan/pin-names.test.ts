import fc from 'fast-check';
import { pinName, readPinNames, writePinNames } from '../../src/plan/pin-names.ts';
import { atmega328p as part } from '../../src/part/parts/avr/atmega328p.ts';

it.each([
  ['PB1 = D9\nPB2=D10', { PB1: 'D9', PB2: 'D10' }],
  ['# my board\n\nPD3, header pin 12\r\nPB3\tD11', { PD3: 'header pin 12', PB3: 'D11' }],
  ['D9: PB1', { PB1: 'D9' }],
  ['', {}],
])('reads %j', (text, names) => {
  expect(readPinNames(text, part)).toEqual({ ok: true, value: names });
});

it.each([
  ['PB1 = D9\nPQ7 = D10', 'Line 2: “PQ7 = D10” names no pin of ATmega328P.'],
  ['PB1', 'Line 1: “PB1” names no pin of ATmega328P.'],
  ['PB1 = a\nPB1 = b', 'Line 2: PB1 already has a name, a.'],
  [`PB1 = ${'x'.repeat(41)}`, 'Line 1: a name has 40 characters at most.'],
])('refuses %j with its line', (text, error) => {
  expect(readPinNames(text, part)).toEqual({ ok: false, fault: { path: '', sentence: error } });
});

it('reads back what it writes, whatever the names', () => {
  const word = fc.stringMatching(/^[A-Za-z0-9][A-Za-z0-9 ./-]{0,18}[A-Za-z0-9]$/);
  const pin = fc.constantFrom(...part.pins.map((one) => one.id));
  fc.assert(
    fc.property(fc.dictionary(pin, word), (names) => {
      fc.pre(Object.values(names).every((name) => !part.pins.some((one) => one.id === name)));
      expect(readPinNames(writePinNames(names), part)).toEqual({ ok: true, value: { ...names } });
    }),
  );
});

it('says both names', () => {
  expect(pinName({ pinNames: { PB1: 'D9' } }, 'PB1')).toBe('PB1 (D9)');
  expect(pinName({}, 'PB1')).toBe('PB1');
});
