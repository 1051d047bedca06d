import { checkCapture, glitchTicks } from '../../src/check/check-capture.ts';
import type { Check } from '../../src/check/check.ts';
import { exact, ratio } from '../../src/quantity/exact.ts';
import { bandPpm, dutyBand } from '../../src/signal/band.ts';
import type { Requirement } from '../../src/signal/requirement.ts';
import type { EdgeList } from '../../src/wave/edges.ts';

const MHZ = exact(1_000_000);

const WANTED: Requirement = {
  frequency: { kind: 'near', ...bandPpm(exact(1000), 1000) },
  duty: dutyBand(ratio(1, 4), 0.01, 'duty'),
  minSteps: 64,
  pin: true,
};

/** Rises at these ticks, each high for 250, in a capture of some length. */
function captured(rises: readonly number[], to: number, highTicks = 250): EdgeList {
  return {
    start: 0,
    edges: Float64Array.from(rises.flatMap((rise) => [rise, rise + highTicks])),
    from: 0,
    to,
  };
}

function checked(trace: EdgeList, wanted: Requirement = WANTED): Record<string, Check> {
  return Object.fromEntries(checkCapture(trace, wanted, MHZ).map((check) => [check.property, check]));
}

const EVEN = [0, 1000, 2000, 3000];

describe('a glitch', () => {
  // A fifth of the lesser of high and low time: 1000 ticks x 0.25 x 0.2 = 50.
  it('is shorter than a fifth of the shorter time that is wanted', () => {
    expect(glitchTicks(WANTED, MHZ)).toBeCloseTo(50, 9);
    expect(glitchTicks({ ...WANTED, duty: dutyBand(ratio(9, 10), 0.01, 'duty') }, MHZ)).toBeCloseTo(20, 9);
  });

  it('is not told where no pulse or no one frequency is wanted', () => {
    expect(glitchTicks({ ...WANTED, duty: dutyBand(exact(0), 0, 'duty') }, MHZ)).toBeUndefined();
    expect(glitchTicks({ ...WANTED, duty: dutyBand(exact(1), 0, 'duty') }, MHZ)).toBeUndefined();
    expect(glitchTicks({ ...WANTED, frequency: { kind: 'within', low: exact(10) } }, MHZ)).toBeUndefined();
  });

  it('fails, and is counted', () => {
    expect(checked(captured(EVEN, 4000))['glitches']).toEqual({
      property: 'glitches',
      unit: 'count',
      value: 0,
      high: 0,
      margin: expect.closeTo(0, 9) as number,
      verdict: 'pass',
    });
    const short: EdgeList = {
      start: 0,
      edges: Float64Array.of(0, 250, 500, 540, 1000, 1250, 1600, 1649, 2000, 2250, 3000, 3250),
      from: 0,
      to: 4000,
    };
    expect(checked(short)['glitches']).toMatchObject({ value: 2, margin: -2, verdict: 'fail' });
  });

  it('is told by the usual lengths where no frequency is wanted', () => {
    const wanted: Requirement = { ...WANTED, frequency: { kind: 'within', low: exact(500) } };
    expect(checked(captured(EVEN, 4000), wanted)['glitches']?.verdict).toBe('pass');
    // High for 250 and low for 750 as a rule: a fifth of the shorter is 50.
    const with1 = (ticks: number): EdgeList => ({
      start: 0,
      edges: Float64Array.from([
        ...[0, 1000, 2000, 3000].flatMap((at) => [at, at + 250]),
        3600,
        3600 + ticks,
      ]),
      from: 0,
      to: 5000,
    });
    expect(checked(with1(49), wanted)['glitches']).toMatchObject({ value: 1, verdict: 'fail' });
    expect(checked(with1(51), wanted)['glitches']).toMatchObject({ value: 0, verdict: 'pass' });
  });

  it('is not looked for on a tick, nor where nothing changes', () => {
    expect(checked(captured(EVEN, 4000), { ...WANTED, pin: false })).not.toHaveProperty('glitches');
    const still: EdgeList = { start: 0, edges: new Float64Array(0), from: 0, to: 4000 };
    expect(checked(still)).not.toHaveProperty('glitches');
  });
});

describe('the frequency of a capture', () => {
  // Least squares by hand: numbers -1.5, -0.5, 0.5, 1.5; their products with 0, 1000, 2000, 3030 sum up to 5045; 5045 / 5 = 1009.
  it('is the slope of the line through all rising edges', () => {
    const { value } = checked(captured([0, 1000, 2000, 3030], 4000))['frequency'] ?? {};
    expect(value).toBeCloseTo(1e6 / 1009, 6);
  });

  it('leaves out pulses that are far shorter than the usual ones, and so does the duty', () => {
    const edges = [0, 1, 2, 3, 4, 5].flatMap((at) => [1000 * at, 1000 * at + 250]);
    const hit = {
      ...captured([], 6000),
      edges: Float64Array.from([...edges.slice(0, 6), 2500, 2549, ...edges.slice(6)]),
    };
    const checks = checked(hit);
    expect(checks['frequency']).toMatchObject({ value: 1000, verdict: 'pass', periods: 5 });
    expect(checks['duty']).toMatchObject({ value: 0.25, verdict: 'pass' });
    expect(checks['glitches']).toMatchObject({ value: 1, verdict: 'fail' });
  });
});

describe('a capture', () => {
  it('shows frequency and duty, and no steps', () => {
    const checks = checked(captured(EVEN, 4000));
    expect(Object.keys(checks)).toEqual(['frequency', 'duty', 'glitches']);
    expect(checks['frequency']).toMatchObject({ value: 1000, verdict: 'pass', periods: 3 });
    expect(checks['frequency']?.note).toBeUndefined();
  });

  it('that is too short says how long it has to be: two periods of the slowest that will do', () => {
    const checks = checked(captured([100], 900));
    expect(checks['frequency']).toMatchObject({
      verdict: 'unknown',
      note: 'The capture holds no whole period; 2 ms would be long enough.',
    });
  });

  // Two periods of 999 Hz are 2002.002 ticks.
  it.each([
    [2002, 'unknown'],
    [2003, 'fail'],
  ])('without an edge over %i ticks: %s', (to, verdict) => {
    const still: EdgeList = { start: 1, edges: new Float64Array(0), from: 0, to };
    expect(checked(still)['frequency']?.verdict).toBe(verdict);
    // It is the time that was captured that counts, not when it ended.
    const later: EdgeList = { ...still, from: 5000, to: 5000 + to };
    expect(checked(later)['frequency']?.verdict).toBe(verdict);
  });

  it('shows the jitter that was measured, not the setting’s', () => {
    const wanted: Requirement = { ...WANTED, jitterS: 0.000005 };
    // Rises off an even grid by 0, +3, -3, 0 ticks.
    const trace = captured([0, 1003, 1997, 3000], 4000);
    const checks = checkCapture(trace, wanted, MHZ).filter(({ property }) => property === 'jitter');
    expect(checks).toHaveLength(1);
    const [jitter] = checks;
    expect(jitter).toMatchObject({ unit: 's', high: 0.000005, verdict: 'pass' });
    // A line through (0, 0), (1, 1003), (2, 1997), (3, 3000) rises by 999.4 a period from 0.9: 0.9, 2.7, 2.7 and 0.9 ticks off.
    expect(jitter?.value).toBeCloseTo(0.0000027, 12);
    expect(jitter?.margin).toBeCloseTo(0.000005 - (jitter?.value ?? 0), 12);
    expect(jitter?.note).toMatch(/^sigma 2\.\d+ µs over 4 edges$/);
    const strict = checkCapture(trace, { ...wanted, jitterS: 0.000001 }, MHZ);
    expect(strict.find(({ property }) => property === 'jitter')?.verdict).toBe('fail');
  });

  it('with fewer than three rises tells no jitter', () => {
    const checks = checked(captured([0, 1000], 1900), { ...WANTED, jitterS: 0.000005 });
    expect(checks['jitter']).toEqual({
      property: 'jitter',
      unit: 's',
      high: 0.000005,
      verdict: 'unknown',
      note: 'It takes three rising edges to tell.',
    });
  });
});
