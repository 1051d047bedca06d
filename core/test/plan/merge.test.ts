import fc from 'fast-check';
import { mergePlans } from '../../src/plan/merge.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { LOCK_GATE } from '../helpers/plan.ts';

const base: Plan = {
  ...LOCK_GATE,
  signals: ['a', 'b', 'c'].map((id) => lamp(id, 1)),
};

function lamp(id: string, frequencyHz: number): PlanSignal {
  return { id, name: id.toUpperCase(), kind: 'blink', target: { frequencyHz } };
}

function withSignals(...signals: PlanSignal[]): Plan {
  return { ...base, signals };
}

const [a, b, c] = base.signals as [PlanSignal, PlanSignal, PlanSignal];

it('takes each signal and each key from the side that changed it', () => {
  const mine = { ...withSignals(lamp('a', 2), b, c), name: 'Mine' };
  const theirs = { ...withSignals(a, lamp('b', 3), c), reserved: ['TIMER1'] };
  expect(mergePlans(base, mine, theirs)).toEqual({
    plan: { ...withSignals(lamp('a', 2), lamp('b', 3), c), name: 'Mine', reserved: ['TIMER1'] },
    clashes: [],
  });
});

it('keeps what either side added, and leaves out what either deleted', () => {
  const mine = withSignals(a, c, lamp('m', 1));
  const theirs = withSignals(a, b, lamp('t', 1), c);
  const { plan, clashes } = mergePlans(base, mine, theirs);
  expect(plan.signals.map((one) => one.id)).toEqual(['a', 't', 'c', 'm']);
  expect(clashes).toEqual([]);
});

it('names what both changed differently, also where one deleted it; mine stands', () => {
  const changed = mergePlans(base, withSignals(lamp('a', 2), b, c), withSignals(lamp('a', 3), b, c));
  expect(changed.clashes).toEqual([{ path: 'signals.a', mine: lamp('a', 2), theirs: lamp('a', 3) }]);
  expect(changed.plan.signals[0]).toEqual(lamp('a', 2));
  const deleted = mergePlans(base, withSignals(b, c), withSignals(lamp('a', 3), b, c));
  expect(deleted.clashes).toEqual([{ path: 'signals.a', mine: undefined, theirs: lamp('a', 3) }]);
});

it('is the other side where one changed nothing, and clashes are the same seen from either side', () => {
  const signals = fc
    .uniqueArray(fc.constantFrom('a', 'b', 'c', 'd', 'e'), { maxLength: 5 })
    .chain((ids) => fc.tuple(...ids.map((id) => fc.integer({ min: 1, max: 3 }).map((hz) => lamp(id, hz)))));
  const plans = fc.record({ signals, name: fc.constantFrom('Lock gate', 'One', 'Two') });
  const side = plans.map((change) => ({ ...base, ...change }));
  fc.assert(
    fc.property(side, side, side, (from, mine, theirs) => {
      expect(mergePlans(from, mine, from)).toEqual({ plan: mine, clashes: [] });
      expect(mergePlans(from, from, theirs)).toEqual({ plan: theirs, clashes: [] });
      expect(mergePlans(from, mine, mine).clashes).toEqual([]);
      const paths = (one: Plan, other: Plan): string[] =>
        mergePlans(from, one, other)
          .clashes.map(({ path }) => path)
          .sort();
      expect(paths(mine, theirs)).toEqual(paths(theirs, mine));
    }),
    { numRuns: 500 },
  );
});
