import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { planCpu } from '../../src/evaluate/cpu-model.ts';
import { settingsOf } from '../../src/evaluate/evaluate.ts';
import { clockPath } from '../../src/clock/path.ts';
import { pic18f4620 as part } from '../../src/part/parts/pic/pic18f4620.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { planOn } from '../helpers/plan.ts';

const HEATER: PlanSignal = {
  ...{ id: 'heater', name: 'Heater', kind: 'pwm', pin: 'RB0' },
  target: { frequencyHz: 100, duty: 0.25, minSteps: 5000 },
};

/** By hand: 40 MHz / 4 / 2 = 5 MHz, 100 Hz are 50,000 counts, a quarter is 12,500. */
const BY_HAND: Setting = {
  ...{ drive: 'interrupt-pair', timer: 'TMR1E', mode: 'event', prescaler: 2, top: 49_999 },
  ...{ channel: 'CCP1', pin: 'RB0', compare: 12_500 },
};

describe('PWM on PIC18F4620 by two interrupts, one block clearing the counter, the other ending the pulse', () => {
  it('is what fit proposes, with some 50,000 steps where software PWM had a hundred', () => {
    const { signals, failures } = evaluatePlan(planOn(part, HEATER), part);
    expect(signals[0]?.outcome?.setting).toEqual(BY_HAND);
    expect(signals[0]?.outcome?.steps).toBeGreaterThan(49_900);
    expect(failures).toEqual([]);
  });

  it('sets the period in CCPR2, the end of the pulse in CCPR1, the special event and the interrupt alone', () => {
    const values = Object.fromEntries(
      settingRegisters(part, BY_HAND).map(({ name, value, mask }) => [name, [value, mask]]),
    );
    // 49,999 is 0xC34F, 12,500 is 0x30D4; mode 11 of block 2, mode 10 of block 1; Timer 1 on, divided by 2, on its own clock.
    expect(values).toMatchObject({
      ...{ CCPR2H: [0xc3, 0xff], CCPR2L: [0x4f, 0xff], CCPR1H: [0x30, 0xff], CCPR1L: [0xd4, 0xff] },
      ...{ CCP2CON: [0x0b, 0x0f], CCP1CON: [0x0a, 0x0f], T1CON: [0x11, 0x33], T3CON: [0, 0x48] },
      ...{ PIE1: [0x04, 0x04], PIE2: [0x01, 0x01] },
    });
  });

  it('needs no reload: two interrupts a period, at the counts of the matches', () => {
    const plan = planOn(part, { ...HEATER, setting: BY_HAND });
    const { model } = planCpu(
      plan,
      part,
      clockPath(part, plan.clock),
      settingsOf(plan, part, clockPath(part, plan.clock)),
    );
    expect(model.tasks).toHaveLength(2);
    const { files } = planCode(plan, part);
    const source = files.find(({ name }) => name.endsWith('.c'))?.text ?? '';
    expect(source).not.toMatch(/TMR1H\s*=.*reload/);
    expect(source).toContain('CCP2');
  });
});
