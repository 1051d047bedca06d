import fc from 'fast-check';
import { exact, exactText, ratio } from '../../src/quantity/exact.ts';
import { checkEdges, type Check } from '../../src/check/check.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { Cycle } from '../../src/timer/outcome.ts';
import { measure } from '../../src/wave/measure.ts';
import { periodicEdges, type EdgeList } from '../../src/wave/edges.ts';

const cycle = (periodTicks: number, rise: number, fall: number): Cycle => ({
  periodTicks,
  edges: { rise, fall },
});

describe('periodic edges', () => {
  it('has the edges of a hand-made list', () => {
    expect([...periodicEdges(cycle(10, 0, 3), 0, 25).edges]).toEqual([0, 3, 10, 13, 20, 23]);
    expect(periodicEdges(cycle(10, 0, 3), 0, 25).start).toBe(0);
    expect([...periodicEdges(cycle(10, 8, 2), 1, 20).edges]).toEqual([2, 8, 12, 18]);
    expect(periodicEdges(cycle(10, 8, 2), 1, 20).start).toBe(1);
    expect(periodicEdges({ periodTicks: 10, edges: { level: 1 } }, 0, 100)).toMatchObject({
      start: 1,
      edges: new Float64Array(0),
    });
  });

  it('can start anywhere: a stretch is the same as that stretch of a longer one', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 50 }),
        fc.nat(49),
        fc.integer({ min: 1, max: 49 }),
        fc.nat(500),
        fc.nat(300),
        (period, at, width, from, length) => {
          const rise = at % period;
          const fall = (rise + 1 + (width % (period - 1))) % period;
          const whole = periodicEdges(cycle(period, rise, fall), 0, from + length);
          const piece = periodicEdges(cycle(period, rise, fall), from, from + length);
          expect([...piece.edges]).toEqual([...whole.edges].filter((edge) => edge >= from));
          const before = [...whole.edges].filter((edge) => edge < from).length;
          expect(piece.start).toBe(before % 2 === 0 ? whole.start : 1 - whole.start);
        },
      ),
    );
  });
});

describe('measuring', () => {
  it('finds period and duty of any periodic trace exactly', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 1e6 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.integer({ min: 3, max: 9 }),
        (period, share, periods) => {
          const high = Math.min(period - 1, Math.max(1, Math.round(share * period)));
          const seen = measure(periodicEdges(cycle(period, 0, high), 0, periods * period));
          expect(seen.period?.equals(period)).toBe(true);
          expect(seen.duty?.equals(ratio(high, period))).toBe(true);
          expect([seen.shortest, seen.longest]).toEqual([period, period]);
        },
      ),
    );
  });

  it('tells a level from a trace that is too short', () => {
    expect(measure(periodicEdges({ periodTicks: 8, edges: { level: 0 } }, 0, 80))).toEqual({
      rising: 0,
      level: 0,
    });
    expect(measure(periodicEdges(cycle(100, 0, 10), 0, 90))).toEqual({ rising: 1 });
    const uneven: EdgeList = {
      start: 0,
      edges: Float64Array.from([0, 5, 10, 15, 22, 27, 32]),
      from: 0,
      to: 40,
    };
    expect(measure(uneven)).toMatchObject({ shortest: 10, longest: 12 });
    expect(exactText(measure(uneven).period ?? exact(0))).toBe('32/3');
  });
});

describe('checks', () => {
  const blink = requirementOf({
    kind: 'blink',
    target: { frequencyHz: 1000, duty: 0.1, frequencyTolerancePpm: 1000, dutyTolerance: 0.01 },
  });
  const of = (checks: Check[], property: string): Check | undefined =>
    checks.find((check) => check.property === property);
  const at = (period: number, high: number, tolerancePpm = 0) =>
    checkEdges(
      periodicEdges(cycle(period, 0, high), 0, 8 * period),
      blink,
      exact(1000000),
      tolerancePpm,
      period,
    );

  it('holds with its margin: 1000 Hz of 999 … 1001, duty 10 % of 9 … 11', () => {
    expect(of(at(1000, 100), 'frequency')).toMatchObject({
      value: 1000,
      low: 999,
      high: 1001,
      margin: 1,
      verdict: 'pass',
    });
    expect(of(at(1000, 100), 'duty')).toMatchObject({ value: 0.1, margin: 0.01, verdict: 'pass' });
  });

  it('holds on the limit and misses one tick beyond', () => {
    expect(of(at(1000, 110), 'duty')).toMatchObject({ margin: 0, verdict: 'pass' });
    expect(of(at(1000, 111), 'duty')?.verdict).toBe('fail');
    expect(of(at(999, 100), 'frequency')?.verdict).toBe('fail');
  });

  it('takes the oscillator off the margin: 400 ppm leave 600, 1200 ppm none', () => {
    expect(of(at(1000, 100, 400), 'frequency')?.margin).toBeCloseTo(0.6, 9);
    const check = of(at(1000, 100, 1200), 'frequency');
    expect(check?.verdict).toBe('fail');
    expect(check?.note).toMatch(/^The divider is right, but with an oscillator off by 1200 ppm/);
  });

  it('fails the frequency of a pin that never changes, and judges its duty all the same', () => {
    const flat = checkEdges(
      periodicEdges({ periodTicks: 10, edges: { level: 1 } }, 0, 80),
      blink,
      exact(1e6),
      0,
      10,
    );
    expect(of(flat, 'frequency')).toMatchObject({
      verdict: 'fail',
      note: 'The pin stays high: it has no frequency.',
    });
    expect(of(flat, 'duty')).toMatchObject({ value: 1, verdict: 'fail' });
  });

  it('asks for a level where 0 % is wanted: one count of a pulse misses, no edge at all holds', () => {
    const off = requirementOf({ kind: 'dim', target: { minHz: 200, minSteps: 100, duty: 0 } });
    const pulsing = checkEdges(periodicEdges(cycle(256, 0, 1), 0, 2048), off, exact(1e6), 0, 256);
    expect(of(pulsing, 'duty')).toMatchObject({
      verdict: 'fail',
      note: expect.stringMatching(/never changes.*0.390/) as unknown,
    });
    const flat = checkEdges(
      periodicEdges({ periodTicks: 256, edges: { level: 0 } }, 0, 2048),
      off,
      exact(1e6),
      0,
      256,
    );
    expect(flat.map(({ property, verdict }) => [property, verdict])).toEqual([
      ['duty', 'pass'],
      ['steps', 'pass'],
    ]);
  });
});
