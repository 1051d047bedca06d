import { checkEdges, checkMeasured, checkWidth, type Check } from '../../src/check/check.ts';
import { exact, ratio } from '../../src/quantity/exact.ts';
import { bandAround, bandPpm, dutyBand } from '../../src/signal/band.ts';
import type { Requirement } from '../../src/signal/requirement.ts';
import { measure } from '../../src/wave/measure.ts';
import type { EdgeList } from '../../src/wave/edges.ts';

/** A pulse train from a rise at 0: `periods` whole periods and the rise that ends the last. */
function train(periodTicks: number, highTicks: number, periods: number): EdgeList {
  const edges = Array.from({ length: periods }, (_, at) => [
    at * periodTicks,
    at * periodTicks + highTicks,
  ]).flat();
  const to = periods * periodTicks;
  return { start: 0, edges: Float64Array.from([...edges, to]), from: 0, to: to + 1 };
}

const still = (level: 0 | 1): EdgeList => ({ start: level, edges: new Float64Array(0), from: 0, to: 5000 });

/** 1 kHz within 1000 ppm (999 to 1001 Hz), high for 24 to 26 % of the time. */
const WANTED: Requirement = {
  frequency: { kind: 'near', ...bandPpm(exact(1000), 1000) },
  duty: dutyBand(ratio(1, 4), 0.01, 'duty'),
  minSteps: 1,
  pin: true,
};

const MHZ = exact(1_000_000);

function checked(
  trace: EdgeList,
  {
    wanted = WANTED,
    ppm = 0,
    steps = 1,
    jitterS = 0,
    tickHz = MHZ,
  }: {
    wanted?: Requirement;
    ppm?: number;
    steps?: number;
    jitterS?: number;
    tickHz?: typeof MHZ;
  } = {},
): Record<string, Check> {
  const checks = checkEdges(trace, wanted, tickHz, ppm, steps, jitterS);
  return Object.fromEntries(checks.map((check) => [check.property, check]));
}

describe('the frequency of edges', () => {
  it('is told exactly, with the margin to the nearer limit', () => {
    expect(checked(train(1000, 250, 3))['frequency']).toEqual({
      property: 'frequency',
      unit: 'Hz',
      value: 1000,
      valueExact: '1000',
      low: 999,
      high: 1001,
      margin: 1,
      verdict: 'pass',
      periods: 3,
    });
    // 1 MHz / 1001 = 999.000999 Hz lies 0.000999 Hz above the lower limit; / 999 = 1001.001 Hz is out.
    expect(checked(train(1001, 250, 3))['frequency']).toMatchObject({
      margin: expect.closeTo(1_000_000 / 1001 - 999, 9) as number,
      verdict: 'pass',
    });
    expect(checked(train(999, 250, 3))['frequency']).toMatchObject({
      margin: expect.closeTo(1001 - 1_000_000 / 999, 9) as number,
      verdict: 'fail',
    });
  });

  it.each([
    [999_000, 'pass'],
    [1_001_000, 'pass'],
    [998_999, 'fail'],
    [1_001_001, 'fail'],
  ])('at %i Hz of the tick is a limit: %s', (tickHz, verdict) => {
    expect(checked(train(1000, 250, 2), { tickHz: exact(tickHz) })['frequency']?.verdict).toBe(verdict);
  });

  // The oscillator takes 1000 Hz x ppm off both sides: 1 Hz of room is used up at 1000 ppm.
  it.each([
    [0, 1, 'pass', undefined],
    [400, 0.6, 'pass', undefined],
    [1000, 0, 'pass', undefined],
    [
      1100,
      -0.1,
      'fail',
      'The divider is right, but with an oscillator off by 1100 ppm it may be 998.9 Hz … 1\u202f001.1 Hz.',
    ],
  ])('with an oscillator of ±%i ppm has a margin of %f Hz: %s', (ppm, margin, verdict, note) => {
    const { frequency } = checked(train(1000, 250, 3), { ppm });
    expect(frequency).toMatchObject({ margin: expect.closeTo(margin, 9) as number, verdict });
    expect(frequency?.note).toBe(note);
  });

  it('blames the divider alone where the value itself is out: no note of the oscillator', () => {
    for (const tickHz of [998_000, 1_002_000]) {
      const { frequency } = checked(train(1000, 250, 2), { ppm: 100, tickHz: exact(tickHz) });
      expect([frequency?.verdict, frequency?.note]).toEqual(['fail', undefined]);
    }
  });

  it.each([
    [999_000, true],
    [1_001_000, true],
  ])('a value at a limit (tick of %i Hz) is nominally right', (tickHz, told) => {
    const { frequency } = checked(train(1000, 250, 2), { ppm: 100, tickHz: exact(tickHz) });
    expect([frequency?.verdict, frequency?.note !== undefined]).toEqual(['fail', told]);
  });

  it('above a minimum has no upper limit', () => {
    const wanted: Requirement = { ...WANTED, frequency: { kind: 'within', low: exact(500) } };
    const { frequency } = checked(train(1000, 250, 3), { wanted, ppm: 1000 });
    expect(frequency).toMatchObject({ low: 500, margin: 499, verdict: 'pass' });
    expect(frequency).not.toHaveProperty('high');
    expect(checked(train(2002, 500, 3), { wanted })['frequency']).toMatchObject({ verdict: 'fail' });
    // 500 Hz within the drift: nominally right, and the note says so.
    expect(checked(train(2000, 500, 3), { wanted, ppm: 10 })['frequency']?.note).toContain(
      'The divider is right',
    );
  });

  it('between two limits has both', () => {
    const wanted: Requirement = {
      ...WANTED,
      frequency: { kind: 'within', low: exact(500), high: exact(1200) },
    };
    expect(checked(train(1000, 250, 3), { wanted })['frequency']).toMatchObject({ high: 1200, margin: 200 });
    expect(checked(train(800, 200, 3), { wanted })['frequency']).toMatchObject({
      margin: -50,
      verdict: 'fail',
    });
  });

  it('of a pin that stays where it is fails where the trace lasts, and is unknown where it does not', () => {
    expect(checked(still(1))['frequency']).toEqual({
      property: 'frequency',
      unit: 'Hz',
      low: 999,
      high: 1001,
      verdict: 'fail',
      note: 'The pin stays high: it has no frequency.',
    });
    expect(checked(still(0))['frequency']).toMatchObject({
      verdict: 'fail',
      note: 'The pin stays low: it has no frequency.',
    });
    const short = checkMeasured(measure(still(0)), WANTED, MHZ, {
      ...{ tolerancePpm: 0, steps: 1, jitterS: 0 },
      lasting: false,
    });
    expect(short[0]).toMatchObject({ property: 'frequency', verdict: 'unknown' });
  });

  it('of one edge is unknown, however long the trace', () => {
    const trace: EdgeList = { start: 0, edges: Float64Array.of(10), from: 0, to: 5000 };
    for (const property of ['frequency', 'duty']) {
      const check = checked(trace)[property];
      expect(check).toMatchObject({ verdict: 'unknown', note: 'The trace holds no whole period.' });
      expect(check).not.toHaveProperty('periods');
    }
  });
});

describe('the duty of edges', () => {
  it.each([
    [240, 0, 'pass'],
    [260, 0, 'pass'],
    [250, 0.01, 'pass'],
    [239, -0.001, 'fail'],
    [261, -0.001, 'fail'],
  ])('of %i in 1000 ticks against 24 to 26 %% has a margin of %f: %s', (high, margin, verdict) => {
    expect(checked(train(1000, high, 3))['duty']).toMatchObject({
      unit: 'fraction',
      value: high / 1000,
      low: 0.24,
      high: 0.26,
      margin: expect.closeTo(margin, 12) as number,
      verdict,
      periods: 3,
    });
  });

  it.each([
    [0, 250, '0 % asks for a pin that never changes; this one is high for 25 %.'],
    [1, 250, '100 % asks for a pin that never changes; this one is high for 25 %.'],
    [0.5, 250, undefined],
  ])('wanted as %f and seen as 25 %% fails', (ideal, high, note) => {
    const wanted: Requirement = { ...WANTED, duty: dutyBand(exact(ideal), 0.01, 'duty') };
    const { duty } = checked(train(1000, high, 3), { wanted });
    expect([duty?.verdict, duty?.note]).toEqual(['fail', note]);
  });

  it('wanted as 0 or 100 % is met by a pin that stays there, which then needs no frequency', () => {
    for (const level of [0, 1] as const) {
      const wanted: Requirement = { ...WANTED, duty: dutyBand(exact(level), 0.01, 'duty') };
      const met = checked(still(level), { wanted });
      expect(Object.keys(met)).toEqual(['duty']);
      expect(met['duty']).toMatchObject({ value: level, margin: 0, verdict: 'pass' });
      expect(met['duty']?.note).toBeUndefined();
      const missed = checked(still(level === 1 ? 0 : 1), { wanted });
      expect(missed['duty']?.verdict).toBe('fail');
    }
  });

  it('is not asked of a tick', () => {
    expect(Object.keys(checked(train(1000, 250, 3), { wanted: { ...WANTED, pin: false } }))).toEqual([
      'frequency',
    ]);
  });
});

describe('widths, volts, steps and jitter', () => {
  const wide: Requirement = { ...WANTED, width: bandAround(ratio(250, 1_000_000), exact(0.000005)) };

  it('a width is checked in place of the duty, in s', () => {
    const checks = checked(train(1000, 254, 3), { wanted: wide });
    expect(Object.keys(checks)).toEqual(['frequency', 'width']);
    expect(checks['width']).toMatchObject({
      unit: 's',
      value: 0.000254,
      low: 0.000245,
      high: 0.000255,
      margin: expect.closeTo(0.000001, 12) as number,
      verdict: 'pass',
      periods: 3,
    });
    expect(checked(train(1000, 256, 3), { wanted: wide })['width']?.verdict).toBe('fail');
    expect(checked(train(1000, 244, 3), { wanted: wide })['width']?.verdict).toBe('fail');
    expect(checked(still(1), { wanted: wide })['width']).toEqual({
      property: 'width',
      unit: 's',
      low: 0.000245,
      high: 0.000255,
      verdict: 'unknown',
      note: 'The trace holds no whole period.',
    });
  });

  it('a width that a setting makes may have a label', () => {
    const band = bandAround(exact(0.001), exact(0.0001));
    expect(checkWidth(exact(0.00095), band, { label: 'a one' })).toMatchObject({
      label: 'a one',
      property: 'width',
      verdict: 'pass',
    });
    expect(checkWidth(exact(0.0012), band)).not.toHaveProperty('label');
    expect(checkWidth(exact(0.0012), band)).toMatchObject({
      margin: expect.closeTo(-0.0001, 12) as number,
      verdict: 'fail',
    });
  });

  it('a mean voltage is the duty of the supply', () => {
    const wanted: Requirement = { ...WANTED, supply: exact(4) };
    expect(checked(train(1000, 255, 3), { wanted })['voltage']).toMatchObject({
      unit: 'V',
      value: 1.02,
      low: 0.96,
      high: 1.04,
      margin: expect.closeTo(0.02, 12) as number,
      verdict: 'pass',
    });
    expect(checked(train(1000, 230, 3), { wanted })['voltage']).toMatchObject({
      margin: expect.closeTo(-0.04, 12) as number,
      verdict: 'fail',
    });
    const one: EdgeList = { start: 0, edges: Float64Array.of(10), from: 0, to: 5000 };
    expect(checked(one, { wanted })['voltage']).toMatchObject({
      verdict: 'unknown',
      note: 'The trace holds no whole period.',
    });
    expect(checked(train(1000, 250, 3))).not.toHaveProperty('voltage');
  });

  it.each([
    [10, 10, 0, 'pass'],
    [9, 10, -1, 'fail'],
    [12, 10, 2, 'pass'],
  ])('%i steps of %i: a margin of %i', (steps, minSteps, margin, verdict) => {
    const checks = checked(train(1000, 250, 3), { wanted: { ...WANTED, minSteps }, steps });
    expect(checks['steps']).toEqual({
      property: 'steps',
      unit: 'count',
      value: steps,
      low: minSteps,
      margin,
      verdict,
    });
  });

  it('one step is not asked for, nor a jitter without a limit', () => {
    expect(Object.keys(checked(train(1000, 250, 3)))).toEqual(['frequency', 'duty']);
  });

  it.each([
    [0.00001, 0, 'pass'],
    [0.000011, -0.000001, 'fail'],
    [0.000002, 0.000008, 'pass'],
  ])('a jitter of %f s against 10 us: a margin of %f s', (jitterS, margin, verdict) => {
    const checks = checked(train(1000, 250, 3), { wanted: { ...WANTED, jitterS: 0.00001 }, jitterS });
    expect(checks['jitter']).toEqual({
      property: 'jitter',
      unit: 's',
      value: jitterS,
      high: 0.00001,
      margin: expect.closeTo(margin, 12) as number,
      verdict,
    });
  });
});

describe('a width on its worst oscillator', () => {
  const band = { ideal: exact('0.0015'), low: exact('0.001495'), high: exact('0.001505') };

  // 1.5 ms x 1,000 ppm = 1.5 us of the 5 us; x 5,000 ppm = 7.5 us.
  it('has that taken off its margin, and fails where it leaves the band', () => {
    const near = checkWidth(exact('0.0015'), band, { tolerancePpm: 1000 });
    expect([near.verdict, near.margin]).toEqual(['pass', expect.closeTo(3.5e-6, 12)]);
    const far = checkWidth(exact('0.0015'), band, { tolerancePpm: 5000 });
    expect([far.verdict, far.margin]).toEqual(['fail', expect.closeTo(-2.5e-6, 12)]);
    expect(far.note?.replaceAll('\u202f', ' ')).toBe(
      'Its counts are right, but within the oscillator’s 5000 ppm it is 1.492 5 ms … 1.507 5 ms.',
    );
  });
});
