import fc from 'fast-check';
import { stepBudget } from '../../src/assign/step-budget.ts';
import { clockPath } from '../../src/clock/path.ts';
import { signalFit } from '../../src/evaluate/choose.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { Part } from '../../src/part/types.ts';
import { withSettings } from '../../src/plan/edit.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { pinsTakenBy } from '../../src/timer/drives/index.ts';
import { claimedWrites } from '../../src/timer/encode.ts';
import { channelsOfSetting, hasTimer, type Setting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';

/** Plans that are searched in both ways; `HZ_RUNS` makes them more. */
const RUNS = Number(process.env['HZ_RUNS'] ?? 2);

/** How many settings of one way out of the part a plain search looks at, and how many combinations in all. */
const OF_A_WAY = 3;
const COMBINATIONS = 4000;

const hz = (low: number, high: number): fc.Arbitrary<number> =>
  fc.integer({ min: 0, max: 24 }).map((at) => Number((low * (high / low) ** (at / 24)).toPrecision(2)));

const drawn: fc.Arbitrary<Partial<PlanSignal>> = fc.oneof(
  fc.record({ kind: fc.constant('tone' as const), target: fc.record({ frequencyHz: hz(100, 4000) }) }),
  fc.record({
    kind: fc.constant('pwm' as const),
    target: fc.record({ frequencyHz: hz(500, 8000), duty: fc.constantFrom(0.1, 0.25, 0.5, 0.7) }),
  }),
  fc.record({
    kind: fc.constant('dim' as const),
    target: fc.record({
      minHz: hz(100, 400),
      minSteps: fc.constantFrom(50, 200),
      duty: fc.constantFrom(0.2, 0.6),
    }),
  }),
  fc.record({ kind: fc.constant('tick' as const), target: fc.record({ frequencyHz: hz(50, 1000) }) }),
);

/** Two to four signals; some are half a period after the one before, some at its frequency. */
const signals = fc
  .array(
    fc.record({ drawn, follows: fc.integer({ min: 0, max: 5 }), degrees: fc.constantFrom(90, 120, 180) }),
    {
      minLength: 2,
      maxLength: 4,
    },
  )
  .map((list) =>
    list.map(({ drawn: own, follows, degrees }, at): PlanSignal => {
      const base = { ...own, id: `s${at}`, name: `Signal ${at + 1}` } as PlanSignal;
      const before = list[at - 1]?.drawn;
      if (!before || follows > 1 || before.kind !== 'tone' || own.kind !== 'tone') return base;
      return { ...base, ...before, phase: { to: `s${at - 1}`, degrees } } as PlanSignal;
    }),
  );

function wayOf(setting: Setting): string {
  const { drive, timer, mode, channel, pin } = { ...setting } as Record<string, unknown>;
  return [drive, timer, mode, channel, pin].join(' ');
}

/** Settings of a signal by a timer, a few of each way out of the part: a loop leaves nothing of the processor to anything else. */
function settingsOf(part: Part, plan: Plan, signal: PlanSignal): Setting[] {
  const ways = new Map<string, number>();
  return signalFit(part, clockPath(part, plan.clock), signal).candidates.flatMap(({ setting }) => {
    if (!hasTimer(setting)) return [];
    const seen = ways.get(wayOf(setting)) ?? 0;
    ways.set(wayOf(setting), seen + 1);
    return seen < OF_A_WAY ? [setting] : [];
  });
}

/** Whether two settings can be in force at once: no field in two ways, no pin and no channel twice. */
function together(part: Part, one: Setting, other: Setting): boolean {
  const held = new Map(
    claimedWrites(part, one).map((write) => [`${write.register} ${write.field}`, write.value]),
  );
  const pins = pinsTakenBy(part, one);
  const channels = hasTimer(one) ? channelsOfSetting(one).map((id) => `${one.timer} ${id}`) : [];
  return (
    claimedWrites(part, other).every(({ register, field, value }) => {
      const mine = held.get(`${register} ${field}`);
      return mine === undefined || mine === value;
    }) &&
    !pinsTakenBy(part, other).some((pin) => pins.includes(pin)) &&
    !(hasTimer(other) && channelsOfSetting(other).some((id) => channels.includes(`${other.timer} ${id}`)))
  );
}

/** The first combination of settings under which a plan passes, by trying one after the other. */
function plainSearch(part: Part, plan: Plan): Plan | undefined {
  const lists = plan.signals.map((signal) => settingsOf(part, plan, signal));
  let tried = 0;
  const go = (chosen: Setting[]): Plan | undefined => {
    if (chosen.length === lists.length) {
      tried += 50;
      const next = withSettings(
        plan,
        chosen.map((setting, at) => ({ signal: plan.signals[at]!.id, setting })),
      );
      const { failures, conflicts } = evaluatePlan(next, part);
      return failures.length === 0 && conflicts.length === 0 ? next : undefined;
    }
    for (const setting of lists[chosen.length]!) {
      tried += 1;
      if (tried > COMBINATIONS) return undefined;
      if (!chosen.every((other) => together(part, other, setting))) continue;
      const found = go([...chosen, setting]);
      if (found) return found;
    }
    return undefined;
  };
  return go([]);
}

describe('what a plain search finds, assignment finds', () => {
  it.each(['atmega328p', 'attiny85', 'pic16f684', 'pic18f4620', 'rp2040', 'samd21g18'])('on %s', (id) => {
    const part = shipped(id);
    let both = 0;
    fc.assert(
      fc.property(signals, (drawn) => {
        const plan: Plan = { ...planOn(part, ...drawn), clock: { ...part.defaultClock, tolerancePpm: 1000 } };
        const plain = plainSearch(part, plan);
        const found = assignPlan(plan, part, stepBudget(400));
        if (plain) {
          both += 1;
          expect({ plan: JSON.stringify(plain.signals), feasible: found.feasible }).toMatchObject({
            feasible: true,
          });
        }
        if (!found.feasible) return;
        const { failures, conflicts } = evaluatePlan(withSettings(plan, found.settings), part);
        if (plain)
          expect([JSON.stringify(plan.signals), failures, conflicts]).toEqual([
            JSON.stringify(plan.signals),
            [],
            [],
          ]);
      }),
      { numRuns: RUNS, seed: 4411 },
    );
    expect(both).toBeGreaterThan(0);
    if (process.env['HZ_RUNS'] !== undefined) process.stderr.write(`${id}: ${both} of ${RUNS} plans pass\n`);
  });
});
