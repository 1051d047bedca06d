import fc from 'fast-check';
import { rangePairs, type PairSearch } from '../../src/fit/hardware/pairs.ts';

const search = fc
  .record({
    unit: fc.constantFrom(1, 2, 4),
    shift: fc.constantFrom(0, 1),
    n: fc.tuple(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 0, max: 200 })),
    tops: fc.tuple(fc.integer({ min: 1, max: 20 }), fc.integer({ min: 0, max: 400 })),
    period: fc.double({ min: 5, max: 60000, noNaN: true }),
  })
  .map(({ n, tops, ...rest }): PairSearch => ({
    ...rest,
    n: { min: n[0], max: n[0] + n[1] },
    tops: { min: tops[0], max: tops[0] + tops[1] },
    scale: 1,
    reach: 0.03,
  }));

type Rated = { n: number; top: number; counts: number; error: number };

/** Every divider with every top. */
function everyPair({ unit, shift, n, tops, period }: PairSearch): Rated[] {
  const all: Rated[] = [];
  for (let at = n.min; at <= n.max; at += 1) {
    for (let top = tops.min; top <= tops.max; top += 1) {
      const counts = top + shift;
      all.push({ n: at, top, counts, error: Math.abs(period / (unit * at * counts) - 1) });
    }
  }
  return all;
}

function rated(found: { n: number; top: number }, { unit, shift, period }: PairSearch): Rated {
  const counts = found.top + shift;
  return { ...found, counts, error: Math.abs(period / (unit * found.n * counts) - 1) };
}

it('has the least error of all dividers and tops', () => {
  fc.assert(
    fc.property(search, (one) => {
      const min = Math.min(...everyPair(one).map(({ error }) => error));
      const { pairs, finest } = rangePairs(one);
      const best = Math.min(...pairs.map((pair) => rated(pair, one).error));
      expect(best).toBeCloseTo(min, 12);
      expect(finest).toBeGreaterThanOrEqual(one.n.min);
      expect(finest).toBeLessThanOrEqual(one.n.max);
    }),
    { numRuns: 300 },
  );
});

it('keeps every pair that nothing beats: no other has as many counts at a smaller error', () => {
  fc.assert(
    fc.property(search, (one) => {
      const nearest = new Map<number, Rated>();
      for (const pair of everyPair(one)) {
        const known = nearest.get(pair.n);
        if (!known || pair.error < known.error) nearest.set(pair.n, pair);
      }
      const { pairs, finest } = rangePairs(one);
      const last = Math.ceil(one.period / (one.unit * Math.max(1, one.tops.min + one.shift)));
      const within = [...nearest.values()].filter(({ n }) => n >= finest - 1 && n <= last);
      const beats = (other: Rated, pair: Rated): boolean =>
        other.counts >= pair.counts &&
        other.error <= pair.error &&
        (other.counts > pair.counts || other.error < pair.error);
      const front = within.filter((pair) => !within.some((other) => beats(other, pair)));
      const listed = new Set(pairs.map(({ n }) => n));
      const equal = (one: Rated, other: Rated): boolean =>
        one.counts === other.counts && one.error === other.error;
      for (const pair of front) {
        expect(within.some((other) => listed.has(other.n) && equal(other, pair))).toBe(true);
      }
    }),
    { numRuns: 300 },
  );
});

it('stays within its ranges, lists nothing twice, and counts what is within reach', () => {
  fc.assert(
    fc.property(search, (one) => {
      const { pairs, considered } = rangePairs(one);
      for (const { n, top } of pairs) {
        expect(n >= one.n.min && n <= one.n.max && top >= one.tops.min && top <= one.tops.max).toBe(true);
      }
      expect(new Set(pairs.map(({ n, top }) => `${n} ${top}`)).size).toBe(pairs.length);
      const reach = everyPair(one).filter(({ n, counts }) => {
        const wanted = one.period / (one.unit * n);
        return counts >= Math.ceil(wanted * 0.97) && counts <= Math.floor(wanted * 1.03);
      }).length;
      expect(considered).toBeLessThanOrEqual(reach);
    }),
    { numRuns: 200 },
  );
});

it('fits the fraction where all parts of a clock would be too many', () => {
  const one: PairSearch = {
    unit: 1,
    shift: 1,
    n: { min: 8192, max: 16777215 },
    tops: { min: 1, max: 2 ** 32 - 2 },
    scale: 4096,
    period: (19200000 / 440) * 4096,
    reach: 0.03,
  };
  const { pairs } = rangePairs(one);
  const whole = pairs.filter(({ n }) => n % 4096 === 0).map((pair) => rated(pair, one).error);
  const all = pairs.map((pair) => rated(pair, one).error);
  expect(Math.min(...all)).toBeLessThanOrEqual(Math.min(...whole));
  expect(pairs.some(({ n }) => n % 4096 !== 0)).toBe(true);
});
