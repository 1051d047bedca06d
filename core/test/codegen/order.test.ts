import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { clockPath } from '../../src/clock/path.ts';
import { cFiles } from '../../src/codegen/c-files.ts';
import { planCode } from '../../src/evaluate/code.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import type { OutputSetting, Setting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';
import { LOCK_GATE } from '../helpers/plan.ts';

function linesOf(id: string, signal: PlanSignal): string[] {
  const part = shipped(id);
  const [source] = planCode(
    {
      format: 'herzschlag-plan',
      version: PLAN_VERSION,
      name: 'order',
      part: id,
      clock: part.defaultClock,
      signals: [signal],
    },
    part,
  ).files;
  return (source?.text ?? '').split('\n').map((line) => line.trim());
}

function linesWith(id: string, setting: Setting): string[] {
  const part = shipped(id);
  const signal = { name: 'Own', sentence: 'Own does its work.', setting };
  const [source] = cFiles(part, clockPath(part, part.defaultClock), 'order', [signal]);
  return (source?.text ?? '').split('\n').map((line) => line.trim());
}

function follow(lines: readonly string[], ...starts: string[]): void {
  const places = starts.map((start) => lines.findIndex((line) => line.startsWith(start)));
  expect(places).not.toContain(-1);
  expect(places).toEqual([...places].sort((one, other) => one - other));
}

const LAMP: PlanSignal = { id: 'lamp', name: 'Lamp', kind: 'blink', target: { frequencyHz: 2 } };

describe('the order that hardware needs', () => {
  it('RP2040: pins that the program drives leave reset before they are set up', () => {
    follow(
      linesOf('rp2040', LAMP),
      'RESETS_RESET = RESETS_RESET & ~(RESETS_RESET_PADS_BANK0_BIT | RESETS_RESET_IO_BANK0_BIT);',
      'while (!(RESETS_RESET_DONE & RESETS_RESET_DONE_IO_BANK0_BIT))',
      'while (!(RESETS_RESET_DONE & RESETS_RESET_DONE_PADS_BANK0_BIT))',
      'GPIO0_CTRL =',
      'SIO_GPIO_OE_SET =',
    );
  });

  it('AM3358: a general timer begins at the value it is loaded with, and a port has its clock before its pins', () => {
    // 24 MHz / 100 Hz = 240 000 counts: 2^32 - 240 000 is 0xFFFC5680.
    const tick = linesWith('am3358', {
      drive: 'interrupt',
      timer: 'DMTIMER2',
      mode: 'reload',
      prescaler: 1,
      top: 239_999,
      divider: 1,
    });
    follow(tick, 'DMTIMER2_TLDR = 0xFFFC5680u;', 'DMTIMER2_TCRR = 0xFFFC5680u;', 'DMTIMER2_TCLR =');
    const lamp = linesWith('am3358', {
      ...{ drive: 'interrupt', timer: 'DMTIMER2', mode: 'reload', prescaler: 1, top: 5_999_999, divider: 1 },
      pin: 'gpio1_18',
    });
    follow(lamp, 'CM_PER_GPIO1_CLKCTRL = (CM_PER_GPIO1_CLKCTRL & ~', 'GPIO1_OE =');
  });

  it('STM32F401: a clock that was enabled is read back; a flag is cleared without touching the others', () => {
    const lines = linesWith('stm32f401', {
      drive: 'interrupt',
      timer: 'TIM3',
      mode: 'up',
      prescaler: 84,
      top: 9999,
      divider: 1,
    });
    follow(lines, 'RCC_APB1ENR =', '(void)RCC_APB1ENR;', 'TIM3_PSC =');
    expect(lines).toContain('TIM3_SR = ~TIM3_SR_UIF_BIT;');
    expect(lines.join('\n')).not.toMatch(/TIM3_SR &=|TIM3_SR = \(TIM3_SR/);
  });

  it('ATmega328P: a flag that starting the timer may have set is cleared before its interrupt is enabled', () => {
    const lines = linesWith('atmega328p', {
      drive: 'interrupt',
      timer: 'TIMER1',
      mode: 'ctc-icr',
      prescaler: 8,
      top: 19_999,
      divider: 1,
    });
    const cleared = lines.findIndex((line) => /^TIFR1 = \(1 << \w+\);$/.test(line));
    const enabled = lines.findIndex((line) => line.startsWith('TIMSK1 |='));
    expect(cleared).toBeGreaterThan(0);
    expect(enabled).toBeGreaterThan(cleared);
  });
});

describe('delays of fixed cycles on the 8-bit family', () => {
  const files = cFiles(
    shipped('atmega328p'),
    clockPath(shipped('atmega328p'), { source: 'crystal', sourceHz: 16e6 }),
    'wait',
    [
      // 4000 passes of four cycles are 1 ms at 16 MHz.
      {
        name: 'Hum',
        sentence: 'Hum waits.',
        setting: { drive: 'delay-loop', pin: 'PB0', top: 4000, compare: 2000 },
      },
    ],
  );

  it.each(['-Os', '-O0', '-O2'])('are two instructions of two cycles each with %s', (level) => {
    const directory = mkdtempSync(join(tmpdir(), 'wait-'));
    try {
      for (const { name, text } of files) writeFileSync(join(directory, name), text);
      const flags = ['-std=c11', '-Wall', '-Wextra', '-Werror', level, '-mmcu=atmega328p'];
      execFileSync('avr-gcc', [...flags, '-c', 'wait.c', '-o', 'out.o'], {
        cwd: directory,
        stdio: ['ignore', 'pipe', 'pipe'],
      });
      const listing = execFileSync('avr-objdump', ['-d', 'out.o'], { cwd: directory }).toString().split('\n');
      const loops = listing.flatMap((line, at) =>
        /\bsbiw\b.*0x01/.test(line) && /\bbrne\b/.test(listing[at + 1] ?? '') ? [at] : [],
      );
      expect(loops).toHaveLength(2);
    } finally {
      rmSync(directory, { recursive: true, force: true });
    }
  });
});

describe('handlers and the start', () => {
  it.each([
    ['stm32f401', 'TIM3', 'up', 'void TIM3_IRQHandler(void)'],
    ['stm32f401', 'SysTick', 'reload', 'void SysTick_Handler(void)'],
    ['rp2040', 'ALARM0', 'alarm', 'void TIMER_IRQ_0_Handler(void)'],
    ['atmega328p', 'TIMER1', 'ctc-icr', 'ISR(TIMER1_CAPT_vect)'],
  ])('%s: the handler of %s has the name that the vector table knows', (id, timer, mode, head) => {
    const part = shipped(id);
    const own = part.timers.find((one) => one.id === timer) ?? part.timers.find(({ name }) => name === timer);
    const known = own?.modes.find((one) => one.id === mode) ?? own?.modes[0];
    const setting = {
      drive: 'interrupt',
      timer: own?.id ?? timer,
      mode: known?.id ?? mode,
      prescaler: 1,
      top: 9999,
      divider: 1,
    };
    const lines = linesWith(id, setting as Setting);
    expect(lines).toContain(head);
  });

  it('whether the processor takes interrupts is left to the program, unless that is asked for', () => {
    const part = shipped('atmega328p');
    const plan: Plan = {
      ...LOCK_GATE,
      signals: [{ id: 't', name: 'T', kind: 'tick', target: { frequencyHz: 100 } }],
    };
    const textOf = (options: { allowInterrupts?: boolean }): string =>
      planCode(plan, part, options).files[0]?.text ?? '';
    expect(textOf({})).not.toMatch(/^ *sei\(\);/m);
    expect(textOf({})).toContain('/* They come once the program lets them: sei(); */');
    expect(textOf({ allowInterrupts: true })).toMatch(/^ *sei\(\);/m);
  });
});

describe('stopping', () => {
  const tick = { drive: 'interrupt', prescaler: 1, top: 9999, divider: 1 } as const;

  it.each([
    [
      'am3358',
      { ...tick, timer: 'DMTIMER2', mode: 'reload' },
      'DMTIMER2_IRQENABLE_CLR = DMTIMER2_IRQENABLE_CLR_OVF_BIT;',
    ],
    [
      'rp2040',
      { ...tick, timer: 'ALARM0', mode: 'alarm' },
      'TIMER_INTE = TIMER_INTE & ~TIMER_INTE_ALARM0_BIT;',
    ],
    ['atmega328p', { ...tick, timer: 'TIMER1', mode: 'ctc-icr' }, 'TIMSK1 &='],
    ['samd21g18', { ...tick, timer: 'TC3', mode: 'match' }, 'TC3_INTENCLR = TC3_INTENCLR_OVF_BIT;'],
    ['bcm2835', { ...tick, timer: 'ST1', mode: 'match' }, 'IC_DISABLE_1 = IC_DISABLE_1_IRQ1_BIT;'],
  ])('%s: disables the interrupt, and the header asks for nothing more', (id, numbers, statement) => {
    const part = shipped(id);
    const own = part.timers.find((one) => one.id === numbers.timer);
    const mode = own?.modes.find((one) => one.id === numbers.mode) ?? own?.modes[0];
    const setting: Setting = { ...numbers, mode: mode?.id ?? '' };
    const signal = { name: 'Own', sentence: 'Own does its work.', setting };
    const [source, header] = cFiles(part, clockPath(part, part.defaultClock), 'order', [signal]);
    const stop = source?.text.slice(source.text.indexOf('void order_stop(void)')) ?? '';
    expect(stop).toContain(statement);
    expect(header?.text).not.toContain('Mask the interrupts of Own before');
  });

  // An AVR can force the level, an STM32 has a mode of it; nothing brings the others' toggled outputs low.
  it.each([
    ['atmega328p', false],
    ['stm32f401', false],
    ['mk20dx256', true],
    ['samd21g18', true],
  ])('%s: says whether a toggled output keeps its level: %s', (id, keeps) => {
    const part = shipped(id);
    const places = part.timers.flatMap((timer) =>
      timer.modes.flatMap((mode) =>
        timer.channels.flatMap((channel) =>
          channel.outputs.flatMap(({ pin, drive, polarity }): OutputSetting[] =>
            drive === 'toggle' && polarity === 'normal' && mode.toggle?.channels.includes(channel.id)
              ? [
                  {
                    ...{ drive, timer: timer.id, mode: mode.id, channel: channel.id, pin, prescaler: 1 },
                    ...{ top: mode.top.kind === 'fixed' ? mode.top.value : 99, compare: 99 },
                  },
                ]
              : [],
          ),
        ),
      ),
    );
    const [setting] = places;
    if (!setting) throw new Error('no toggled output');
    const signal = { name: 'Own', sentence: 'Own does its work.', setting };
    const [, header] = cFiles(part, clockPath(part, part.defaultClock), 'order', [signal]);
    expect(header?.text.includes('The timer keeps the level of Own')).toBe(keeps);
  });
});
