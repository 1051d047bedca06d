import fc from 'fast-check';
import type { Part } from '../../src/part/types.ts';
import type { CpuLoad } from '../../src/plan/cpu-load.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import type { SequenceStep } from '../../src/signal/sequence.ts';
import { planOn } from './plan.ts';

/** A number of two digits between two others, evenly by ratio. */
const round = (low: number, high: number): fc.Arbitrary<number> =>
  fc.double({ min: Math.log10(low), max: Math.log10(high), noNaN: true }).map((power) => {
    return Number((10 ** power).toPrecision(2));
  });

const duty = fc.integer({ min: 1, max: 19 }).map((twentieths) => twentieths / 20);

const steps: fc.Arbitrary<SequenceStep[]> = fc.oneof(
  fc
    .tuple(fc.integer({ min: 1, max: 9 }), round(0.2, 5))
    .map(([periods, forS]) => [{ periods }, { rest: true as const, forS }]),
  fc
    .tuple(round(0.5, 3), round(0.5, 3))
    .map(([one, other]) => [{ forS: one }, { rest: true as const, forS: other }]),
  fc.constant<SequenceStep[]>([
    { duty: 0.1, toDuty: 0.9, forS: 2 },
    { duty: 0.9, toDuty: 0.1, forS: 2 },
  ]),
);

const drawn: fc.Arbitrary<Partial<PlanSignal>> = fc.oneof(
  fc.record({
    kind: fc.constant('blink' as const),
    target: fc.record({ frequencyHz: round(0.5, 50), duty }),
  }),
  fc.record({ kind: fc.constant('tone' as const), target: fc.record({ frequencyHz: round(50, 4000) }) }),
  fc.record({ kind: fc.constant('tick' as const), target: fc.record({ frequencyHz: round(10, 4000) }) }),
  fc.record({
    kind: fc.constant('dim' as const),
    target: fc.record({ minHz: round(60, 500), minSteps: fc.constantFrom(10, 100), duty }),
  }),
  fc.record({
    kind: fc.constant('pwm' as const),
    target: fc.record({ frequencyHz: round(100, 4000), duty, minSteps: fc.constantFrom(10, 100) }),
  }),
  fc.constant({ kind: 'pulse' as const, target: { frameHz: 50, minS: 0.001, maxS: 0.002 } }),
  fc.constant({ kind: 'measure' as const, target: { minHz: 20, maxHz: 200 } }),
  fc.constant({
    kind: 'string' as const,
    target: { bitS: 0.00000125, zeroS: 0.0000004, oneS: 0.0000008, leds: 8, frameHz: 20 },
  }),
);

/** Kinds without a sequence, and without a pin to choose. */
const PLAIN = new Set(['tick', 'measure', 'string']);

const signal = fc
  .record({
    drawn,
    steps: fc.option(steps, { freq: 2, nil: undefined }),
    knob: fc.boolean(),
    priority: fc.option(fc.integer({ min: 0, max: 4 }), { freq: 3, nil: undefined }),
    once: fc.boolean(),
  })
  .map(({ drawn: own, steps: rows, knob, priority, once }): Partial<PlanSignal> => {
    const plain = PLAIN.has(own.kind ?? '');
    return {
      ...own,
      ...(rows && !plain ? { sequence: { steps: rows, ...(once ? { once } : {}) } } : {}),
      ...(knob && !rows && own.kind === 'dim'
        ? { knob: { bits: 10, sets: 'duty', from: 0.1, to: 0.8, average: 4 } }
        : {}),
      ...(priority === undefined ? {} : { handler: { priority } }),
    };
  });

const load: fc.Arbitrary<CpuLoad | undefined> = fc.option(
  fc
    .tuple(round(0.0005, 0.02), fc.integer({ min: 20, max: 900 }))
    .map(([everyS, cycles]) => ({ tasks: [{ id: 'bus', name: 'Bus', arrives: { everyS }, cycles }] })),
  { freq: 1, nil: undefined },
);

/**
 * Plans as somebody would type them, of one to three signals with settings left to the product: many pass, many do not. Some signals are on one of the
 * `pins`.
 */
export function typedPlans(part: Part, pins: readonly string[] = []): fc.Arbitrary<Plan> {
  const places = fc.shuffledSubarray([...pins], { minLength: 0 });
  return fc
    .tuple(fc.array(signal, { minLength: 1, maxLength: 3 }), load, places)
    .map(([all, cpu, on]): Plan => {
      const signals = all.map((one, at): PlanSignal => {
        const pin = PLAIN.has(one.kind ?? '') ? undefined : on[at];
        const own = { ...one, id: `s${at}`, name: `Signal ${at + 1}`, ...(pin === undefined ? {} : { pin }) };
        return own as PlanSignal;
      });
      return { ...planOn(part, ...signals), ...(cpu ? { cpu } : {}) };
    });
}
