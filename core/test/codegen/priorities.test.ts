import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { runOnChip } from '../helpers/chip.ts';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

function tick(id: string, name: string, setting: Setting, priority?: number): PlanSignal {
  return {
    id,
    name,
    kind: 'tick',
    target: { frequencyHz: 1000, frequencyTolerancePpm: 500_000 },
    setting,
    ...(priority === undefined ? {} : { handler: { priority } }),
  };
}

/** 1 kHz from a timer of 16 bits at 84 MHz. */
function onTimer(timer: string): Setting {
  return { drive: 'interrupt', timer, mode: 'up', prescaler: 84, top: 999, divider: 1 };
}

const arm = shipped('stm32f401');
const CLOCK: Plan['clock'] = {
  source: 'crystal',
  sourceHz: 8_000_000,
  tolerancePpm: 30,
  settings: { pllM: 8, pllN: 336, pllP: 4 },
};

function planOf(...signals: PlanSignal[]): Plan {
  const [first] = signals;
  if (!first) throw new Error('no signal');
  return { ...planOn(arm, first), clock: CLOCK, signals };
}

/** Values of registers at the end of a start. */
function started(plan: Plan): Map<string, number> {
  const { files } = planCode(plan, arm);
  const body = ['try_out_init();', 'try_out_start();'];
  const [steps = []] = runOnChip([{ part: arm, files, body }]);
  return new Map(steps.flatMap((step) => (step.do === 'write' ? [[step.register, step.value]] : [])));
}

describe('priorities of interrupts', () => {
  // TIM3 is interrupt 29: byte 1 of word 7; TIM4 is 30. Four bits of priority are the upper ones of a byte.
  const both = planOf(tick('beat', 'Beat', onTimer('TIM3'), 5), tick('chime', 'Chime', onTimer('TIM4'), 2));

  it('are written where the controller keeps them, and stand in the register table', () => {
    const value = (5 << 12) | (2 << 20);
    expect(started(both).get('NVIC_IPR7')).toBe(value);
    const { registers } = evaluatePlan(both, arm);
    expect(registers.find(({ name }) => name === 'NVIC_IPR7')?.value).toBe(value);
    expect(planCode(both, arm).leftOut).toEqual([]);
  });

  it('one that a signal does not give is the most urgent, once another gives one', () => {
    const plan = planOf(tick('beat', 'Beat', onTimer('TIM3'), 5), tick('chime', 'Chime', onTimer('TIM4')));
    expect(started(plan).get('NVIC_IPR7')).toBe(5 << 12);
  });

  it('are left alone where no signal gives one', () => {
    const plan = planOf(tick('beat', 'Beat', onTimer('TIM3')));
    expect([...started(plan).keys()].filter((name) => name.startsWith('NVIC_IPR'))).toEqual([]);
  });

  it('of the system timer is the last byte of its register', () => {
    const systick: Setting = {
      drive: 'interrupt',
      timer: 'SYSTICK',
      mode: 'down',
      prescaler: 1,
      top: 83_999,
      divider: 1,
    };
    expect(started(planOf(tick('beat', 'Beat', systick, 3))).get('SCB_SHPR3')).toBe(0x30000000);
  });

  it('above what the part has fail, and are not clamped without a word', () => {
    const plan = planOf(tick('beat', 'Beat', onTimer('TIM3'), 99));
    const [beat] = evaluatePlan(plan, arm).signals;
    expect(beat?.verdict).toBe('fail');
    const sentence = 'Beat: the priority 99 of its interrupts; STM32F401 has 0 to 15.';
    expect(planCode(plan, arm, { failing: true }).leftOut).toEqual([sentence]);
  });

  it('are told as left out where the part’s data has no place for them', () => {
    const avr = shipped('atmega328p');
    const setting: Setting = {
      drive: 'interrupt',
      timer: 'TIMER1',
      mode: 'ctc',
      prescaler: 1,
      top: 15_999,
      divider: 1,
    };
    const plan = planOn(avr, tick('beat', 'Beat', setting, 1));
    expect(planCode(plan, avr, { failing: true }).leftOut).toEqual([
      expect.stringContaining('the priority 1'),
    ]);
    expect(() => planCode(plan, avr)).toThrow(/Not in the code/);
  });
});
