import fc from 'fast-check';
import type { GroupColumn } from '../../src/assign/search/columns.ts';
import { coverOf, cpuIn } from '../../src/assign/search/cover.ts';

const SIGNALS = 5;
const ROOTS = 3;

type Plain = { root: number; mask: number; cpu: number; moved: number };

const plain: fc.Arbitrary<Plain> = fc.record({
  root: fc.nat(ROOTS - 1),
  mask: fc.integer({ min: 1, max: 2 ** SIGNALS - 1 }),
  cpu: fc.nat(40),
  moved: fc.nat(SIGNALS),
});

function columnsOf(list: readonly Plain[]): GroupColumn[][] {
  return Array.from({ length: ROOTS }, (_, root) =>
    list
      .filter((one) => one.root === root)
      .map(
        ({ mask, cpu, moved }) =>
          ({ root: `T${root}`, mask, cpu, moved, level: 20, seats: [] }) as unknown as GroupColumn,
      ),
  );
}

/** The least of processor time, timers and moves, compared in this order, of every choice of at most one column a timer. */
function everyChoice(
  byRoot: readonly (readonly GroupColumn[])[],
  max: number,
): [number, number, number] | undefined {
  let best: [number, number, number] | undefined;
  const go = (root: number, mask: number, sum: [number, number, number]): void => {
    if (root === byRoot.length) {
      if (mask !== 2 ** SIGNALS - 1 || sum[0] > max) return;
      const earlier = best?.findIndex((one, at) => one !== sum[at]) ?? -1;
      if (!best || (earlier >= 0 && (sum[earlier] ?? 0) < (best[earlier] ?? 0))) best = sum;
      return;
    }
    go(root + 1, mask, sum);
    for (const { mask: own, cpu, moved } of byRoot[root] ?? [])
      if ((own & mask) === 0) go(root + 1, mask | own, [sum[0] + cpu, sum[1] + 1, sum[2] + moved]);
  };
  go(0, 0, [0, 0, 0]);
  return best;
}

it('a cover is the cheapest of all choices: processor time before timers before moves', () => {
  const seen = { some: 0, none: 0 };
  fc.assert(
    fc.property(fc.array(plain, { maxLength: 24 }), fc.integer({ min: 10, max: 120 }), (list, max) => {
      const byRoot = columnsOf(list);
      const { cover } = coverOf(byRoot, SIGNALS, max);
      const expected = everyChoice(byRoot, max);
      seen[expected ? 'some' : 'none'] += 1;
      expect(cover !== undefined).toBe(expected !== undefined);
      if (!cover || !expected) return;
      const sum = (of: (one: GroupColumn) => number): number =>
        cover.columns.reduce((all, one) => all + of(one), 0);
      expect([sum(({ cpu }) => cpu), cover.columns.length, sum(({ moved }) => moved)]).toEqual(expected);
      expect(cpuIn(cover.price)).toBe(expected[0]);
      expect(sum(({ mask }) => mask)).toBe(2 ** SIGNALS - 1);
      expect(new Set(cover.columns.map(({ root }) => root)).size).toBe(cover.columns.length);
    }),
    { numRuns: 600 },
  );
  expect(Math.min(seen.some, seen.none)).toBeGreaterThan(60);
});
