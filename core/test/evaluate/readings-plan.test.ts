import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { writePlan } from '../../src/plan/write-plan.ts';
import { editToken } from '../../src/signal/edit.ts';
import { parseReadings } from '../../src/readings/table.ts';
import type { ReadingQuantity, Readings } from '../../src/readings/readings.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { stepBudget } from '../../src/assign/step-budget.ts';
import { withoutKey, withSettings } from '../../src/plan/edit.ts';
import { PARTS, shipped } from '../helpers/parts.ts';

function typed(text: string, of: ReadingQuantity, unit: string): Readings {
  const read = parseReadings(text, of, unit);
  if (!read.ok) throw new Error(read.fault.sentence);
  return { of, unit, points: read.value };
}

function edited(signal: PlanSignal, token: string, text: string): PlanSignal {
  const edit = editToken(signal, token, text);
  if (!edit.ok) throw new Error(edit.fault.sentence);
  return edit.value;
}

const RUDDER: PlanSignal = {
  ...{ id: 'rudder', name: 'Rudder', kind: 'pulse' },
  target: { frameHz: 50, widthS: 0.0015, minS: 0.0006, maxS: 0.0024 },
  readings: typed('0.62 ms\t0\tbuzzes below\n2.31 ms\t180\tstop', 'width', '°'),
};

const HALL: PlanSignal = {
  ...{ id: 'hall', name: 'Hall light', kind: 'dim', target: { minHz: 300, minSteps: 200, duty: 0.5 } },
  readings: typed('14 %;0;dark below\n86 %;100', 'duty', '%'),
};

const SUPPLY: PlanSignal = {
  ...{ id: 'heater', name: 'Heater', kind: 'pwm', target: { frequencyHz: 1000, duty: 0.2, minSteps: 200 } },
  readings: typed('100 %\t4,87 V', 'duty', 'V'),
};

describe('a servo with ends at 0.62 and 2.31 ms, a dimmer usable from 14 to 86 %, a supply of 4.87 V', () => {
  const part = shipped('stm32f401');
  const signals = [
    edited(RUDDER, 'width', '45°'),
    edited(HALL, 'duty', '40 %'),
    edited(SUPPLY, 'duty', '1.8 V'),
  ];
  const bare: Plan = {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Bench',
    part: part.id,
    clock: part.defaultClock,
    signals,
  };
  const plan = withSettings(bare, assignPlan(bare, part, stepBudget(2000)).settings);

  it('are converted: 45° are 1.0425 ms, 1.8 V are 36.96 %', () => {
    const [rudder, , heater] = plan.signals;
    expect(rudder?.kind === 'pulse' && rudder.target.widthS).toBe(0.0010425);
    expect(heater?.kind === 'pwm' && Number(heater.target.duty)).toBeCloseTo(1.8 / 4.87, 8);
  });

  it('are checked: all within what was read; 10 % of the dimmer are not', () => {
    expect(evaluatePlan(plan, part).failures).toEqual([]);
    const dark = {
      ...plan,
      signals: plan.signals.map((one) => (one.id === 'hall' ? edited(one, 'duty', '10 %') : one)),
    };
    const alone = { ...dark, signals: dark.signals.map((one) => withoutKey(one, 'setting')) };
    expect(evaluatePlan(alone, part).failures.map(({ text }) => text)).toEqual([
      expect.stringMatching(/^usable range fails: Readings go from 14.% to 86.%\.$/),
    ]);
  });

  it('are kept: the plan file gives the same readings back', () => {
    const read = readPlan(writePlan(plan), PARTS);
    expect(read.ok && read.value.plan.signals.map(({ readings }) => readings)).toEqual(
      plan.signals.map(({ readings }) => readings),
    );
  });

  it('are exported: setters clamped to 620 to 2310 µs and to 14 to 86 %, one in millidegrees, one in millivolts', () => {
    const text = planCode(plan, part)
      .files.map((file) => file.text)
      .join('\n');
    expect(text).toContain('#define RUDDER_US_MIN 620u\n#define RUDDER_US_MAX 2310u');
    expect(text).toContain('#define HALL_LIGHT_PERCENT_MIN 14u\n#define HALL_LIGHT_PERCENT_MAX 86u');
    expect(text).toContain('rudder_set_millidegrees(int32_t millidegrees)');
    expect(text).toContain('heater_set_millivolts(int32_t millivolts)');
  });
});
