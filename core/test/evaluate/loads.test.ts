import { clockPath } from '../../src/clock/path.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { knobReport } from '../../src/evaluate/knob.ts';
import type { Knob } from '../../src/knob/knob.ts';
import { planFault } from '../../src/plan/check-plan.ts';
import { withoutKey } from '../../src/plan/edit.ts';
import { loadsFor } from '../../src/plan/starters.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { stepBudget } from '../../src/assign/step-budget.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { LOCK_GATE } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

const part = shipped('atmega328p');
const path = clockPath(part, LOCK_GATE.clock);

/** 16 MHz / 64 / 2500 = 100 Hz on Timer 1: a count is 4 µs. */
const SLUICE: Setting = {
  ...{ drive: 'pwm', timer: 'TIMER1', mode: 'fast-icr', channel: 'OC1A', pin: 'PB1' },
  ...{ prescaler: 64, top: 2499, compare: 374 },
};

const STROBE: PlanSignal = {
  ...{ id: 'sluice', name: 'Sluice', kind: 'strobe', target: { frequencyHz: 100, onS: 0.0015 } },
  setting: SLUICE,
};

function checked(signal: PlanSignal): { label: string; verdict: string; note?: string }[] {
  const plan: Plan = { ...LOCK_GATE, signals: [signal] };
  const checks = evaluatePlan(plan, part).signals[0]?.outcome?.checks ?? [];
  return checks.flatMap(({ property, label = '', verdict, note }) =>
    property === 'load' ? [{ label, verdict, ...(note === undefined ? {} : { note }) }] : [],
  );
}

function reported(knob: Knob, signal = STROBE) {
  const report = knobReport(part, path, signal, knob, SLUICE);
  if (!report.ok) throw new Error(report.fault.sentence);
  return report.value;
}

describe('loads as checks of a plan', () => {
  it('an LED of 60 mA fails at a pin of 40 mA, which the badge tells', () => {
    const load = { type: 'led', supplyV: 5, forwardV: 2, currentA: 0.06 } as const;
    // 3 V / 60 mA = 50 Ω; 56 Ω give 53.6 mA.
    expect(checked({ ...STROBE, load })).toEqual([{ label: 'pin current', verdict: 'fail' }]);
    const evaluation = evaluatePlan({ ...LOCK_GATE, signals: [{ ...STROBE, load }] }, part);
    expect(evaluation.failures).toEqual([{ signal: 'sluice', name: 'Sluice', text: 'pin current fails' }]);
  });

  describe('a servo of 1 to 2 ms', () => {
    const load = { type: 'servo', minS: 0.001, maxS: 0.002, degrees: 90 } as const;
    const vane = (more: Partial<PlanSignal>): PlanSignal =>
      ({
        id: 'vane',
        name: 'Vane',
        kind: 'pulse',
        load,
        target: { frameHz: 50, widthS: 0.0015 },
        ...more,
      }) as PlanSignal;

    it('passes where all that its signal can be set to lies between its ends', () => {
      const inside = vane({ target: { frameHz: 50, minS: 0.001, maxS: 0.002 } });
      expect(checked(inside)).toEqual([{ label: 'servo range', verdict: 'pass' }]);
    });

    it('is offered with the ends that its signal has', () => {
      const own = vane({ target: { frameHz: 50, minS: 0.0009, maxS: 0.0021 } });
      expect(loadsFor(own)[0]?.starter).toMatchObject({ type: 'servo', minS: 0.0009, maxS: 0.0021 });
    });

    it.each([
      ['its span', { target: { frameHz: 50, widthS: 0.0015, minS: 0.0007, maxS: 0.0019 } }, '700 us'],
      ['its knob', { knob: { bits: 10, sets: 'width', from: 0.0011, to: 0.0024 } }, '2.4 ms'],
      ['its sequence', { sequence: { steps: [{ forS: 1 }, { forS: 1, widthS: 0.0009 }] } }, '900 us'],
    ] as const)('fails where %s goes beyond them, with the width', (_, more, width) => {
      const [range] = checked(vane(more as Partial<PlanSignal>)).filter(
        ({ label }) => label === 'servo range',
      );
      expect(range?.verdict).toBe('fail');
      expect(range?.note?.replaceAll('µ', 'u')).toContain(width);
    });
  });

  it('flicker of 100 Hz is above low risk, with the reason', () => {
    const [, flicker] = checked({
      ...STROBE,
      load: { type: 'led', supplyV: 5, forwardV: 2, currentA: 0.01, flicker: 'low-risk' },
    });
    expect([flicker?.label, flicker?.verdict]).toEqual(['flicker', 'fail']);
    expect(flicker?.note).toMatch(/1.250.Hz or more/);
  });

  it('a width beyond what was read fails; one at the end of the readings passes', () => {
    const readings = {
      of: 'width',
      unit: 'lx',
      points: [
        { set: 0.0005, seen: 1 },
        { set: 0.0014, seen: 9 },
      ],
    } as const;
    const [check] = checked({ ...STROBE, readings: { ...readings, points: [...readings.points] } });
    expect([check?.label, check?.verdict]).toEqual(['usable range', 'fail']);
    expect(check?.note).toMatch(/^Readings go from 500.µs to 1\.4.ms\.$/);
    const wider = {
      ...readings,
      points: [
        { set: 0.0005, seen: 1 },
        { set: 0.0015, seen: 9 },
      ],
    };
    expect(checked({ ...STROBE, readings: wider })).toEqual([{ label: 'usable range', verdict: 'pass' }]);
  });

  it('assignment does not refuse what no other setting would change, and obeys what one would', () => {
    const free = withoutKey(STROBE, 'setting');
    const load = { type: 'led', supplyV: 5, forwardV: 2, currentA: 0.06 } as const;
    const found = assignPlan({ ...LOCK_GATE, signals: [{ ...free, load }] }, part, stepBudget(1000));
    expect(found.feasible).toBe(true);
    // 100 Hz cannot have no flicker, wherever it is placed.
    const limited = assignPlan(
      { ...LOCK_GATE, signals: [{ ...free, load: { ...load, flicker: 'low-risk' } }] },
      part,
      stepBudget(1000),
    );
    expect(limited.feasible).toBe(false);
  });
});

describe('a knob of a strobe at 16 MHz / 64 = 250 kHz', () => {
  it('linear in frequency from 20 to 200 Hz: 109.99 Hz in its middle, 2273 counts; linear in period 36.35 Hz', () => {
    const middle = (report: ReturnType<typeof reported>): number | undefined => report.made[512];
    // 200 - 20 in tenths and more: 8 x 1023 numbers want a scale of 100. 512 x 18,000 / 1023 = 9008; 11,008 hundredths of a Hz.
    expect(middle(reported({ bits: 10, sets: 'frequency', from: 20, to: 200 }))).toBeCloseTo(
      250_000 / Math.floor(25_000_000 / 11_008),
      9,
    );
    // From 12,500 to 1250 counts: 12,500 - floor(512 x 11,250 / 1023) = 6870.
    expect(middle(reported({ bits: 10, sets: 'period', from: 0.05, to: 0.005 }))).toBeCloseTo(
      6870 / 250_000,
      12,
    );
  });

  it('tells the other way in its sentence, and steps at both ends', () => {
    const { sentence, coarsest } = reported({ bits: 10, sets: 'frequency', from: 20, to: 200 });
    expect(sentence).toMatch(/linear in period it would give 36\.36.Hz/);
    // 0.176 Hz a reading: 0.88 % of 20 Hz, 0.088 % of 200 Hz.
    expect(coarsest.share).toBeGreaterThan(0.008);
    expect(coarsest.reading).toBeLessThan(30);
  });

  it('is refused where it ends at zero, and beyond the counter', () => {
    expect(reported({ bits: 10, sets: 'frequency', from: 0, to: 200 }).zeroAt).toBe(0);
    // 65,536 counts of 4 µs are 262 ms: 3.81 Hz is the slowest.
    expect(reported({ bits: 10, sets: 'frequency', from: 3, to: 200 }).beyondAt).toBe(0);
    const [check] = checked({ ...STROBE, knob: { bits: 10, sets: 'frequency', from: 0, to: 200 } });
    expect([check?.verdict, /the frequency is zero/.test(check?.note ?? '')]).toEqual(['fail', true]);
  });

  it('in 16 bits its 4,096 readings overflow where reading x span passes 65,535', () => {
    // Duty 0 to 100 %: 2500 counts; 27 x 2499 = 67,473.
    const { overflowAt } = reported({ bits: 12, sets: 'duty', from: 0, to: 1, wide: 16 });
    expect(overflowAt).toBe(27);
  });

  it('a display linear in the frequency over a knob linear in the period is right at both ends alone', () => {
    const { display } = reported({
      bits: 10,
      sets: 'period',
      from: 0.05,
      to: 0.005,
      display: { unit: 'rpm', from: 1200, to: 12_000 },
    });
    // Shown - is is greatest, as a share, where (1200 + 10,800 s)(0.05 - 0.045 s) / 60 is: at s = 0.5.
    expect(Math.abs((display?.reading ?? 0) - 512)).toBeLessThan(3);
    expect((display?.shown ?? 0) / (display?.is ?? 1)).toBeCloseTo((6600 / 60) * 0.0275, 2);
  });

  it('a plan refuses a knob with equal ends and a load of another shape, with the place', () => {
    const knob: Knob = { bits: 10, sets: 'duty', from: 0.5, to: 0.5 };
    expect(planFault({ ...LOCK_GATE, signals: [{ ...STROBE, knob }] }, [part])?.sentence).toMatch(/knob/);
    const load = { type: 'led', supplyV: 5 } as never;
    expect(planFault({ ...LOCK_GATE, signals: [{ ...STROBE, load }] }, [part])?.sentence).toMatch(
      /forward|load/,
    );
  });
});
