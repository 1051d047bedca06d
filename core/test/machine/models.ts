import fc from 'fast-check';
import type { Arrivals, CpuCore, CpuModel, CpuTask } from '../../src/machine/model.ts';

/** A processor on which nothing but the handlers themselves takes time. */
export const BARE: CpuCore = { entry: 0, exit: 0, late: 0, between: false };

export function every(n: number, first = 0, jitter = 0): Arrivals {
  return { kind: 'periodic', n, d: 1, first, jitter };
}

export function task(id: string, of: Partial<CpuTask> & Pick<CpuTask, 'arrivals'>, cycles = 1): CpuTask {
  return {
    id,
    name: id,
    level: 0,
    vector: 0,
    cycles: { min: cycles, max: cycles },
    writeAt: 0,
    clears: 'entry',
    ...of,
  };
}

const core: fc.Arbitrary<CpuCore> = fc.record({
  entry: fc.integer({ min: 0, max: 8 }),
  exit: fc.integer({ min: 0, max: 6 }),
  late: fc.integer({ min: 0, max: 4 }),
  between: fc.boolean(),
});

function arrivals(most: number): fc.Arbitrary<Arrivals> {
  const n = fc.integer({ min: 12, max: most });
  const first = fc.integer({ min: 0, max: 60 });
  return fc.oneof(
    fc.record({
      kind: fc.constant('periodic' as const),
      n,
      d: fc.constantFrom(1, 1, 2, 3),
      first,
      jitter: fc.constantFrom(0, 0, 0, 3, 9),
    }),
    fc.record({ kind: fc.constant('sporadic' as const), min: n, spread: fc.integer({ min: 0, max: 40 }) }),
    fc.record({
      kind: fc.constant('times' as const),
      at: fc
        .array(fc.integer({ min: 1, max: 60 }), { minLength: 1, maxLength: 20 })
        .map((apart) => apart.reduce<number[]>((at, by) => [...at, (at[at.length - 1] ?? 0) + by], [])),
    }),
    fc.record({
      kind: fc.constant('reloaded' as const),
      first,
      count: fc.constantFrom(1, 1, 2, 8),
      counts: fc.integer({ min: 15, max: 90 }),
      full: fc.constant(256),
      adds: fc.boolean(),
      clears: fc.boolean(),
      hold: fc.constantFrom(0, 2),
    }),
  );
}

/** Processors with up to five interrupts of any kind: by levels, by vectors, or all through one handler. */
export const anyModel: fc.Arbitrary<CpuModel> = fc
  .record({
    core,
    tail: fc.option(fc.integer({ min: 0, max: 6 }), { nil: undefined }),
    scheme: fc.constantFrom('levels', 'fixed', 'single'),
    tasks: fc.array(
      fc.record({
        arrivals: arrivals(240),
        level: fc.integer({ min: 0, max: 2 }),
        vector: fc.integer({ min: 0, max: 4 }),
        min: fc.integer({ min: 0, max: 14 }),
        more: fc.integer({ min: 0, max: 8 }),
        writeAt: fc.integer({ min: 0, max: 9 }),
        clears: fc.constantFrom<CpuTask['clears']>('entry', 'start', 'end'),
      }),
      { minLength: 1, maxLength: 5 },
    ),
    masked: fc.array(
      fc.record({
        every: fc.integer({ min: 60, max: 300 }),
        length: fc.integer({ min: 1, max: 20 }),
        first: fc.integer({ min: 0, max: 90 }),
        repeats: fc.constantFrom(1, 1, 2, 5),
      }),
      { maxLength: 2 },
    ),
  })
  .map(({ core: around, tail, scheme, tasks, masked }) => ({
    core: {
      ...around,
      between: around.between && scheme !== 'levels',
      ...(tail === undefined ? {} : { tail: Math.min(tail, around.entry) }),
    },
    tasks: tasks
      .map((one, at): CpuTask => ({
        id: `t${at}`,
        name: `t${at}`,
        level: scheme === 'levels' ? one.level : 0,
        vector: scheme === 'single' ? 0 : scheme === 'fixed' ? at : one.vector + 10 * one.level,
        arrivals: one.arrivals,
        cycles: { min: one.min, max: one.min + one.more },
        writeAt: one.writeAt,
        clears: one.clears,
      }))
      .sort((one, other) => one.level - other.level || one.vector - other.vector),
    masked: masked.map((section, at) => ({ ...section, name: `section ${at}` })),
  }));
