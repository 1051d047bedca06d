import fc from 'fast-check';
import { polled, pollingResult, type Polled } from '../../src/machine/polling.ts';

/** A millisecond count, looked at each 0.3 ms; something every 10 ms. */
const MS: Polled = { countS: 0.001, bits: 32, interval: 10, comparison: 'unsigned', from: 'due' };

describe('polling a count', () => {
  it('sees 10 ms at the first round after it: 10.2 ms, then 20.1 and 30 ms', () => {
    // Rounds end at 0.3 ms x n: 34 x 0.3 = 10.2, 67 x 0.3 = 20.1, 100 x 0.3 = 30.
    expect(polled(MS, 0.0003, 0, 3.2).map(({ atS }) => Number(atS.toFixed(6)))).toEqual([
      0.0102, 0.0201, 0.03,
    ]);
  });

  it('drifts where the next time is counted from now: a round of 3 ms makes 12 ms of 10, 20 %', () => {
    // Counts are read at 3, 6, 9, 12 ms: 12 is the first that is at least 10; the next at 24, 36...
    const seen = polled({ ...MS, from: 'now' }, 0.003, 0, 6);
    expect(seen.map(({ atS }) => Math.round(atS * 1000))).toEqual([12, 24, 36, 48, 60]);
    expect(pollingResult({ ...MS, from: 'now' }, 0.003).driftPpm).toBeCloseTo(200_000, 6);
    expect(pollingResult(MS, 0.003).driftPpm).toBe(0);
    expect(pollingResult(MS, 0.003).worstLateS).toBeCloseTo(0.002, 9);
  });

  it('wraps after 0.256 s, 65.536 s and 49.7 days', () => {
    const wraps = [8, 16, 32].map((bits) => pollingResult({ ...MS, bits }, 0.0003).wrapS);
    expect(wraps[0]).toBeCloseTo(0.256, 9);
    expect(wraps[1]).toBeCloseTo(65.536, 9);
    expect((wraps[2] ?? 0) / 86_400).toBeCloseTo(49.71, 2);
  });

  it.each([8, 16, 32])(
    'is right at the wrap of %i bits with a difference, and wrong with the counts themselves',
    (bits) => {
      const result = (comparison: Polled['comparison']) => pollingResult({ ...MS, bits, comparison }, 0.0003);
      expect(result('signed').atWrap).toBe('right');
      expect(result('unsigned').atWrap).toBe('right');
      // Due at 2^n + something is a small number, and the count is still large: it is due in each round until the wrap.
      expect(result('absolute').atWrap).toBe('burst');
      expect(result('absolute').lastsS).toBeGreaterThan(0);
      expect(result('absolute').lastsS).toBeLessThanOrEqual(0.0101);
    },
  );

  it('never sees what is due at 255 where rounds of 2 counts read 254 and then 0', () => {
    const poll: Polled = { ...MS, bits: 8, interval: 255, comparison: 'absolute' };
    expect(polled(poll, 0.002, 0, 3)).toHaveLength(0);
    expect(polled({ ...poll, comparison: 'unsigned' }, 0.001, 0, 3)).toHaveLength(3);
  });

  it('takes intervals of more than half of the count for negative where it compares signed', () => {
    expect(pollingResult({ ...MS, bits: 8, interval: 130, comparison: 'signed' }, 0.0003).atWrap).toBe(
      'burst',
    );
    expect(pollingResult({ ...MS, bits: 8, interval: 130, comparison: 'unsigned' }, 0.0003).atWrap).toBe(
      'right',
    );
  });

  it('sees each due time within a round and a count, whatever the numbers', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(8, 16, 32),
        fc.integer({ min: 2, max: 100 }),
        fc.integer({ min: 1, max: 90 }),
        fc.integer({ min: 0, max: 2 ** 32 }),
        fc.constantFrom<Polled['comparison']>('signed', 'unsigned'),
        (bits, interval, roundHundredths, start, comparison) => {
          const roundS = roundHundredths / 1e5;
          const seen = polled({ ...MS, bits, interval, comparison }, roundS, start, 20);
          for (const { lateS } of seen) {
            expect(lateS).toBeGreaterThanOrEqual(-1e-9);
            expect(lateS).toBeLessThanOrEqual(roundS + 0.001);
          }
          expect(seen.length).toBeGreaterThanOrEqual(18);
        },
      ),
    );
  });
});
