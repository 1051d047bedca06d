import { stepBudget } from '../../src/assign/step-budget.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { withSettings } from '../../src/plan/edit.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { LOCK_GATE } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

const part = shipped('atmega328p');

const RAIL: PlanSignal = {
  id: 'rail',
  name: 'Rail lights',
  kind: 'string',
  target: { bitS: 0.00000125, zeroS: 0.0000004, oneS: 0.0000008, leds: 30 },
};

/** Tones of frequencies that no two share a timer with: three of them take all three timers. */
const TONES = [441, 523, 659].map((frequencyHz, at): PlanSignal => ({
  id: `tone-${at}`,
  name: `Tone ${at}`,
  kind: 'tone',
  target: { frequencyHz, toleranceCents: 5 },
  ...(at === 0 ? { pin: 'PB1' } : {}),
}));

function assigned(signals: PlanSignal[]): { plan: Plan; assignment: ReturnType<typeof assignPlan> } {
  const plan: Plan = { ...LOCK_GATE, signals };
  const assignment = assignPlan(plan, part, stepBudget(20_000));
  return { plan: assignment.feasible ? withSettings(plan, assignment.settings) : plan, assignment };
}

describe('assignment beside loops of the program', () => {
  it('a string that a loop sends takes a pin and leaves all timers to the others', () => {
    const { plan, assignment } = assigned([...TONES, RAIL]);
    expect(assignment.feasible).toBe(true);
    const { signals, conflicts, failures } = evaluatePlan(plan, part);
    expect([conflicts, failures]).toEqual([[], []]);
    expect(signals[3]?.outcome?.setting).toMatchObject({ drive: 'bit-loop', top: 20 });
  });

  it('a string whose timer the program cannot feed goes to the loop', () => {
    const fed: PlanSignal = {
      ...RAIL,
      setting: {
        drive: 'pwm',
        timer: 'TIMER0',
        mode: 'fast-ocra',
        channel: 'OC0B',
        pin: 'PD5',
        prescaler: 1,
        top: 19,
        compare: 12,
      },
    };
    // A bit has 20 cycles, and handing one over takes up to 38.
    expect(assigned([fed]).assignment.settings[0]?.setting.drive).toBe('bit-loop');
  });

  it('the pin of a loop is nobody else’s', () => {
    const lamps = ['PB1', 'PB2'].map((pin, at): PlanSignal => ({
      id: `lamp-${at}`,
      name: `Lamp ${at}`,
      kind: 'blink',
      target: { frequencyHz: 2 },
      ...(at === 0 ? { pin } : {}),
    }));
    const { plan, assignment } = assigned([{ ...RAIL, pin: 'PB2' }, ...lamps]);
    expect(assignment.feasible).toBe(true);
    expect(evaluatePlan(plan, part).conflicts).toEqual([]);
    const both = assigned([{ ...RAIL, pin: 'PB1' }, ...lamps]).assignment;
    expect(both.feasible).toBe(false);
  });

  it('a signal that is locked to a delay loop stays there', () => {
    const horn: PlanSignal = {
      id: 'horn',
      name: 'Horn',
      kind: 'blink',
      target: { frequencyHz: 100 },
      locked: true,
      setting: { drive: 'delay-loop', pin: 'PD4', top: 40_000, compare: 20_000 },
    };
    const { assignment } = assigned([horn, ...TONES]);
    expect(assignment.settings.find(({ signal }) => signal === 'horn')?.setting).toEqual(horn.setting);
  });
});
