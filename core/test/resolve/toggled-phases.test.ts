import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { withSettings } from '../../src/plan/edit.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { shipped } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';

/** Squares of 1 kHz, each so many degrees after the first. */
function squares(id: string, degrees: readonly number[], pins: readonly string[] = []): Plan {
  const signals = [0, ...degrees].map((after, at): PlanSignal => ({
    id: `s${at}`,
    name: `Square ${at}`,
    kind: 'pwm',
    target: { frequencyHz: 1000 },
    ...(pins[at] === undefined ? {} : { pin: pins[at] }),
    ...(at > 0 ? { phase: { to: 's0', degrees: after } } : {}),
  }));
  return planOn(shipped(id), ...signals);
}

/** Timers, drives and compare values that a plan gets, all of which pass with them. */
function assigned(plan: Plan): { optimal: boolean; timers: Set<string>; compares: [string, number][] } {
  const part = shipped(plan.part);
  const { feasible, optimal, settings } = assignPlan(plan, part);
  expect(feasible).toBe(true);
  expect(evaluatePlan(withSettings(plan, settings), part).failures).toEqual([]);
  const outputs = settings.map(({ setting }) => setting as { timer: string; drive: string; compare: number });
  return {
    optimal,
    timers: new Set(outputs.map(({ timer }) => timer)),
    compares: outputs.map(({ drive, compare }) => [drive, compare]),
  };
}

describe('phases by two toggled matches of one counter', () => {
  // 16 MHz, a period of two runs of 8000 counts. A match at m rises m + 1 counts after the start, so that 90 degrees are 4000.
  it.each([
    [45, 5999, 7999],
    [90, 3999, 7999],
    [135, 1999, 7999],
    [270, 7999, 3999],
    [315, 7999, 5999],
  ])('%d° are matches at %d and %d on PB1 and PB2 of an ATmega328P', (degrees, one, other) => {
    const found = assigned(squares('atmega328p', [degrees], ['PB1', 'PB2']));
    expect(found).toEqual({
      optimal: true,
      timers: new Set(['TIMER1']),
      compares: [
        ['toggle', one],
        ['toggle', other],
      ],
    });
  });

  it.each(['atmega328p', 'mk20dx256'])('takes one timer for any of 15 phases on %s', (id) => {
    const all = Array.from({ length: 15 }, (_, at) => 22.5 * (at + 1));
    const many = all.filter((degrees) => assigned(squares(id, [degrees])).timers.size !== 1);
    expect(many).toEqual([]);
  });
});
