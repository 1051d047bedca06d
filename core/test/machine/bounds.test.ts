import fc from 'fast-check';
import { boundOf, utilisation } from '../../src/machine/bounds.ts';
import { simulate } from '../../src/machine/simulate.ts';
import type { CpuModel } from '../../src/machine/model.ts';
import { anyModel, BARE, every, task } from './models.ts';

type Row = [cycles: number, period: number, jitter?: number];

function preemptive(rows: readonly Row[]): CpuModel {
  const tasks = rows.map(([cycles, period, jitter], at) =>
    task(`t${at}`, { arrivals: every(period, 0, jitter), level: at, vector: at }, cycles),
  );
  return { core: BARE, tasks, masked: [] };
}

function responses(model: CpuModel): unknown[] {
  return model.tasks.map((one) => {
    const bound = boundOf(model, one);
    return bound === 'unbounded' ? bound : bound.response;
  });
}

describe('bounds of waits', () => {
  it('are the published ones: 3/7, 3/12, 5/20 respond within 3, 6, 20 (Burns and Wellings)', () => {
    expect(
      responses(
        preemptive([
          [3, 7],
          [3, 12],
          [5, 20],
        ]),
      ),
    ).toEqual([3, 6, 20]);
  });

  it('are the published ones: 5/20, 10/40, 40/80 respond within 5, 15, 80 (Burns and Wellings)', () => {
    expect(
      responses(
        preemptive([
          [5, 20],
          [10, 40],
          [40, 80],
        ]),
      ),
    ).toEqual([5, 15, 80]);
  });

  it('are the published ones: 26/70 and 62/100 respond within 26 and 118, the fifth event (Lehoczky 1990)', () => {
    expect(
      responses(
        preemptive([
          [26, 70],
          [62, 100],
        ]),
      ),
    ).toEqual([26, 118]);
  });

  it('are the published ones without preemption: 1/2.5, 1/3.5, 1/3.5 ms, the last within 3.5 (Davis et al. 2007)', () => {
    const tasks = (
      [
        [2, 5],
        [2, 7],
        [2, 7],
      ] as const
    ).map(([cycles, period], at) => task(`m${at}`, { arrivals: every(period), vector: at }, cycles));
    expect(responses({ core: BARE, tasks, masked: [] })).toEqual([4, 6, 7]);
  });

  it('grow without end where the processor is overloaded', () => {
    const model = preemptive([
      [4, 8],
      [5, 9],
    ]);
    expect(responses(model)).toEqual([4, 'unbounded']);
    expect(utilisation(model)).toBeCloseTo(0.5 + 5 / 9, 12);
  });

  it('take the longest masked section and the instruction under way into account', () => {
    // Alone: 3 cycles of an instruction or 40 masked, then 4 on the way in.
    const model: CpuModel = {
      core: { entry: 4, exit: 4, late: 3, between: true },
      tasks: [task('tick', { arrivals: every(1000) }, 20)],
      masked: [{ name: 'write', every: 700, length: 40, first: 0 }],
    };
    expect(boundOf({ ...model, masked: [] }, model.tasks[0] as never)).toEqual({ wait: 8, response: 28 });
    expect(boundOf(model, model.tasks[0] as never)).toEqual({ wait: 44, response: 64 });
  });

  it('of chained handlers count the chain: 40 and 50 cycles, where going out and in again would never end', () => {
    // Entry and exit 12, chain 6; two of one level, 10 cycles each 40. Waits: 12 for a way out, 12 in, 10, 6 from one into the other.
    const core = { ...BARE, entry: 12, exit: 12 };
    const tasks = [0, 1].map((vector) => task(`m${vector}`, { arrivals: every(40), vector }, 10));
    const [, second] = tasks;
    if (!second) throw new Error('no task');
    expect(boundOf({ core: { ...core, tail: 6 }, tasks, masked: [] }, second)).toEqual({
      wait: 40,
      response: 50,
    });
    expect(boundOf({ core, tasks, masked: [] }, second)).toBe('unbounded');
  });

  it('are none for what a handler comes before whose flag is never cleared', () => {
    const tasks = [
      task('first', { arrivals: every(100), vector: 0 }, 2),
      task('port', { arrivals: every(500), vector: 1, clears: 'never' }, 5),
      task('last', { arrivals: every(100), vector: 2 }, 2),
    ];
    const bounds = tasks.map((one) => boundOf({ core: BARE, tasks, masked: [] }, one));
    expect(bounds[0]).not.toBe('unbounded');
    expect(bounds.slice(1)).toEqual(['unbounded', 'unbounded']);
  });

  it('are never exceeded by what a simulation sees, for 2,000 random sets', () => {
    fc.assert(
      fc.property(anyModel, fc.integer({ min: 1, max: 1e6 }), (model, seed) => {
        const { tally } = simulate(model, { cycles: 20_000, seed });
        model.tasks.forEach((one, at) => {
          const bound = boundOf(model, one);
          if (bound === 'unbounded') return;
          expect(tally[at]?.worstWait).toBeLessThanOrEqual(bound.wait);
          expect(tally[at]?.worstResponse).toBeLessThanOrEqual(bound.response);
        });
      }),
      { numRuns: 2000 },
    );
  });
});
