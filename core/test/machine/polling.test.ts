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
    // A round may have ended just before it is due.
    expect(pollingResult(MS, 0.003).worstLateS).toBe(0.003);
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
      expect(result('signed').fault).toBeUndefined();
      expect(result('unsigned').fault).toBeUndefined();
      // Due at 2^n + something is a small number, and the count is still large: it is due in each round until the wrap.
      expect(result('absolute')).toMatchObject({ fault: 'burst', lastsS: 0.01 });
    },
  );

  it('never sees what is due at 255 where rounds of 2 counts read 254 and then 0', () => {
    const poll: Polled = { ...MS, bits: 8, interval: 255, comparison: 'absolute' };
    expect(polled(poll, 0.002, 0, 3)).toHaveLength(0);
    expect(polled({ ...poll, comparison: 'unsigned' }, 0.001, 0, 3)).toHaveLength(3);
  });

  it('takes intervals of more than half of the count for over where it compares signed', () => {
    expect(pollingResult({ ...MS, bits: 8, interval: 130, comparison: 'signed' }, 0.0003).fault).toBe('half');
    expect(pollingResult({ ...MS, bits: 8, interval: 130 }, 0.0003).fault).toBeUndefined();
  });

  it('falls behind by 3 ms a round where rounds of 4 ms are to do something each 1 ms', () => {
    const poll: Polled = { ...MS, interval: 1 };
    const result = pollingResult(poll, 0.004);
    expect(result.fault).toBe('behind');
    expect(result.lastsS).toBeCloseTo(0.003, 12);
    // 4000 of them come each 4 ms: the last is due at 4 s, and seen at 16 s.
    const seen = polled(poll, 0.004, 0, 16_000);
    expect(seen[3999]?.lateS).toBeCloseTo(12, 6);
  });

  it('can miss the 6 counts of 250 to 255 in rounds of 10 counts, and not in rounds of 6', () => {
    const poll: Polled = { ...MS, bits: 8, interval: 250 };
    expect(pollingResult(poll, 0.01)).toMatchObject({ fault: 'missed', lastsS: 0.256 });
    expect(pollingResult(poll, 0.006).fault).toBeUndefined();
    expect(pollingResult({ ...poll, comparison: 'signed' }, 0.006).fault).toBe('half');
  });

  it('says what brute force over all phases finds, in 3000 cases', () => {
    const whole = 256;
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 255 }),
        fc.integer({ min: 1, max: 120 }),
        fc.constantFrom<Polled['comparison']>('signed', 'unsigned', 'absolute'),
        (interval, step, comparison) => {
          const poll: Polled = { countS: 1, bits: 8, interval, comparison, from: 'due' };
          const { fault } = pollingResult(poll, step);
          if (fault === 'half' || fault === 'behind') return;
          // A loop that looks each `step` counts, in all of its phases; where the counts themselves are compared, from many starts.
          const starts = comparison === 'absolute' ? [0, 37, 91, 128, 200, 255] : [0];
          let wrong = false;
          for (const start of starts) {
            for (let early = 0; early < step; early += 1) {
              const seen = polled(poll, step, start, (4 * whole) / interval, early);
              const late = seen.some(({ lateS }) => lateS >= step || lateS < 0);
              const last = seen[seen.length - 1]?.atS ?? 0;
              wrong ||= late || 4 * whole - last > interval + 2 * step;
            }
          }
          expect([interval, step, comparison, wrong]).toEqual([
            interval,
            step,
            comparison,
            fault !== undefined,
          ]);
        },
      ),
      { numRuns: 3000 },
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
