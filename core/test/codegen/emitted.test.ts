import { clockOf, clockPath, ClockError } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { partById } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';
import { exactText } from '../../src/quantity/exact.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import type { OutputSetting, Setting } from '../../src/timer/setting.ts';
import { periodicEdges } from '../../src/wave/edges.ts';
import { hardware } from '../helpers/hardware.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';

function part(id: string): Part {
  const found = partById(id);
  if (!found) throw new Error(`no ${id}`);
  return found;
}

const registers = (id: string, setting: Setting): Record<string, number> =>
  Object.fromEntries(settingRegisters(part(id), setting).map(({ name, value }) => [name, value]));

const clocked = (id: string) => clockPath(part(id), part(id).defaultClock);

describe('AM3358: two dividers in series', () => {
  it('counts 100 MHz; 20 Hz needs a product of at least 5 000 000 / 65 536 = 76.3, so 80 upwards', () => {
    expect(exactText(clockOf(clocked('am3358'), 'l4'))).toBe('100000000');
    const requirement = requirementOf({
      kind: 'blink',
      target: { frequencyHz: 20, frequencyTolerancePpm: 100 },
    });
    const found = hardware(
      fitRequirement(part('am3358'), clocked('am3358'), requirement, 'gpio0_2', 'hardware').candidates,
    );
    const up = found.filter(({ setting }) => setting.mode === 'up' && setting.drive === 'pwm');
    expect(Math.min(...up.map(({ setting }) => setting.prescaler))).toBe(80);
    expect(up[0]).toMatchObject({ errorPpm: 0, steps: 62500, setting: { prescaler: 80, top: 62499 } });
  });

  it('has every product of 1, 2, 4, 6 … 14 and 1, 2, 4 … 128 once, each by factors that give it', () => {
    const { prescaler } = part('am3358').timers[0] ?? { prescaler: undefined };
    const options = prescaler?.kind === 'list' ? prescaler.options : [];
    const wanted = new Set<number>();
    for (const first of [1, 2, 4, 6, 8, 10, 12, 14]) {
      for (const second of [1, 2, 4, 8, 16, 32, 64, 128]) wanted.add(first * second);
    }
    expect(new Set(options.map(({ divide }) => divide))).toEqual(wanted);
    expect(options).toHaveLength(wanted.size);
    for (const { divide, writes } of options) {
      const first = Number(writes['EPWM0_TBCTL.HSPCLKDIV']);
      const second = Number(writes['EPWM0_TBCTL.CLKDIV']);
      expect(divide).toBe((first === 0 ? 1 : 2 * first) * 2 ** second);
    }
  });

  it('is set up by time base, actions and pad', () => {
    const setting: Setting = {
      drive: 'pwm',
      timer: 'EPWM1',
      mode: 'up',
      channel: 'B',
      pin: 'gpio2_17',
      prescaler: 80,
      top: 62499,
      compare: 31250,
    };
    // TBCTL: up; 80 = 10 x 8, HSPCLKDIV 5 and CLKDIV 3. AQCTLB: set at zero, clear at B going up, set going down.
    expect(registers('am3358', setting)).toEqual({
      EPWM1_TBPRD: 62499,
      EPWM1_CMPB: 31250,
      EPWM1_AQCTLB: 0x902,
      EPWM1_TBCTL: expect.any(Number) as number,
      CM_PER_EPWMSS1_CLKCTRL: 2,
      PWMSS_CTRL: 2,
      PWMSS1_CLKCONFIG: 0x100,
      CM_PER_GPIO2_CLKCTRL: 2,
      CONF_GPIO2_17: 2,
    });
    const control = registers('am3358', setting)['EPWM1_TBCTL'] ?? 0;
    const [first, second] = [(control >> 7) & 7, (control >> 10) & 7];
    expect([control & 3, (first === 0 ? 1 : 2 * first) * 2 ** second]).toEqual([0, 80]);
  });

  it('reloads its general timers with 2^32 less the counts', () => {
    const setting: Setting = {
      drive: 'toggle',
      timer: 'DMTIMER4',
      mode: 'reload',
      channel: 'OUT',
      pin: 'gpio2_2',
      prescaler: 1,
      top: 23999999,
      compare: 23999999,
    };
    expect(registers('am3358', setting)).toMatchObject({
      DMTIMER4_TLDR: 2 ** 32 - 24000000,
      DMTIMER4_TCLR: 0b1010000000011,
    });
  });
});

describe('SAMD21G18', () => {
  it('multiplies 32.768 kHz by 1464 to 47.972 352 MHz, and refuses a multiplier that leaves the range', () => {
    expect(exactText(clockOf(clocked('samd21g18'), 'timers'))).toBe('47972352');
    const wrong = { ...part('samd21g18').defaultClock, settings: { dfll: 1000 } };
    expect(() => clockPath(part('samd21g18'), wrong)).toThrow(ClockError);
  });

  it('control timer: 24 bits, single slope, the fifth line from the first channel', () => {
    const setting: Setting = {
      drive: 'pwm',
      timer: 'TCC0',
      mode: 'single',
      channel: 'CC0',
      pin: 'PA14',
      polarity: 'inverted',
      prescaler: 64,
      top: 749567,
      compare: 74957,
    };
    expect(registers('samd21g18', setting)).toEqual({
      TCC0_CTRLA: (5 << 8) + 2,
      TCC0_WAVE: 2,
      TCC0_DRVCTRL: 1 << 20,
      TCC0_PER: 749567,
      TCC0_CC0: 74957,
      PM_APBCMASK: 1 << 8,
      PORT_A_OUTCLR: 1 << 14,
      PORT_A_PINCFG14: 1,
      PORT_A_PMUX7: 5,
    });
  });

  it('plain timer: match PWM with its top in channel 0, on an odd pin', () => {
    const setting: Setting = {
      drive: 'pwm',
      timer: 'TC3',
      mode: 'match-pwm',
      channel: 'CC1',
      pin: 'PA19',
      prescaler: 16,
      top: 59965,
      compare: 4497,
    };
    expect(registers('samd21g18', setting)).toMatchObject({
      TC3_CTRLA: (4 << 8) + (3 << 5) + 2,
      TC3_MODE_16_CC0: 59965,
      TC3_MODE_16_CC1: 4497,
      PORT_A_PMUX9: 0x40,
    });
  });
});

describe('MK20DX256', () => {
  it('72 MHz core and 36 MHz bus from 16 MHz / 8 x 36', () => {
    expect(exactText(clockOf(clocked('mk20dx256'), 'core'))).toBe('72000000');
    expect(exactText(clockOf(clocked('mk20dx256'), 'bus'))).toBe('36000000');
  });

  it('edge-aligned: MOD one less than the counts, high-true pulses', () => {
    const setting: Setting = {
      drive: 'pwm',
      timer: 'FTM0',
      mode: 'edge',
      channel: 'CH3',
      pin: 'PTC4',
      prescaler: 8,
      top: 44999,
      compare: 4500,
    };
    expect(registers('mk20dx256', setting)).toEqual({
      FTM0_MOD: 44999,
      FTM0_C3SC: 0b101000,
      FTM0_C3V: 4500,
      FTM0_SC: 0b01011,
      SIM_SCGC6: 2 ** 24,
      SIM_SCGC5: 2 ** 11,
      PORTC_PCR4: 0x400,
    });
  });

  it('periodic timer: 36 000 counts a millisecond', () => {
    const tick: Setting = {
      drive: 'interrupt',
      timer: 'PIT1',
      mode: 'down',
      prescaler: 1,
      top: 35999,
      divider: 1,
    };
    expect(registers('mk20dx256', tick)).toMatchObject({
      PIT_MCR: 0,
      PIT_LDVAL1: 35999,
      PIT_TCTRL1: 3,
      SIM_SCGC6: 2 ** 23,
      NVIC_ISER2: 2 ** (69 - 64),
    });
  });
});

describe('PIC16F18875', () => {
  it('PWM block 7 on Timer 4, led to RA3, inverted', () => {
    const setting: Setting = {
      drive: 'pwm',
      timer: 'TMR4',
      mode: 'pwm',
      channel: 'PWM7',
      pin: 'RA3',
      polarity: 'inverted',
      prescaler: 8,
      top: 249,
      compare: 503,
    };
    expect(registers('pic16f18875', setting)).toEqual({
      T4PR: 249,
      T4CLKCON: 1,
      T4CON: 0xb0,
      CCPTMRS1: 0x20,
      PWM7DCH: 125,
      PWM7DCL: 0xc0,
      PWM7CON: 0x90,
      RA3PPS: 0x0f,
      LATA: 0,
      TRISA: 0,
    });
  });
});

describe('BCM2835: both ways of modulation', () => {
  const setting: OutputSetting = {
    drive: 'pwm',
    timer: 'PWM1',
    mode: 'balanced',
    channel: 'CH1',
    pin: 'GPIO18',
    prescaler: 2,
    top: 7,
    compare: 3,
  };

  it('balanced: 3 of 8 counts high, at counts 2, 5 and 7, each on its own', () => {
    const outcome = outcomeUnder(part('bcm2835'), clocked('bcm2835'), setting);
    expect(exactText(outcome.duty)).toBe('3/8');
    const count = 2 * 4096;
    const { edges, start } = periodicEdges(outcome.cycle, 0, 8 * count);
    expect(start).toBe(1);
    expect([...edges].map((tick) => tick / count)).toEqual([0, 2, 3, 5, 6, 7]);
    // Three pulses in 8 counts of 9.6 MHz.
    expect(exactText(outcome.frequency)).toBe('3600000');
  });

  it('is as even as can be: the running number of high counts never strays a whole one from its share', () => {
    for (const [top, compare] of [
      [99, 37],
      [255, 200],
      [1000, 999],
    ] as const) {
      const { cycle } = outcomeUnder(part('bcm2835'), clocked('bcm2835'), { ...setting, top, compare });
      const { edges } = periodicEdges(cycle, 0, cycle.periodTicks);
      const count = cycle.periodTicks / (top + 1);
      let level = 1;
      let high = 0;
      let at = 0;
      for (let tick = 0; tick <= top; tick += 1) {
        while (at < edges.length && (edges[at] ?? 0) <= tick * count) {
          level = 1 - level;
          at += 1;
        }
        high += level;
        expect(Math.abs(high - ((tick + 1) * compare) / (top + 1))).toBeLessThan(1);
      }
      expect(high).toBe(compare);
    }
  });

  it('serves a level in steps so fine that a whole run would be far too slow', () => {
    const requirement = requirementOf({
      kind: 'dim',
      target: { minHz: 100000, minSteps: 65536, duty: 0.25 },
    });
    const found = fitRequirement(part('bcm2835'), clocked('bcm2835'), requirement, 'GPIO18', 'hardware');
    expect(new Set(hardware(found.candidates).map((one) => one.setting.mode))).toEqual(new Set(['balanced']));
    const tone = requirementOf({ kind: 'tone', target: { frequencyHz: 1000 } });
    const steady = fitRequirement(part('bcm2835'), clocked('bcm2835'), tone, 'GPIO18', 'hardware');
    expect(new Set(hardware(steady.candidates).map((one) => one.setting.mode))).toEqual(
      new Set(['mark-space']),
    );
  });

  it('differs in one bit of the control register', () => {
    expect(registers('bcm2835', setting)['PWM_CTL']).toBe(0x01);
    expect(registers('bcm2835', { ...setting, mode: 'mark-space' })['PWM_CTL']).toBe(0x81);
  });
});

describe('writes of interrupts and of the program', () => {
  it('ATmega328P: Timer 0 cleared at 249 interrupts by its channel A', () => {
    const tick: Setting = {
      drive: 'interrupt',
      timer: 'TIMER0',
      mode: 'ctc',
      prescaler: 64,
      top: 249,
      divider: 1,
    };
    expect(registers('atmega328p', tick)).toEqual({ OCR0A: 249, TCCR0A: 2, TCCR0B: 3, TIMSK0: 2 });
  });

  it('STM32F401: update interrupt of TIM3 at the controller, PC13 an output', () => {
    const blink: Setting = {
      drive: 'interrupt',
      timer: 'TIM3',
      mode: 'up',
      prescaler: 8400,
      top: 9999,
      divider: 1,
      pin: 'PC13',
    };
    expect(registers('stm32f401', blink)).toMatchObject({
      TIM3_PSC: 8399,
      TIM3_ARR: 9999,
      TIM3_DIER: 1,
      NVIC_ISER0: 2 ** 29,
      GPIOC_MODER: 2 ** 26,
    });
  });
});
