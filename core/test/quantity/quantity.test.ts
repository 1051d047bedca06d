import fc from 'fast-check';
import { ceilOf, exact, exactText, floorOf, ratio } from '../../src/quantity/exact.ts';
import { nearestNote, noteHz, readNote } from '../../src/quantity/note.ts';
import {
  binary,
  hex,
  printCount,
  printHz,
  printNumber,
  printPpm,
  printSeconds,
} from '../../src/quantity/print.ts';
import { parseQuantity } from '../../src/quantity/parse.ts';
import type { Dimension } from '../../src/quantity/quantity.ts';
import type { Scale } from '../../src/quantity/scaled.ts';

const plain = (text: string): string => text.replace(/\u202f/g, ' ');

function value(text: string, dimension: Dimension): string {
  const reading = parseQuantity(text, dimension);
  return reading.ok ? exactText(reading.value.value) : `error: ${reading.fault.sentence}`;
}

describe('exact numbers', () => {
  it.each([
    [0.1, '1/10'],
    ['1.5e-3', '3/2000'],
    ['16000000/15999', '16000000/15999'],
    [1e21, '1000000000000000000000'],
    ['-.5', '-1/2'],
  ])('%s is %s', (given, expected) => {
    expect(exactText(exact(given))).toBe(expected);
  });

  it.each(['', 'NaN', 'Infinity', '1/0', '1e', '0x10', '1.2.3'])('refuses %j', (text) => {
    expect(() => exact(text)).toThrow(RangeError);
  });

  it('reads back what it prints, and holds floor and ceiling', () => {
    fc.assert(
      fc.property(fc.maxSafeNat(), fc.integer({ min: 1, max: 1e9 }), (n, d) => {
        const given = ratio(n, d);
        expect(exact(exactText(given)).equals(given)).toBe(true);
        expect(BigInt(floorOf(given))).toBe(BigInt(n) / BigInt(d));
        expect(BigInt(ceilOf(given))).toBe((BigInt(n) + BigInt(d) - 1n) / BigInt(d));
      }),
    );
  });

  it('takes any finite number as the decimal that prints it', () => {
    fc.assert(
      fc.property(fc.double({ noNaN: true, noDefaultInfinity: true }), (number) => {
        expect(exact(number).valueOf()).toBeCloseTo(
          number,
          12 - Math.max(0, Math.ceil(Math.log10(Math.abs(number) || 1))),
        );
      }),
    );
  });
});

describe('reading quantities', () => {
  it.each([
    ['2 kHz', '2000'],
    ['2k', '2000'],
    ['1.5 ms', '2000/3'],
    ['1,5 ms', '2000/3'],
    ['300 rpm', '5'],
    ['A4', '440'],
    ['a5', '880'],
    ['16 000 000', '16000000'],
    ['15/1024', '15/1024'],
    ['2s', '1/2'],
    ['4 µs', '250000'],
    ['1 min', '1/60'],
    ['16 MHz', '16000000'],
  ])('frequency %s is %s Hz', (text, expected) => {
    expect(value(text, 'frequency')).toBe(expected);
  });

  it.each([
    ['10 %', 'duty', '1/10'],
    ['10', 'duty', '1/10'],
    ['0.1', 'duty', '1/1000'],
    ['15/1024', 'duty', '15/1024'],
    ['0.2 %', 'tolerance', '2000'],
    ['300 ppm', 'tolerance', '300'],
    ['10 bit', 'steps', '1024'],
    ['1000', 'steps', '1000'],
    ['20 µs', 'time', '1/50000'],
  ] as const)('%s as %s is %s', (text, dimension, expected) => {
    expect(value(text, dimension)).toBe(expected);
  });

  it('takes 5 cents as 2892.2 ppm and remembers the cents', () => {
    const reading = parseQuantity('5 c', 'tolerance');
    expect(reading).toMatchObject({ ok: true, value: { said: 'cents', spoken: 5 } });
    expect(reading.ok && reading.value.value.valueOf()).toBeCloseTo((2 ** (5 / 1200) - 1) * 1e6, 6);
  });

  it.each([
    ['', 'frequency'],
    ['-5 Hz', 'frequency'],
    ['0', 'frequency'],
    ['NaN', 'frequency'],
    ['3 bananas', 'frequency'],
    ['120 %', 'duty'],
    ['1.5', 'steps'],
    ['-1 %', 'tolerance'],
    ['33 bit', 'steps'],
  ] as const)('refuses %j as %s with a sentence', (text, dimension) => {
    const reading = parseQuantity(text, dimension);
    expect(reading.ok).toBe(false);
    expect(!reading.ok && reading.fault.sentence).toMatch(/^[A-Z“].*\.$/);
  });

  it('never throws, whatever is typed', () => {
    fc.assert(
      fc.property(
        fc.string(),
        fc.constantFrom<Dimension>('frequency', 'duty', 'tolerance', 'steps', 'time'),
        (text, dimension) => {
          const reading = parseQuantity(text, dimension);
          return typeof reading.ok === 'boolean';
        },
      ),
    );
  });
});

describe('notes', () => {
  it('knows the equal temperament', () => {
    expect(noteHz(60)).toBeCloseTo(261.625565, 6);
    expect(readNote('C#5')?.semitone).toBe(73);
    expect(readNote('Bb3')?.semitone).toBe(58);
    expect(readNote('A4 +12 c')?.hz).toBeCloseTo(443.0604, 3);
    expect(readNote('H4')).toBeUndefined();
  });

  it('finds the nearest note of any frequency', () => {
    expect(nearestNote(441).name).toBe('A4');
    expect(nearestNote(441).cents).toBeCloseTo(3.93, 2);
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 127 }),
        fc.double({ min: -49, max: 49, noNaN: true }),
        (semitone, cents) => {
          const found = nearestNote(noteHz(semitone, cents));
          expect(readNote(found.name)?.semitone).toBe(semitone);
          expect(found.cents).toBeCloseTo(cents, 6);
        },
      ),
    );
  });
});

describe('printing', () => {
  it('groups, rounds and picks units', () => {
    expect(plain(printNumber(15999))).toBe('15 999');
    expect(plain(printNumber(0.9765625, 7))).toBe('0.976 562 5');
    expect(plain(printNumber(-62.5))).toBe('−62.5');
    expect(printHz(440)).toBe('440 Hz');
    expect(printHz(0.5)).toBe('0.5 Hz');
    expect(printHz(15625)).toBe('15.625 kHz');
    expect(printSeconds(62.5e-9)).toBe('62.5 ns');
    expect(printSeconds(2)).toBe('2 s');
    expect(printPpm(0)).toBe('exact');
    expect(printPpm(-23437.5)).toBe('−2.344 %');
    expect(hex(15999, 16)).toBe('0x3E7F');
    expect(binary(249, 8)).toBe('1111 1001');
  });
});

describe('what is measured against something', () => {
  const scale = {
    countS: 2e-6,
    dutyCounts: 217,
    window: { low: exact('0.0009'), high: exact('0.0021'), degrees: 180 },
  };
  const against = (text: string, dimension: Dimension, measure: Scale = scale): string => {
    const reading = parseQuantity(text, dimension, measure);
    return reading.ok ? reading.value.value.toFraction() : reading.fault.sentence;
  };

  it.each<[string, Dimension, string]>([
    // 217 counts of 2 µs are 434 µs, 500000/217 Hz.
    ['217 counts', 'frequency', '500000/217'],
    ['1 count', 'time', '1/500000'],
    ['108 counts', 'duty', '108/217'],
    ['218 counts', 'duty', 'A period has 217 counts; “218” are more than that.'],
    ['0 counts', 'frequency', 'At least one count is needed.'],
    ['1.5 counts', 'time', 'Counts are whole numbers; “1.5” is not a whole number.'],
    // 0.9 ms + 90/180 x 1.2 ms.
    ['90°', 'time', '3/2000'],
    ['45 deg', 'time', '3/2500'],
    ['181°', 'time', 'The window covers 0 to 180 degrees; “181” lies outside.'],
    ['1.2 V of 3.3 V', 'duty', '4/11'],
    ['500 mV of 5V', 'duty', '1/10'],
    ['4 V of 3.3 V', 'duty', 'A level lies between 0 and its supply; “4 V of 3.3 V” does not.'],
    ['15/1024', 'duty', '15/1024'],
  ])('%s as a %s is %s', (text, dimension, wanted) => {
    expect(against(text, dimension)).toBe(wanted);
  });

  it('is refused in a sentence where there is nothing to measure against', () => {
    expect(against('90°', 'time', {})).toContain('need a window');
    expect(against('12 counts', 'frequency', {})).toContain('need a setting');
  });
});

it.each([
  [1, '1'],
  [73_281, '73 281'],
  [999_999, '999 999'],
  [1_250_000, '1.25 million'],
  [719_538_415, '720 million'],
])('%d of something are %s', (count, text) => {
  expect(printCount(count).replace(/[\u00a0\u202f]/g, ' ')).toBe(text);
});
