import { wantedAt } from '../../src/knob/curve.ts';
import { highestReading, knobSchema, type Knob } from '../../src/knob/knob.ts';
import { nervousness } from '../../src/knob/noise.ts';
import { arithmeticOf, computed, type Arithmetic } from '../../src/knob/arithmetic.ts';

describe('a curve', () => {
  it('evenly: a quarter of the way from 100 to 300 is 150', () => {
    expect(wantedAt(100, 300, 'linear', 0.25)).toBe(150);
    expect(wantedAt(300, 100, 'linear', 0.25)).toBe(250);
  });

  it('by equal ratios: a quarter of the way from 100 to 1600 is 200', () => {
    expect([0, 0.25, 0.5, 1].map((share) => wantedAt(100, 1600, 'logarithmic', share))).toEqual([
      100,
      expect.closeTo(200, 9),
      expect.closeTo(400, 9),
      expect.closeTo(1600, 9),
    ]);
  });

  it('by equal ratios only where both ends are above zero', () => {
    expect(wantedAt(0, 100, 'logarithmic', 0.5)).toBe(50);
    expect(wantedAt(100, 0, 'logarithmic', 0.5)).toBe(50);
    expect(wantedAt(-10, 30, 'logarithmic', 0.5)).toBe(10);
  });

  it('by equal lightness: half as light is 18.4 % of the light', () => {
    // L* = 116 Y^(1/3) - 16: for 50, Y = (66 / 116)^3.
    expect(wantedAt(0, 1, 'lightness', 0.5)).toBeCloseTo((66 / 116) ** 3, 9);
    expect(wantedAt(0, 1, 'lightness', 1)).toBeCloseTo(1, 9);
    expect(wantedAt(0, 1, 'lightness', 0)).toBeCloseTo(0, 12);
    // Below L* = 8 it is a straight line: 4 is 4 / 903.3.
    expect(wantedAt(0, 1, 'lightness', 0.04)).toBeCloseTo(4 / 903.2963, 6);
  });

  it('by lightness of shares alone: beyond full light evenly', () => {
    expect(wantedAt(0, 2, 'lightness', 0.5)).toBe(1);
    expect(wantedAt(2, 0, 'lightness', 0.25)).toBe(1.5);
  });
});

describe('noise', () => {
  const readings = Array.from({ length: 16 }, (_, at) => at);
  const knob: Knob = { bits: 4, sets: 'duty', from: 0, to: 0.3, noise: 1 };
  /** Flat, but for a step of 0.1 between readings 7 and 8. */
  const step = readings.map((at) => (at < 8 ? 0.1 : 0.2));

  it('moves a duty by its share of the span, at the reading where it moves most', () => {
    const nervous = nervousness(knob, readings, step);
    expect(nervous).toMatchObject({ reading: 7, plain: expect.closeTo(0.1 / 0.3, 9) as number });
    expect(nervous?.averaged).toBeCloseTo(0.1 / 0.3, 9);
    expect(nervous?.steady).toBeCloseTo(0.1 / 0.3, 9);
  });

  it('of a period is a share of the period itself', () => {
    const nervous = nervousness({ ...knob, sets: 'period' }, readings, step);
    // At reading 7 it is 0.1 in 0.1; at 8 only 0.1 in 0.2.
    expect(nervous).toMatchObject({ reading: 7, plain: expect.closeTo(1, 9) as number });
  });

  it('of no counts, or of too few outputs, is nothing', () => {
    expect(nervousness({ ...knob, noise: 0 }, readings, step)).toBeUndefined();
    expect(nervousness({ bits: 4, sets: 'duty', from: 0, to: 1 }, readings, step)).toBeUndefined();
    expect(nervousness(knob, [0], [0.1])).toBeUndefined();
    expect(nervousness(knob, [0, 1], [0.1, 0.2])?.plain).toBeCloseTo(0.1 / 0.3, 9);
  });

  it('is halved by the mean of four, and held by a hysteresis of what is left', () => {
    const slope = readings.map((at) => at * 0.25);
    const own: Knob = { ...knob, to: 4, noise: 4, average: 4 };
    // Four counts to both sides of reading 4 are 8 x 0.25 of 4; their mean strays by two.
    expect(nervousness(own, readings, slope)).toMatchObject({
      reading: 4,
      plain: expect.closeTo(0.5, 9) as number,
      averaged: expect.closeTo(0.25, 9) as number,
      steady: expect.closeTo(0.25, 9) as number,
    });
    expect(nervousness({ ...own, hysteresis: 2 }, readings, slope)?.steady).toBe(0);
    expect(nervousness({ ...own, hysteresis: 1 }, readings, slope)?.steady).toBeCloseTo(0.25, 9);
  });

  it('is measured in readings that are some counts apart, and moves by one at least', () => {
    const apart = readings.map((at) => at * 8);
    const slope = readings.map((at) => at * 0.25);
    const own: Knob = { ...knob, to: 4, bits: 7 };
    expect(nervousness({ ...own, noise: 16 }, apart, slope)).toMatchObject({
      reading: 16,
      plain: expect.closeTo(0.25, 9) as number,
    });
    expect(nervousness({ ...own, noise: 1 }, apart, slope)?.plain).toBeCloseTo(0.125, 9);
  });

  it('leaves out readings without an output', () => {
    const gaps = step.map((value, at) => (at === 7 ? undefined : value));
    expect(nervousness(knob, readings, gaps)).toMatchObject({ reading: 0, plain: 0 });
  });
});

describe('whole numbers', () => {
  const between = (knob: Partial<Knob>, low: number, high: number): Arithmetic => {
    const whole: Knob = { bits: 10, sets: 'duty', from: 0, to: 1, ...knob };
    return arithmeticOf(whole, { low, high, at: (share) => low + (high - low) * share });
  };

  it('a dead zone includes its last reading', () => {
    const own = between({ deadLow: 100, deadHigh: 100 }, 0, 1000);
    // (101 - 100) x 1023 / 823 is 1: 1 x 1000 / 1023 is 0; (102 - 100) x 1023 / 823 is 2, which is 1.
    expect([99, 100, 102].map((reading) => computed(own, reading).number)).toEqual([0, 0, 1]);
    expect([922, 923, 924].map((reading) => computed(own, reading).number)).toEqual([998, 1000, 1000]);
    for (const reading of [0, 100, 500, 923, 1023]) expect(computed(own, reading).overflow).toBe(false);
  });

  it('dead zones that meet leave two values', () => {
    const own = between({ deadLow: 512, deadHigh: 511 }, 0, 1000);
    expect([512, 513].map((reading) => computed(own, reading).number)).toEqual([0, 1000]);
  });

  it('a dead zone in 16 bits overflows where its product does: 64 x 1023 is 65472, 65 x 1023 too much', () => {
    const own = between({ wide: 16, deadLow: 20 }, 0, 63);
    expect(computed(own, 84).overflow).toBe(false);
    expect(computed(own, 85).overflow).toBe(true);
  });
});

describe('the shape of a knob', () => {
  const knob = { bits: 10, sets: 'duty', from: 0, to: 1 };
  const fault = (own: object): string | undefined =>
    knobSchema().validate(own, { convert: false }).error?.message;

  it('takes a whole one', () => {
    const all = {
      ...knob,
      curve: 'lightness',
      deadLow: 0,
      deadHigh: 65_535,
      wide: 16,
      first: 'divide',
      noise: 3,
      average: 64,
      hysteresis: 2,
      display: { unit: 'rpm', from: 0, to: 3000 },
    };
    expect(fault(knob)).toBeUndefined();
    expect(fault(all)).toBeUndefined();
    expect(highestReading({ bits: 12 })).toBe(4095);
  });

  it.each([
    [{ bits: undefined }, 'bits of a knob'],
    [{ bits: 0 }, 'bits of a knob'],
    [{ bits: 17 }, 'bits of a knob'],
    [{ bits: 10.5 }, 'bits of a knob'],
    [{ sets: undefined }, 'sets'],
    [{ sets: 'colour' }, 'sets'],
    [{ from: undefined }, 'low end of a knob'],
    [{ from: -1 }, 'low end of a knob'],
    [{ to: undefined }, 'high end of a knob'],
    [{ to: 0 }, 'high end of a knob'],
    [{ to: 1e13 }, 'high end of a knob'],
    [{ curve: 'wild' }, 'curve'],
    [{ deadLow: -1 }, 'dead zone of a knob'],
    [{ deadHigh: 65_536 }, 'dead zone of a knob'],
    [{ deadHigh: 1.5 }, 'dead zone of a knob'],
    [{ wide: 24 }, 'wide'],
    [{ first: 'add' }, 'first'],
    [{ noise: 0.5 }, 'noise of a knob'],
    [{ average: 3 }, 'averaged readings of a knob'],
    [{ hysteresis: -1 }, 'hysteresis of a knob'],
    [{ display: { unit: 'V', from: 0 } }, 'display.to'],
    [{ display: { unit: 'V', to: 1 } }, 'display.from'],
    [{ display: { from: 0, to: 1 } }, 'display.unit'],
    [{ display: { unit: 'furlong', from: 0, to: 1 } }, 'display.unit'],
    [{ colour: 'red' }, 'colour'],
  ])('refuses %j', (wrong, key) => {
    expect(fault({ ...knob, ...wrong })).toContain(`"${key}"`);
  });
});
