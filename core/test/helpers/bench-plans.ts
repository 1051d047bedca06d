import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { planOn } from './plan.ts';

/** A vane with a knob and readings from the bench, and a whistle and a beacon whose rate a knob moves. */
const BENCH_SIGNALS: readonly PlanSignal[] = [
  {
    ...{ id: 'vane', name: 'Vane', kind: 'pulse' },
    target: { frameHz: 50, minS: 0.001, maxS: 0.002 },
    knob: { bits: 10, sets: 'width', from: 0.0011, to: 0.0019, deadLow: 12, deadHigh: 30 },
    readings: {
      of: 'width',
      unit: '°',
      points: [
        { set: 0.0011, seen: -40 },
        { set: 0.0014, seen: 0 },
        { set: 0.0019, seen: 55.5 },
      ],
    },
  },
  {
    ...{ id: 'whistle', name: 'Whistle', kind: 'tone', target: { frequencyHz: 600 } },
    knob: { bits: 12, sets: 'frequency', from: 500, to: 900 },
  },
  {
    ...{ id: 'beacon', name: 'Beacon', kind: 'tone', target: { frequencyHz: 700 } },
    knob: { bits: 8, sets: 'period', from: 0.002, to: 0.0015, curve: 'logarithmic' },
  },
];

/** The plans of one of these signals each that a part's outputs can make, with the setting. */
export function benchPlans(part: Part): { plan: Plan; signal: PlanSignal; setting: Setting }[] {
  return BENCH_SIGNALS.flatMap((signal) => {
    const plan = planOn(part, signal);
    const { signals, failures } = evaluatePlan(plan, part);
    const setting = signals[0]?.outcome?.setting;
    return failures.length === 0 && setting?.drive === 'pwm' ? [{ plan, signal, setting }] : [];
  });
}
