import fc from 'fast-check';
import { assign } from '../../src/assign/assign.ts';
import { boundsOf } from '../../src/assign/search/bounds.ts';
import { improved } from '../../src/assign/search/local-search.ts';
import { optionsOf } from '../../src/assign/request.ts';
import { shapeOf } from '../../src/assign/counter/timer-shape.ts';
import { counterSolver } from '../../src/assign/counter/counter-solver.ts';
import { searchTree } from '../../src/assign/search/tree-search.ts';
import { compareObjectives } from '../../src/assign/objective.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import { avr, path, requestOf, small, sound } from '../helpers/small-part.ts';
import { rootOf } from '../../src/part/find.ts';

describe('where sets are too many', () => {
  it('branch and bound, which takes over where sets are too many, finds the same', () => {
    const aims: fc.Arbitrary<KindAndTarget> = fc.oneof(
      fc.constantFrom(31250, 62500, 100000).map((frequencyHz): KindAndTarget => ({
        kind: 'blink',
        target: { frequencyHz, frequencyTolerancePpm: 20000, duty: 0.5, dutyTolerance: 0.06 },
      })),
      fc.constantFrom(2000, 5000).map((frequencyHz): KindAndTarget => ({
        kind: 'tick',
        target: { frequencyHz, frequencyTolerancePpm: 5000, jitterS: 1e-3 },
      })),
      fc.constant<KindAndTarget>({
        kind: 'dim',
        target: { minHz: 20000, minSteps: 20, duty: 0.5, dutyTolerance: 0.06 },
      }),
    );
    fc.assert(
      fc.property(fc.array(aims, { minLength: 1, maxLength: 6 }), (list) => {
        const requests = list.map((aim, at) => requestOf(aim, at));
        const options = requests.map((request) => optionsOf(small, path, request, new Set()));
        const share = counterSolver(small, path, requests, { hit: false });
        const problem = { part: small, path, requests, options, share };
        const bounds = boundsOf(problem);
        const shapes = new Map(small.timers.map(({ id }) => [id, shapeOf(small, path, id)]));
        const { best, whole } = searchTree(problem, shapes, { bounds, objective: bounds.objective() }, {});
        const found = assign(small, path, requests);
        expect(whole).toBe(true);
        expect(best !== undefined).toBe(found.feasible);
        if (best && found.objective) expect(compareObjectives(best.objective, found.objective)).toBe(0);
      }),
      { numRuns: 60 },
    );
  });

  it('any way made better piece by piece is sound, no worse than it was and no better than the best', () => {
    const aims: fc.Arbitrary<KindAndTarget> = fc.oneof(
      fc
        .tuple(fc.constantFrom(3, 5, 8, 40), fc.constantFrom(0.2, 0.5))
        .map(([frequencyHz, duty]): KindAndTarget => ({
          kind: 'blink',
          target: { frequencyHz, duty, dutyTolerance: 0.05 },
        })),
      fc
        .constantFrom(500, 880)
        .map((frequencyHz): KindAndTarget => ({ kind: 'tone', target: { frequencyHz } })),
      fc
        .constantFrom(100, 250)
        .map((frequencyHz): KindAndTarget => ({ kind: 'tick', target: { frequencyHz } })),
    );
    let reached = 0;
    fc.assert(
      fc.property(fc.array(aims, { minLength: 3, maxLength: 7 }), (list) => {
        const requests = list.map((aim, at) => requestOf(aim, at));
        const options = requests.map((request) => optionsOf(avr, path, request, new Set()));
        const share = counterSolver(avr, path, requests, { hit: false });
        const problem = { part: avr, path, requests, options, share };
        const bounds = boundsOf(problem);
        const shapes = new Map(avr.timers.map((timer) => [rootOf(timer), shapeOf(avr, path, rootOf(timer))]));
        const route = { bounds, objective: bounds.objective() };
        const { best: any } = searchTree(problem, shapes, route, { anyFeasible: true });
        const best = assign(avr, path, requests);
        if (!any || !best.objective) throw new Error('none');
        const made = improved(problem, shapes, any, () => true);
        expect(compareObjectives(made.objective, any.objective)).toBeLessThanOrEqual(0);
        expect(best.optimal).toBe(true);
        expect(compareObjectives(made.objective, best.objective)).toBeGreaterThanOrEqual(0);
        sound(requests, { ...best, settings: made.settings }, avr, path);
        reached += compareObjectives(made.objective, best.objective) === 0 ? 1 : 0;
      }),
      { numRuns: 25 },
    );
    expect(reached).toBeGreaterThan(12);
  });
});
