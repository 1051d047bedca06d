import fc from 'fast-check';
import { simulate } from '../../src/machine/simulate.ts';
import type { CpuModel } from '../../src/machine/model.ts';
import type { CpuRun } from '../../src/machine/record.ts';
import { anyModel, BARE, every, task } from './models.ts';
import { reference, type Served } from './reference.ts';

function servedIn({ services }: CpuRun): Served[] {
  const { task: tasks, arrival, start, written, end } = services;
  return Array.from(tasks, (at, i) => ({
    task: at,
    arrival: arrival[i] as number,
    start: start[i] as number,
    written: written[i] as number,
    end: end[i] as number,
  }));
}

function run(model: CpuModel, cycles: number): CpuRun {
  return simulate(model, { cycles, seed: 1 });
}

describe('simulated interrupts', () => {
  it('agree with a walk through every cycle, for 2,000 random sets', () => {
    fc.assert(
      fc.property(anyModel, fc.integer({ min: 1, max: 1e6 }), (model, seed) => {
        const fast = simulate(model, { cycles: 1200, seed });
        const slow = reference(model, 1200, seed);
        expect(servedIn(fast)).toEqual(slow.served);
        expect(fast.tally.map(({ lost }) => lost)).toEqual(slow.lost);
        expect(fast.main.cycles).toBe(slow.mainCycles);
      }),
      { numRuns: 2000 },
    );
  });

  it('account for every cycle once', () => {
    fc.assert(
      fc.property(anyModel, (model) => {
        const { spans, main } = run(model, 5000);
        const sections = Array.from(spans.who).reduce(
          (sum, who, i) => sum + (who < 0 ? (spans.to[i] as number) - (spans.from[i] as number) : 0),
          0,
        );
        const handlers = Array.from(spans.who).reduce(
          (sum, who, i) => sum + (who < 0 ? 0 : (spans.to[i] as number) - (spans.from[i] as number)),
          0,
        );
        expect(handlers + main.cycles).toBe(5000);
        expect(sections).toBeLessThanOrEqual(main.cycles);
      }),
      { numRuns: 300 },
    );
  });

  it('lose the second event while the flag of the first is set', () => {
    // A burst at 100, 110 and 120. The masked section from 90 to 130 keeps the first waiting: one flag, two are lost.
    const model: CpuModel = {
      core: BARE,
      tasks: [task('bus', { arrivals: { kind: 'times', at: [100, 110, 120] } }, 5)],
      masked: [{ name: 'write', every: 1000, length: 40, first: 90 }],
    };
    const { tally } = run(model, 400);
    expect(tally[0]).toMatchObject({ events: 3, served: 1, lost: 2, worstWait: 30, worstResponse: 35 });
  });

  it('keep an event that comes while its handler runs, where the flag was cleared on the way in', () => {
    // Taken at 0, body from 4 to 24, exit until 28; the next one comes at 20 and enters at 28: it starts at 32.
    const model: CpuModel = {
      core: { entry: 4, exit: 4, late: 0, between: false },
      tasks: [task('bus', { arrivals: { kind: 'times', at: [0, 20] } }, 20)],
      masked: [],
    };
    expect(servedIn(run(model, 100))).toEqual([
      { task: 0, arrival: 0, start: 4, written: 4, end: 24 },
      { task: 0, arrival: 20, start: 32, written: 32, end: 52 },
    ]);
    const late = { ...model, tasks: model.tasks.map((one) => ({ ...one, clears: 'end' as const })) };
    expect(run(late, 100).tally[0]).toMatchObject({ served: 1, lost: 1 });
  });

  it('reload a counter 9 counts late: 250 counts take 259', () => {
    // Overflow at 1000, entry of 6 cycles, the write 3 cycles later; what was counted meanwhile is lost.
    const arrivals = {
      kind: 'reloaded',
      first: 1000,
      count: 1,
      counts: 250,
      full: 256,
      adds: false,
      clears: false,
      hold: 0,
    } as const;
    const core = { entry: 6, exit: 4, late: 0, between: false };
    const model: CpuModel = { core, tasks: [task('reload', { arrivals, writeAt: 3 }, 20)], masked: [] };
    expect(servedIn(run(model, 1600)).map(({ arrival }) => arrival)).toEqual([1000, 1259, 1518]);
    const added = {
      ...model,
      tasks: [task('reload', { arrivals: { ...arrivals, adds: true }, writeAt: 3 }, 20)],
    };
    expect(servedIn(run(added, 1600)).map(({ arrival }) => arrival)).toEqual([1000, 1250, 1500]);
  });

  it('interrupt a handler of a lesser level, and chain the next one to its tail', () => {
    // Level 1 runs from 12 on; level 0 comes at 20: entry to 32, 10 cycles to 42, exit to 54; the rest of 30 - 8 = 22 to 76.
    const core = { entry: 12, exit: 12, late: 0, between: false };
    const tasks = [
      task('fast', { arrivals: { kind: 'times', at: [20] } }, 10),
      task('slow', { arrivals: { kind: 'times', at: [0, 30] }, level: 1, vector: 1 }, 30),
    ];
    expect(servedIn(run({ core, tasks, masked: [] }, 300))).toEqual([
      { task: 0, arrival: 20, start: 32, written: 32, end: 42 },
      { task: 1, arrival: 0, start: 12, written: 12, end: 76 },
      { task: 1, arrival: 30, start: 100, written: 100, end: 130 },
    ]);
    const chained = servedIn(run({ core: { ...core, tail: 6 }, tasks, masked: [] }, 300));
    expect(chained[2]).toEqual({ task: 1, arrival: 30, start: 82, written: 82, end: 112 });
  });

  it('say that a handler runs for ever where nobody clears its flag', () => {
    const tasks = [task('port', { arrivals: { kind: 'times', at: [50] }, clears: 'never' }, 10)];
    const result = run({ core: { entry: 4, exit: 4, late: 0, between: true }, tasks, masked: [] }, 1000);
    expect(result.stuck).toBe(0);
    expect(result.tally[0]?.served).toBe(50);
    expect(result.main.cycles).toBe(100);
  });

  it('stop when asked to', () => {
    const tasks = [task('tick', { arrivals: every(10) }, 2)];
    const model: CpuModel = { core: BARE, tasks, masked: [] };
    expect(simulate(model, { cycles: 1e9, seed: 1, most: 500 })).toMatchObject({ cut: true });
    expect(simulate(model, { cycles: 1e9, seed: 1, stops: () => true }).cut).toBe(true);
  });
});
