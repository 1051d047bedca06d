import fc from 'fast-check';
import { arrivalsText, cyclesText, parseArrivals, parseCycles } from '../../src/plan/cpu-text.ts';

describe('lengths and arrivals as text', () => {
  it.each([
    ['90', 90],
    ['90 to 420', { min: 90, max: 420 }],
    ['90…420 cycles', { min: 90, max: 420 }],
    ['12 to 12', 12],
    ['', undefined],
    ['estimate', undefined],
  ])('reads %s', (text, value) => {
    expect(parseCycles(text)).toEqual({ ok: true, value });
  });

  it.each(['-3', '1.5', '9 to', '420 to 90', '1 to 2 to 3', '99999999999', 'many'])('refuses %s', (text) => {
    expect(parseCycles(text).ok).toBe(false);
  });

  it.each([
    ['every 10 ms', { everyS: 0.01 }],
    ['every 1 s, up to 2 ms late', { everyS: 1, jitterS: 0.002 }],
    ['at least 520 µs apart', { leastS: 0.00052 }],
    ['at least 520 us apart, up to 12 ms more', { leastS: 0.00052, spreadS: 0.012 }],
    ['at 1 ms, 2.5 ms', { timesS: [0.001, 0.0025] }],
  ])('reads %s', (text, value) => {
    expect(parseArrivals(text)).toEqual({ ok: true, value });
  });

  it.each(['10 ms', 'every', 'every now and then', 'at least', 'at 3 apples'])(
    'refuses %s with one sentence',
    (text) => {
      const read = parseArrivals(text);
      expect(read.ok ? '' : read.fault.sentence).toMatch(/\.$/);
    },
  );

  it('reads back what it prints, and never throws', () => {
    const seconds = fc.integer({ min: 1, max: 1e6 }).map((us) => us / 1e6);
    const arrives = fc.oneof(
      fc.record({ everyS: seconds }),
      fc.record({ everyS: seconds, jitterS: seconds }),
      fc.record({ leastS: seconds, spreadS: seconds }),
      fc.record({ timesS: fc.array(seconds, { minLength: 1, maxLength: 5 }) }),
    );
    fc.assert(
      fc.property(arrives, (one) => {
        expect(parseArrivals(arrivalsText(one))).toEqual({ ok: true, value: one });
      }),
    );
    fc.assert(
      fc.property(fc.nat(1e9), fc.nat(1e9), (one, other) => {
        const cycles = { min: Math.min(one, other), max: Math.max(one, other) };
        const read = parseCycles(cyclesText(cycles));
        expect(read).toEqual({ ok: true, value: one === other ? one : cycles });
      }),
    );
    fc.assert(
      fc.property(fc.string(), (text) => {
        parseArrivals(`every ${text}`);
        parseArrivals(text);
        parseCycles(text);
      }),
    );
  });
});
