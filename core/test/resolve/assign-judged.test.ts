import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { withSettings } from '../../src/plan/edit.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { tryPart } from '../../src/resolve/compare-parts.ts';
import { partById } from '../helpers/parts.ts';
import { LOCK_GATE } from '../helpers/plan.ts';

/** A lamp at 1 kHz and 10 % on a pin without an output of a timer: two interrupts make its pulses of 100 µs. */
const LAMP = {
  ...{ id: 'lamp', name: 'Lamp', kind: 'tone', pin: 'PD4' },
  target: { frequencyHz: 1000, ppm: 10_000, duty: 0.1 },
} as unknown as PlanSignal;

/** A handler of 60 µs, as often as each 7 ms: it delays one of the lamp’s edges by up to that. */
const BUS = { tasks: [{ id: 'bus', name: 'Bus', arrives: { everyS: 0.007 }, cycles: 960 }] };

const plan = (more: Partial<Plan>): Plan => ({ ...LOCK_GATE, ...more });

describe('an assignment under the interrupts of the whole plan', () => {
  it('says what fails all the same, as the evaluation of the plan does', () => {
    const asked = plan({ signals: [LAMP], cpu: BUS });
    const found = assignPlan(asked, atmega328p);
    expect(found).toMatchObject({ feasible: true, conflicts: [] });
    expect(found.failing.length).toBeGreaterThan(0);
    expect(found.failing).toEqual(evaluatePlan(withSettings(asked, found.settings), atmega328p).failures);
  });

  it('has nothing to say without the task', () => {
    expect(assignPlan(plan({ signals: [LAMP] }), atmega328p)).toMatchObject({ feasible: true, failing: [] });
  });
});

describe('a plan on a part', () => {
  const trial = (asked: Plan, id = 'atmega328p') => {
    const part = partById(id);
    return part && tryPart(asked, part, id === asked.part ? asked.clock : part.defaultClock);
  };

  it('does not fit where its tasks keep a signal from passing, and says which', () => {
    const found = trial(plan({ signals: [LAMP], cpu: BUS }));
    expect(found).toMatchObject({ assigned: true, feasible: false });
    expect(found?.reasons[0]).toMatch(/^Lamp: /);
    expect(trial(plan({ signals: [LAMP] }))).toMatchObject({ assigned: true, feasible: true, reasons: [] });
  });

  it('counts the processor time of its tasks: 960 cycles and the way in and out each 7 ms are 0.86 %', () => {
    const with_ = trial(plan({ signals: [LAMP], cpu: BUS }))?.cpu ?? 0;
    const without = trial(plan({ signals: [LAMP] }))?.cpu ?? 0;
    // 112,000 cycles are 7 ms; 7 to 8 cycles in and 4 out.
    expect(with_ - without).toBeGreaterThanOrEqual(960 / 112_000);
    expect(with_ - without).toBeLessThanOrEqual((960 + 16) / 112_000);
  });

  it('does not fit where a pin would have to carry more than it can', () => {
    // (5 V - 2 V) / 100 Ω = 30 mA: within 40 mA of ATmega328P, beyond 12 mA of RP2040.
    const signals = [
      {
        ...{ id: 'flash', name: 'Flash', kind: 'blink', target: { frequencyHz: 1 } },
        load: { type: 'led', supplyV: 5, forwardV: 2, currentA: 0.03, resistorOhm: 100 },
      } as unknown as PlanSignal,
    ];
    expect(trial(plan({ signals }))).toMatchObject({ feasible: true });
    const other = trial(plan({ signals }), 'rp2040');
    expect(other).toMatchObject({ assigned: true, feasible: false });
    expect(other?.reasons.join(' ')).toContain('pin current');
  });
});
