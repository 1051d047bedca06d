import fc from 'fast-check';
import { allot } from '../src/allot/allot.ts';
import { boundsOf } from '../src/allot/bounds.ts';
import { improved } from '../src/allot/improve.ts';
import { optionsOf, rootOf } from '../src/allot/request.ts';
import { shapeOf } from '../src/allot/shape.ts';
import { sharer } from '../src/allot/sharer.ts';
import { searchTree } from '../src/allot/tree.ts';
import { compareWorth } from '../src/allot/worth.ts';
import type { Aim } from '../src/target/signal.ts';
import { avr, path, requestOf, small, sound } from './small-part.ts';

describe('where sets are too many', () => {
  it('branch and bound, which takes over where sets are too many, finds the same', () => {
    const aims: fc.Arbitrary<Aim> = fc.oneof(
      fc.constantFrom(31250, 62500, 100000).map((frequencyHz): Aim => ({
        kind: 'blink',
        target: { frequencyHz, frequencyTolerancePpm: 20000, duty: 0.5, dutyTolerance: 0.06 },
      })),
      fc.constantFrom(2000, 5000).map((frequencyHz): Aim => ({
        kind: 'tick',
        target: { frequencyHz, frequencyTolerancePpm: 5000, jitterS: 1e-3 },
      })),
      fc.constant<Aim>({
        kind: 'dim',
        target: { minHz: 20000, minSteps: 20, duty: 0.5, dutyTolerance: 0.06 },
      }),
    );
    fc.assert(
      fc.property(fc.array(aims, { minLength: 1, maxLength: 6 }), (list) => {
        const requests = list.map((aim, at) => requestOf(aim, at));
        const options = requests.map((request) => optionsOf(small, path, request, new Set()));
        const share = sharer(small, path, requests, { hit: false });
        const searched = { part: small, path, requests, options, share };
        const bounds = boundsOf(searched);
        const shapes = new Map(small.timers.map(({ id }) => [id, shapeOf(small, path, id)]));
        const { best, whole } = searchTree(searched, shapes, { bounds, worth: bounds.worth() }, {});
        const found = allot(small, path, requests);
        expect(whole).toBe(true);
        expect(best !== undefined).toBe(found.feasible);
        if (best && found.worth) expect(compareWorth(best.worth, found.worth)).toBe(0);
      }),
      { numRuns: 60 },
    );
  });

  it('any way made better piece by piece is sound, no worse than it was and no better than the best', () => {
    const aims: fc.Arbitrary<Aim> = fc.oneof(
      fc.tuple(fc.constantFrom(3, 5, 8, 40), fc.constantFrom(0.2, 0.5)).map(([frequencyHz, duty]): Aim => ({
        kind: 'blink',
        target: { frequencyHz, duty, dutyTolerance: 0.05 },
      })),
      fc.constantFrom(500, 880).map((frequencyHz): Aim => ({ kind: 'tone', target: { frequencyHz } })),
      fc.constantFrom(100, 250).map((frequencyHz): Aim => ({ kind: 'tick', target: { frequencyHz } })),
    );
    let reached = 0;
    fc.assert(
      fc.property(fc.array(aims, { minLength: 3, maxLength: 7 }), (list) => {
        const requests = list.map((aim, at) => requestOf(aim, at));
        const options = requests.map((request) => optionsOf(avr, path, request, new Set()));
        const share = sharer(avr, path, requests, { hit: false });
        const searched = { part: avr, path, requests, options, share };
        const bounds = boundsOf(searched);
        const shapes = new Map(avr.timers.map((timer) => [rootOf(timer), shapeOf(avr, path, rootOf(timer))]));
        const way = { bounds, worth: bounds.worth() };
        const { best: any } = searchTree(searched, shapes, way, { anyWill: true });
        const best = allot(avr, path, requests);
        if (!any || !best.worth) throw new Error('none');
        const made = improved(searched, shapes, any, () => true);
        expect(compareWorth(made.worth, any.worth)).toBeLessThanOrEqual(0);
        expect(best.optimal).toBe(true);
        expect(compareWorth(made.worth, best.worth)).toBeGreaterThanOrEqual(0);
        sound(requests, { ...best, settings: made.settings }, avr, path);
        reached += compareWorth(made.worth, best.worth) === 0 ? 1 : 0;
      }),
      { numRuns: 25 },
    );
    expect(reached).toBeGreaterThan(12);
  });
});
