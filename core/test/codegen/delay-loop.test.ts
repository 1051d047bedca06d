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
});
