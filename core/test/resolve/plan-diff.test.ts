import { planDiff } from '../../src/resolve/plan-diff.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { shipped } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';

const part = shipped('atmega328p');

const setting = (compare: number) => ({
  drive: 'pwm' as const,
  timer: 'TIMER1',
  mode: 'fast-icr',
  channel: 'OC1A',
  pin: 'PB1',
  prescaler: 1,
  top: 15999,
  compare,
});

const fan = (duty: number, compare: number): PlanSignal => ({
  id: 'fan',
  name: 'Fan',
  pin: 'PB1',
  kind: 'pwm',
  target: { frequencyHz: 1000, duty },
  setting: setting(compare),
});

const plain = (text: string | undefined): string | undefined => text?.replace(/[\u202f\u00a0]/g, ' ');

describe('the difference of two plans', () => {
  it('is nothing for the same plan', () => {
    const one = { plan: planOn(part, fan(0.25, 3999)), part };
    expect(planDiff(one, one)).toEqual({
      plan: [],
      signals: [],
      registers: [],
      code: [],
      checks: [],
      passing: { before: '2 of 2', after: '2 of 2' },
      worse: false,
    });
  });

  it('names the target, the compare value and its register, and the lines of code', () => {
    const diff = planDiff(
      { plan: planOn(part, fan(0.25, 3999)), part },
      { plan: planOn(part, fan(0.5, 7999)), part },
    );
    const [own] = diff.signals;
    expect(plain(own?.target?.before)).toBe(
      'Fan on PB1 gets PWM at 1 000 Hz within 1 %, high for 25 % of the time, in 1 step or more.',
    );
    expect(plain(own?.target?.after)).toContain('high for 50 %');
    expect(own?.setting?.after).toContain('Compare 7999');
    expect(diff.registers).toEqual([{ register: 'OCR1A', before: '0x0F9F', after: '0x1F3F' }]);
    expect(diff.code.map(({ name }) => name)).toContain('try_out.c');
    expect(diff.worse).toBe(false);
  });

  it('is worse where a check that passed fails now, and says which', () => {
    const diff = planDiff(
      { plan: planOn(part, fan(0.25, 3999)), part },
      { plan: planOn(part, fan(0.25, 7999)), part },
    );
    expect(diff.checks).toEqual([
      { signal: 'fan', check: 'duty', before: 'pass', after: 'fail', worse: true },
    ]);
    expect(diff.passing).toEqual({ before: '2 of 2', after: '1 of 2' });
    expect(diff.noCode?.after).toContain('Fan');
    expect(diff.worse).toBe(true);
  });

  it('is no worse the other way, or for a signal that goes', () => {
    const wrong = { plan: planOn(part, fan(0.25, 7999)), part };
    const right = { plan: planOn(part, fan(0.25, 3999)), part };
    expect(planDiff(wrong, right).worse).toBe(false);
    const gone = planDiff(right, { plan: planOn(part), part });
    expect(gone.worse).toBe(false);
    expect(gone.signals[0]).toMatchObject({
      signal: 'fan',
      target: { before: expect.any(String) as string },
    });
    expect(gone.signals[0]?.target).not.toHaveProperty('after');
  });

  it('is worse for a conflict that comes', () => {
    const other: PlanSignal = {
      ...fan(0.25, 3999),
      id: 'lamp',
      name: 'Lamp',
      pin: 'PB2',
      setting: { ...setting(3999), channel: 'OC1B', pin: 'PB2', top: 7999 },
    };
    const one = { plan: planOn(part, fan(0.25, 3999)), part };
    expect(planDiff(one, { plan: planOn(part, fan(0.25, 3999), other), part }).worse).toBe(true);
  });
});
