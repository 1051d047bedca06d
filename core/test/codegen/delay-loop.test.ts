import { planCode } from '../../src/evaluate/code.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { levelOf } from '../helpers/chip-play.ts';
import { runOnChip } from '../helpers/chip.ts';
import { PARTS } from '../helpers/parts.ts';
import { planWith } from '../helpers/sequence-plans.ts';

const HUM: PlanSignal = { id: 'hum', name: 'Hum', kind: 'blink', target: { frequencyHz: 50, duty: 0.3 } };

const cases = PARTS.flatMap((part) => {
  const made = planWith(part, HUM, 'delay-loop');
  return made?.setting.drive === 'delay-loop' ? [{ part, ...made, setting: made.setting }] : [];
});

describe('a signal that a delay loop makes', () => {
  it('is high and low for the passes of its setting, on every part that has such a loop', () => {
    expect(cases.length).toBeGreaterThan(5);
    const runs = runOnChip(
      cases.map(({ part, plan }) => ({
        part,
        files: planCode(plan, part, { failing: true }).files,
        body: [
          'try_out_init();',
          'try_out_start();',
          'mark("play");',
          'hum_period();',
          'hum_period();',
          'mark("end");',
        ],
      })),
    );
    cases.forEach(({ part, setting }, at) => {
      const steps = runs[at] ?? [];
      const from = steps.findIndex((step) => step.do === 'mark' && step.name === 'play');
      const played = steps.slice(from + 1).flatMap((step): (string | number)[] => {
        if (step.do === 'mark') return step.name.startsWith('passes=') ? [Number(step.name.slice(7))] : [];
        if (step.do !== 'write') return [];
        const level = levelOf(part, setting.pin, step.register, step.value);
        return level === undefined ? [] : [level === 1 ? 'high' : 'low'];
      });
      const period = ['high', setting.compare, 'low', setting.top - setting.compare];
      expect([part.id, played]).toEqual([part.id, [...period, ...period]]);
      // 30 % of 20 ms in passes of so many cycles.
      expect(setting.compare / setting.top).toBeCloseTo(0.3, 3);
    });
  });

  it('goes through its sequence in one call: two periods, two dark, a fade in three, at another rate', () => {
    const sequence: PlanSignal['sequence'] = {
      steps: [
        { periods: 2 },
        { rest: true, periods: 2 },
        { periods: 3, duty: 0, toDuty: 1 },
        { periods: 1, frequencyHz: 100 },
      ],
    };
    const made = cases.flatMap(({ part }) => {
      const one = planWith(part, { ...HUM, sequence }, 'delay-loop');
      return one?.setting.drive === 'delay-loop' ? [{ part, ...one, setting: one.setting }] : [];
    });
    expect(made.length).toBe(cases.length);
    const runs = runOnChip(
      made.map(({ part, plan }) => ({
        part,
        files: planCode(plan, part, { failing: true }).files,
        body: ['try_out_init();', 'try_out_start();', 'mark("play");', 'hum_pass();', 'mark("end");'],
      })),
    );
    made.forEach(({ part, plan, setting: { pin, top, compare } }, at) => {
      expect([part.id, planCode(plan, part, { failing: true }).leftOut]).toEqual([part.id, []]);
      const steps = runs[at] ?? [];
      const from = steps.findIndex((step) => step.do === 'mark' && step.name === 'play');
      // The level of each stretch of passes.
      let level = 0;
      const stretches = steps.slice(from + 1).flatMap((step): [number, number][] => {
        if (step.do === 'mark' && step.name.startsWith('passes='))
          return [[level, Number(step.name.slice(7))]];
        if (step.do === 'write') level = levelOf(part, pin, step.register, step.value) ?? level;
        return [];
      });
      const half = Math.round(top / 2);
      const wanted = [
        ...[1, 2].flatMap(() => [
          [1, compare],
          [0, top - compare],
        ]),
        ...[1, 2].map(() => [0, top]),
        // 0 %, 50 % and 100 % of a period.
        [0, top],
        [1, half],
        [0, top - half],
        [1, top],
        // Half as long, with the same share.
        [1, Math.round(half * 0.3)],
        [0, half - Math.round(half * 0.3)],
      ];
      expect([part.id, stretches]).toEqual([part.id, wanted]);
    });
  });
});
