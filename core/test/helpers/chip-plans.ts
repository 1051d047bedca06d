import fc from 'fast-check';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';

const duty = fc.integer({ min: 1, max: 19 }).map((twentieths) => twentieths / 20);
const rate = (low: number, high: number): fc.Arbitrary<number> =>
  fc.double({ min: Math.log10(low), max: Math.log10(high), noNaN: true }).map((power) => {
    const digits = 10 ** (Math.floor(power) - 2);
    return Math.round(10 ** power / digits) * digits;
  });

const signal: fc.Arbitrary<Pick<PlanSignal, 'kind' | 'target'>> = fc.oneof(
  fc.record({ kind: fc.constant('blink'), target: fc.record({ frequencyHz: rate(0.5, 50), duty }) }),
  fc.record({ kind: fc.constant('tone'), target: fc.record({ frequencyHz: rate(50, 4000) }) }),
  fc.record({ kind: fc.constant('tick'), target: fc.record({ frequencyHz: rate(10, 2000) }) }),
  fc.record({
    kind: fc.constant('pwm'),
    target: fc.record({ frequencyHz: rate(100, 4000), duty, minSteps: fc.constantFrom(10, 100) }),
  }),
  fc.record({
    kind: fc.constant('pulse'),
    target: fc.constantFrom(
      { frameHz: 50, minS: 0.001, maxS: 0.002 },
      { frameHz: 40, minS: 0.0005, maxS: 0.0025 },
    ),
  }),
  fc.record({ kind: fc.constant('measure'), target: fc.constant({ minHz: 20, maxHz: 200 }) }),
);

/** The clock of a new plan, but with a crystal where it would be an oscillator that hardly any target allows. */
function steadyClock(part: Part): Plan['clock'] {
  const found = part.clocks.find((node) => node.kind === 'source' && node.id === part.defaultClock.source);
  const loose = found?.kind === 'source' && found.tolerancePpm > 1000;
  return loose ? { source: 'crystal', sourceHz: 8_000_000 } : part.defaultClock;
}

/** Plans for a part of up to four signals: of those drawn the ones that it can do together. */
export function plansFor(part: Part): fc.Arbitrary<Plan> {
  return fc.array(signal, { minLength: 1, maxLength: 4 }).map((signals): Plan => {
    const empty: Plan = {
      format: 'herzschlag-plan',
      version: 2,
      name: 'On chip',
      part: part.id,
      clock: steadyClock(part),
      signals: [],
    };
    return signals.reduce((plan, one, at) => {
      const added = { ...one, id: `s${at}`, name: `Signal ${at + 1}` } as PlanSignal;
      const next = { ...plan, signals: [...plan.signals, added] };
      const { failures, conflicts } = evaluatePlan(next, part);
      return failures.length + conflicts.length === 0 ? next : plan;
    }, empty);
  });
}
