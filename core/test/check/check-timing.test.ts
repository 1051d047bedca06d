import { checkInput } from '../../src/check/check-input.ts';
import { checkFirstEdge, checkPhase, checkPulses } from '../../src/check/check-timing.ts';
import { exact, ratio } from '../../src/quantity/exact.ts';

describe('pulses', () => {
  it.each([
    [3, { low: 3, high: 3 }, 0, 'pass'],
    [4, { low: 3, high: 3 }, -1, 'fail'],
    [2, { low: 3, high: 3 }, -1, 'fail'],
    [5, { low: 3, high: 9 }, 2, 'pass'],
  ])('%i against %j: a margin of %i', (count, limits, margin, verdict) => {
    expect(checkPulses(count, limits)).toEqual({
      property: 'pulses',
      unit: 'count',
      value: count,
      ...limits,
      margin,
      verdict,
    });
  });
});

describe('the first edge', () => {
  it.each([
    [0.002, 0.003, 0.001, 'pass', undefined],
    [0.003, 0.003, 0, 'pass', undefined],
    [0.004, 0.003, -0.001, 'fail', 'The first edge comes 4 ms after the start.'],
  ])('after %f s, wanted within %f s', (firstS, maxS, margin, verdict, note) => {
    const check = checkFirstEdge(firstS, maxS);
    expect(check).toMatchObject({
      property: 'first edge',
      unit: 's',
      value: firstS,
      high: maxS,
      margin: expect.closeTo(margin, 12) as number,
      verdict,
    });
    expect(check.note).toBe(note);
  });

  it('that never comes fails', () => {
    expect(checkFirstEdge(undefined, 0.003)).toEqual({
      property: 'first edge',
      unit: 's',
      high: 0.003,
      verdict: 'fail',
      note: 'No edge comes at all.',
    });
  });
});

describe('a phase', () => {
  // At 100 Hz a period is 10 ms, so 1 ms is 36°.
  it.each([
    [0, 0, 10, 0, 10, 'pass'],
    [0.001, 36, 10, 36, 10, 'pass'],
    [0.001, 45, 10, 36, 1, 'pass'],
    [0.001, 46, 10, 36, 0, 'pass'],
    [0.001, 47, 10, 36, -1, 'fail'],
    [0.001, 25, 10, 36, -1, 'fail'],
    // Either way round the half turn.
    [0.005, 180, 10, 180, 10, 'pass'],
    [-0.005, 180, 10, 180, 10, 'pass'],
    [0.005, -180, 10, -180, 10, 'pass'],
    [-0.0049, 180, 10, 183.6, 6.4, 'pass'],
    [0.0049, -180, 10, -183.6, 6.4, 'pass'],
    // Whole turns make no difference.
    [0.051, 36, 10, 36, 10, 'pass'],
    [-0.049, 36, 10, 36, 10, 'pass'],
    [-0.001, -36, 10, -36, 10, 'pass'],
    [0.009, -36, 10, -36, 10, 'pass'],
    // Far from what is wanted an angle is shown within one turn, on the wanted one's side of zero.
    [0.0075, 90, 10, 270, -170, 'fail'],
    [0.0075, -10, 10, -90, -70, 'fail'],
    [0.0025, -10, 10, 90, -90, 'fail'],
    // 20° where 350° are wanted is 30° beyond it, and shown as 20°.
    [20 / 36_000, 350, 10, 20, -20, 'fail'],
  ])(
    'of %f s at 100 Hz against %i° ± %i°: %f°, a margin of %f°',
    (delayS, degrees, tolerance, value, margin, verdict) => {
      const check = checkPhase(delayS, 100, 100, { degrees, tolerance, other: 'Lamp' });
      expect(check).toMatchObject({
        property: 'phase',
        unit: '°',
        low: degrees - tolerance,
        high: degrees + tolerance,
        value: expect.closeTo(value, 9) as number,
        margin: expect.closeTo(margin, 9) as number,
        verdict,
      });
      expect(check.note).toBeUndefined();
    },
  );

  it('to another frequency fails, with how fast it moves', () => {
    expect(checkPhase(0, 100, 101, { degrees: 0, tolerance: 10, other: 'Lamp' })).toEqual({
      property: 'phase',
      unit: '°',
      low: -10,
      high: 10,
      verdict: 'fail',
      note: 'Lamp has another frequency, so the phase moves by 360° a second.',
    });
  });

  it('of rates that differ in their last digits alone is a phase', () => {
    const hz = 1000 / 3;
    expect(checkPhase(0, hz, hz * (1 + 4e-16), { degrees: 0, tolerance: 1, other: 'Lamp' }).verdict).toBe(
      'pass',
    );
    expect(checkPhase(0, hz, hz * (1 + 1e-11), { degrees: 0, tolerance: 1, other: 'Lamp' }).verdict).toBe(
      'fail',
    );
  });

  it('at its limit to the last digit of a float passes', () => {
    // 1/3 of a turn from a delay that is no float.
    expect(checkPhase(1 / 300, 100, 100, { degrees: 110, tolerance: 10, other: 'Lamp' }).verdict).toBe(
      'pass',
    );
  });
});

describe('an input', () => {
  // Half to seventy Hz to 0.2 %: 70 Hz at 1 MHz is 14285 counts of 1/14285 = 0.007 %.
  const wanted = { slowest: ratio(1, 2), fastest: exact(70), resolution: 0.002 };

  it('that the counter reaches and tells finely enough passes twice', () => {
    expect(checkInput(wanted, ratio(1, 4), exact(1_000_000), 100)).toEqual([
      {
        property: 'range',
        unit: 'Hz',
        label: 'slowest',
        value: 0.25,
        valueExact: '1/4',
        high: 0.5,
        margin: 0.25,
        verdict: 'pass',
      },
      {
        property: 'resolution',
        unit: 'fraction',
        value: 1 / 14285,
        valueExact: '1/14285',
        high: 0.002,
        margin: expect.closeTo(0.002 - 1 / 14285 - 0.0001, 12) as number,
        verdict: 'pass',
      },
    ]);
  });

  it('slower than a run of the counter fails, with what would be read', () => {
    const [range] = checkInput(wanted, exact(2), exact(1_000_000), 0);
    expect(range).toMatchObject({
      margin: -1.5,
      verdict: 'fail',
      note: 'Below 2 Hz the counter wraps between two edges and reads too fast.',
    });
    expect(checkInput(wanted, ratio(1, 2), exact(1_000_000), 0)[0]).toMatchObject({
      margin: 0,
      verdict: 'pass',
    });
  });

  it('too coarse, or with a poor oscillator, fails with both figures', () => {
    const coarse = checkInput(wanted, ratio(1, 4), exact(7000), 50)[1];
    expect(coarse).toMatchObject({
      value: 0.01,
      verdict: 'fail',
      note: 'At 70 Hz a period is 100 counts: one is 1 %, and the oscillator adds 50 ppm.',
    });
    // 0.2 % are 0.1 % of a count in 1000 and 1000 ppm: nothing is left, and that will do.
    expect(checkInput(wanted, ratio(1, 4), exact(70_000), 1000)[1]).toMatchObject({
      margin: 0,
      verdict: 'pass',
    });
    expect(checkInput(wanted, ratio(1, 4), exact(70_000), 1001)[1]?.verdict).toBe('fail');
    expect(checkInput(wanted, ratio(1, 4), exact(1), 0)[1]).toMatchObject({ value: 1, verdict: 'fail' });
  });
});
