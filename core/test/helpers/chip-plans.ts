import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { modeOf, timerOf } from '../../src/part/find.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { timerIdOf } from '../../src/timer/setting.ts';

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
  fc.record({
    kind: fc.constant('string'),
    target: fc.constant({ bitS: 0.00000125, zeroS: 0.0000004, oneS: 0.0000008, leds: 8, frameHz: 20 }),
  }),
);

/** The clock of a new plan, but with a crystal where it would be an oscillator that hardly any target allows. */
function steadyClock(part: Part): Plan['clock'] {
  const found = part.clocks.find((node) => node.kind === 'source' && node.id === part.defaultClock.source);
  const loose = found?.kind === 'source' && found.tolerancePpm > 1000;
  return loose ? { source: 'crystal', sourceHz: 8_000_000 } : part.defaultClock;
}

/** A plan whose PWM outputs that are alone on a timer begin at another count, where the timer can. */
function begun(part: Part, plan: Plan, at: number): Plan {
  const settings = evaluatePlan(plan, part).signals.flatMap(({ outcome }) => outcome?.setting ?? []);
  const signals = plan.signals.map((one, index): PlanSignal => {
    const setting = settings[index];
    if (setting?.drive !== 'pwm') return one;
    const timer = timerOf(part, setting.timer);
    const mode = modeOf(timer, setting.mode);
    const alone = settings.filter((other) => timerIdOf(other) === setting.timer).length === 1;
    const able = alone && timer.preset && timer.variantOf === undefined && mode.count === 'up' && !mode.start;
    return able ? { ...one, setting: { ...setting, begin: at % (setting.top + 1) } } : one;
  });
  const next = { ...plan, signals };
  const { failures, conflicts } = evaluatePlan(next, part);
  return failures.length + conflicts.length === 0 ? next : plan;
}

/** Plans for a part of up to four signals: of those drawn the ones that it can do together, some with other first counts. */
export function plansFor(part: Part): fc.Arbitrary<Plan> {
  const signals = fc.array(signal, { minLength: 1, maxLength: 4 });
  return fc.tuple(signals, fc.nat(3000)).map(([drawn, at]): Plan => {
    const empty: Plan = {
      format: 'herzschlag-plan',
      version: PLAN_VERSION,
      name: 'On chip',
      part: part.id,
      clock: steadyClock(part),
      signals: [],
    };
    const placed = drawn.reduce((plan, one, index) => {
      const added = { ...one, id: `s${index}`, name: `Signal ${index + 1}` } as PlanSignal;
      const next = { ...plan, signals: [...plan.signals, added] };
      const { failures, conflicts } = evaluatePlan(next, part);
      return failures.length + conflicts.length === 0 ? next : plan;
    }, empty);
    return at % 2 === 0 ? placed : begun(part, placed, at);
  });
}
