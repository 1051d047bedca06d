import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan, settingsOf } from '../../src/evaluate/evaluate.ts';
import { underInterrupts } from '../../src/evaluate/interrupt-checks.ts';
import { EVALUATED, simulatePlan } from '../../src/evaluate/interrupts.ts';
import { evaluateSetting } from '../../src/evaluate/signal.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { PARTS } from '../helpers/parts.ts';
import { typedPlans } from '../helpers/random-plans.ts';

/** Plans for each part; `HZ_RUNS` makes them more. */
const RUNS = Number(process.env['HZ_RUNS'] ?? 2);

/** Phases that are drawn for each plan that passes. */
const PHASES = 20;

const passing = { plans: 0, interrupts: 0 };

/** The first check that fails where each task comes at another moment than it was judged for; undefined where all pass. */
function failsAt(part: Part, plan: Plan, shares: readonly number[]): string | undefined {
  const path = clockPath(part, plan.clock);
  const settings = settingsOf(plan, part, path);
  const { cpu } = simulatePlan(plan, part, path, settings, { ...EVALUATED, most: 1 });
  const moments = cpu.model.tasks.map((_, at) => Math.floor((shares[at] ?? 0) * 1e6));
  const { report } = simulatePlan(plan, part, path, settings, { ...EVALUATED, most: 1500, moments });
  for (const signal of plan.signals) {
    const setting = settings.get(signal.id);
    if (!setting) continue;
    const own = underInterrupts(
      evaluateSetting(part, path, signal, setting),
      signal,
      report,
      plan.cpu !== undefined,
    );
    const failing = own.checks.find(({ verdict }) => verdict === 'fail');
    if (failing)
      return `${signal.name}: ${failing.label ?? failing.property} ${failing.value}, ${failing.note}`;
  }
  return undefined;
}

describe.each(PARTS.map((part) => [part.name, part] as const))('what passes on %s', (_, part) => {
  it('is in the code without a note, and passes at any phase of timers and tasks', () => {
    const shares = fc.array(
      fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 8, maxLength: 8 }),
      {
        minLength: PHASES,
        maxLength: PHASES,
      },
    );
    fc.assert(
      fc.property(typedPlans(part), shares, (plan, phases) => {
        const { failures, conflicts, interrupts } = evaluatePlan(plan, part);
        if (failures.length + conflicts.length > 0) return;
        passing.plans += 1;
        const { leftOut, files } = planCode(plan, part);
        expect(leftOut).toEqual([]);
        expect(files.some(({ text }) => text.includes('Not in this code'))).toBe(false);
        if (interrupts.edges.size === 0) return;
        passing.interrupts += 1;
        for (const one of phases) expect(failsAt(part, plan, one)).toBeUndefined();
      }),
      { numRuns: RUNS },
    );
  });
});

it('and many do', () => {
  expect(passing.plans).toBeGreaterThan(0);
  // Of few plans none may move a pin by interrupts.
  expect(passing.interrupts).toBeGreaterThanOrEqual(RUNS < 10 ? 0 : 1);
});
