import fc from 'fast-check';
import type { PlanSignal } from '../../src/plan/plan.ts';
import {
  deviations,
  lineThrough,
  readRange,
  seenAt,
  setFor,
  type Readings,
} from '../../src/readings/readings.ts';
import { editToken, tokenSeen } from '../../src/signal/edit.ts';
import { parseReadings } from '../../src/readings/table.ts';

/** A servo whose ends were found at 0.62 and 2.31 ms. */
const SERVO: Readings = {
  of: 'width',
  unit: '°',
  points: [
    { set: 0.00062, seen: 0, note: 'buzzes below' },
    { set: 0.00231, seen: 180 },
  ],
};

/** A dimmer that is dark below 14 % and full from 86 % on. */
const DIMMER: Readings = {
  of: 'duty',
  unit: '%',
  points: [
    { set: 0.14, seen: 0 },
    { set: 0.86, seen: 100 },
  ],
  outside: 'refuse',
};

const SUPPLY: Readings = { of: 'duty', unit: 'V', points: [{ set: 1, seen: 4.87 }] };

describe('readings', () => {
  it('90° of a servo from 0.62 to 2.31 ms are 1.465 ms; 200° are clamped to its end', () => {
    const middle = setFor(SERVO, 90);
    expect(middle.ok && middle.value.set).toBeCloseTo(0.001465, 9);
    const beyond = setFor(SERVO, 200);
    expect(beyond.ok && beyond.value).toEqual({ set: 0.00231, seen: 180, held: true });
  });

  it('half of a dimmer usable from 14 to 86 % is 50 %; what is outside is refused in a sentence', () => {
    const half = setFor(DIMMER, 50);
    expect(half.ok && half.value.set).toBeCloseTo(0.5, 12);
    const beyond = setFor(DIMMER, 120);
    expect(!beyond.ok && beyond.fault.sentence).toMatch(
      /outside of what was read: 0.% to 100.%, set by 14.% to 86.%/,
    );
  });

  it('a supply measured at 4.87 V: 1.8 V are a duty of 1.8 / 4.87', () => {
    const volts = setFor(SUPPLY, 1.8);
    expect(volts.ok && volts.value.set).toBeCloseTo(1.8 / 4.87, 12);
    expect(readRange(SUPPLY)).toEqual({ low: 0, high: 1 });
  });

  it('the line of least squares through 1/1, 2/3, 3/2 is 1 + x / 2, and 1/1 is half a unit below it', () => {
    const points = [
      [1, 1],
      [2, 3],
      [3, 2],
    ].map(([set = 0, seen = 0]) => ({ set, seen }));
    expect(lineThrough(points)).toEqual({ offset: 1, slope: 0.5 });
    expect(deviations({ of: 'duty', unit: 'V', points })).toEqual({ each: [-0.5, 1, -0.5], greatest: 1 });
  });

  it('that go up and down are refused from point to point, and answered by the line', () => {
    const points = [
      [0.1, 1],
      [0.2, 3],
      [0.3, 2],
      [0.4, 5],
    ].map(([set = 0, seen = 0]) => ({ set, seen }));
    const both: Readings = { of: 'duty', unit: 'V', points };
    expect(setFor(both, 2.5).ok).toBe(false);
    expect(setFor({ ...both, by: 'line' }, 2.5).ok).toBe(true);
  });

  it('there and back again gives the value one began with, rising or falling', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 1, max: 1000 }), { minLength: 2, maxLength: 12 }),
        fc.boolean(),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (sets, falling, share) => {
          const rows = sets
            .sort((one, other) => one - other)
            .map((set, at) => ({ set: set / 1000, seen: (falling ? -1 : 1) * (at + set / 100) }));
          const readings: Readings = { of: 'duty', unit: 'V', points: rows };
          const { low, high } = readRange(readings);
          const set = low + share * (high - low);
          const back = setFor(readings, seenAt(readings, set));
          expect(back.ok && back.value.set).toBeCloseTo(set, 9);
        },
      ),
    );
  });
});

describe('a table from a spreadsheet', () => {
  it('is read with its heading, commas as decimal signs, units or none, and notes', () => {
    const text = 'width\tangle\tnote\r\n0,62 ms\t0\tbuzzes below\r\n1.465 ms\t90°\t\n2.31 ms\t180\tstop';
    const read = parseReadings(text, 'width', '°');
    expect(read.ok && read.value.map(({ seen, note }) => [seen, note])).toEqual([
      [0, 'buzzes below'],
      [90, undefined],
      [180, 'stop'],
    ]);
    expect(read.ok && read.value[0]?.set).toBeCloseTo(0.00062, 12);
  });

  it.each([
    ['14 %;0\n86 %;full', 'Line 2: “full” is not a number; enter what was seen in V.'],
    ['14 %;0\n14 %;1', 'Line 2: “14 %” is there twice.'],
    ['duty;volts', 'No line holds a reading; a line is a set value and what was seen.'],
  ])('says in which line it is wrong: %j', (text, sentence) => {
    const read = parseReadings(text, 'duty', 'V');
    expect(!read.ok && read.fault.sentence).toBe(sentence);
  });

  it('never throws', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), (text) => {
        expect(typeof parseReadings(text, 'frequency', 'V').ok).toBe('boolean');
      }),
      { numRuns: 2000 },
    );
  });
});

describe('a sentence understands the unit of the readings', () => {
  const shutter: PlanSignal = {
    ...{
      id: 'hatch',
      name: 'Hatch',
      kind: 'pulse',
      target: { frameHz: 50, widthS: 0.0015, minS: 0.0006, maxS: 0.0024 },
    },
    readings: SERVO,
  };

  it('45° of a servo from 0.62 to 2.31 ms are 1.0425 ms, and 1.465 ms are 90°', () => {
    for (const text of ['45°', '45 deg', '45 degrees']) {
      const edit = editToken(shutter, 'width', text);
      expect(edit.ok && edit.value.kind === 'pulse' && edit.value.target.widthS).toBe(0.0010425);
    }
    expect(tokenSeen(shutter, 'width', 0.001465)).toBe('90°');
    expect(tokenSeen(shutter, 'minS', 0.001465)).toBeUndefined();
  });

  it('1.8 V of a supply measured at 4.87 V are 36.96 %; a percent stays one, and what is outside is refused', () => {
    const lamp: PlanSignal = {
      ...{ id: 'lamp', name: 'Lamp', kind: 'dim', target: { minHz: 300, minSteps: 100, duty: 0.5 } },
      readings: { ...SUPPLY, outside: 'refuse' },
    };
    const edit = editToken(lamp, 'duty', '1.8 V');
    expect(edit.ok && edit.value.kind === 'dim' && Number(edit.value.target.duty)).toBeCloseTo(1.8 / 4.87, 8);
    const plain = editToken(lamp, 'duty', '40 %');
    expect(plain.ok && plain.value.kind === 'dim' && plain.value.target.duty).toBe(0.4);
    const high = editToken(lamp, 'duty', '6 V');
    expect(!high.ok && high.fault.sentence).toMatch(/^6.V is outside of what was read: 0.V to 4\.87.V/);
  });
});
