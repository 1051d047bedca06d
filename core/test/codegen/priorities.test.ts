import { planCode } from '../../src/evaluate/code.ts';
import { clockPath } from '../../src/clock/path.ts';
import { simulatePlan } from '../../src/evaluate/interrupts.ts';
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

describe('two levels with one handler each', () => {
  const pic = shipped('pic18f4620');
  const reloaded = (timer: string, top: number): Setting => ({
    ...{ drive: 'interrupt', timer, mode: 'reload', prescaler: 1, top, divider: 1 },
  });
  // 10 MHz of instruction cycles: one every 10,000, and a less urgent one every 49,000.
  const plan: Plan = {
    ...planOn(pic, tick('beat', 'Beat', reloaded('TMR1', 9_990))),
    signals: [
      tick('beat', 'Beat', reloaded('TMR1', 9_990)),
      {
        ...tick('log', 'Log', reloaded('TMR3', 48_990), 1),
        kind: 'tick',
        target: { frequencyHz: 204, frequencyTolerancePpm: 500_000 },
      },
    ],
  };

  it('are switched on, and each asks for its own flags', () => {
    const { files, leftOut } = planCode(plan, pic);
    expect(leftOut).toEqual([]);
    const [source = '', header = ''] = files.map(({ text }) => text);
    expect(source).toContain('void interrupts(void)\n{\n    if (PIR1 & PIR1_TMR1IF_BIT) TMR1_handler();\n}');
    expect(source).toContain(
      'void interrupts_low(void)\n{\n    if (PIR2 & PIR2_TMR3IF_BIT) TMR3_handler();\n}',
    );
    expect(header).toContain(
      'the handler of the high-priority vector calls interrupts(), the handler of the low-priority vector calls interrupts_low().',
    );
    const [steps = []] = runOnChip([{ part: pic, files, body: ['try_out_init();', 'try_out_start();'] }]);
    const last = new Map(steps.flatMap((step) => (step.do === 'write' ? [[step.register, step.value]] : [])));
    const bits = (name: string, mask: number): number => (last.get(name) ?? 0) & mask;
    // TMR1IP set and TMR3IP clear; IPEN; the enable bit of the lower level, in the place of that of peripherals.
    expect([bits('IPR1', 1), bits('IPR2', 2), bits('RCON', 0x80), bits('INTCON', 0x40)]).toEqual([
      1, 0, 0x80, 0x40,
    ]);
  });

  it('let the upper one interrupt the lower one: a handler of 3,000 cycles does not delay it', () => {
    const longest = (priority: number | undefined): number => {
      const signals = plan.signals.map((one) =>
        one.id === 'log'
          ? { ...one, handler: { cycles: 3_000, ...(priority === undefined ? {} : { priority }) } }
          : one,
      );
      const path = clockPath(pic, plan.clock);
      const settings = new Map(
        signals.flatMap(({ id, setting }) => (setting ? [[id, setting] as const] : [])),
      );
      const { report } = simulatePlan({ ...plan, signals }, pic, path, settings, { seconds: 0.5, seed: 1 });
      return report.rows.find(({ signals: own }) => own.includes('beat'))?.wait.worstS ?? NaN;
    };
    // One that begins at 49,000 is at work until 52,000: the other, at 50,000, waits 200 us.
    expect(longest(undefined)).toBeGreaterThan(190e-6);
    expect(longest(1)).toBeLessThan(10e-6);
  });

  it('are one without a priority', () => {
    const signals = plan.signals.map((one) => ({ ...one, handler: {} }));
    const [source = ''] = planCode({ ...plan, signals }, pic).files.map(({ text }) => text);
    expect(source).not.toContain('interrupts_low');
    expect(source).not.toContain('RCON');
  });
});
