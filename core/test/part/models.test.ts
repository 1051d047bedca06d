import { ClockError, clockOf, clockPath, clockPhrase } from '../../src/clock/path.ts';
import { deadTicksFor } from '../../src/fit/complement.ts';
import { channelOf, timerOf } from '../../src/part/find.ts';
import { am3358 } from '../../src/part/parts/sitara/am3358.ts';
import { esp32 } from '../../src/part/parts/esp/esp32.ts';
import { mk20dx256 } from '../../src/part/parts/kinetis/mk20dx256.ts';
import { pic16f18875 } from '../../src/part/parts/pic/pic16f18875.ts';
import { samd21g18 } from '../../src/part/parts/sam/samd21g18.ts';
import { stm32f401 } from '../../src/part/parts/stm32/stm32f401.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';

describe('clocks', () => {
  it.each([26e6, 40e6])('ESP32 has a bus of 80 MHz with a crystal of %d Hz', (sourceHz) => {
    const path = clockPath(esp32, { source: 'crystal', sourceHz });
    expect(clockOf(path, 'apb').valueOf()).toBe(80e6);
    expect(clockOf(path, 'ref').valueOf()).toBe(1e6);
    expect(clockPhrase(path, 'apb')).toBe(`${sourceHz / 1e6} MHz crystal ±10 ppm → PLL = 80 MHz`);
  });

  it('MK20DX256 refuses a bus faster than its core', () => {
    const faster = { ...mk20dx256.defaultClock, settings: { core: 4, bus: 2 } };
    expect(() => clockPath(mk20dx256, faster)).toThrow(ClockError);
    expect(() => clockPath(mk20dx256, faster)).toThrow(/above the clock “core”/);
  });
});

describe('counters', () => {
  it('MK20DX256 goes up and down to 0x7FFF at most, and up to 0xFFFE', () => {
    const tops = timerOf(mk20dx256, 'FTM0').modes.map(({ id, top }) => [id, 'max' in top ? top.max : 0]);
    expect(tops).toEqual([
      ['edge', 65534],
      ['center', 32767],
    ]);
  });

  it('SAMD21 needs its polarity bits for two slopes: 300 of 1000 counts both ways are 30 %', () => {
    const setting: OutputSetting = {
      drive: 'pwm',
      timer: 'TCC0',
      mode: 'dual',
      channel: 'CC1',
      pin: 'PA05',
      prescaler: 1,
      top: 1000,
      compare: 300,
    };
    const path = clockPath(samd21g18, samd21g18.defaultClock);
    expect(outcomeUnder(samd21g18, path, setting).duty.valueOf()).toBe(0.3);
    const wave = settingRegisters(samd21g18, setting).find(({ name }) => name === 'TCC0_WAVE');
    expect(wave?.value).toBe(0xf0005);
    const single = settingRegisters(samd21g18, { ...setting, mode: 'single' });
    expect(single.find(({ name }) => name === 'TCC0_WAVE')?.value).toBe(2);
  });
});

describe('dead time of an STM32F401', () => {
  const timer = timerOf(stm32f401, 'TIM1');
  const field = (ticks: number): Record<string, number> => {
    const setting: OutputSetting = {
      drive: 'pwm',
      timer: 'TIM1',
      mode: 'up',
      channel: 'CH1',
      pin: 'PA8',
      prescaler: 1,
      top: 9999,
      compare: 5000,
      complement: { pin: 'PB13', deadTicks: ticks },
    };
    return Object.fromEntries(settingRegisters(stm32f401, setting).map(({ name, value }) => [name, value]));
  };

  // 84 MHz: 48 µs are 4032 clocks, 1008 of the generator's at a quarter of the clock; DTG = 0xE0 + (1008 / 16 - 32).
  it.each([
    [1e-6, 84, 0, 84],
    [12e-6, 1008, 0, 0xff],
    [20e-6, 1696, 1, 0xe0 + 848 / 16 - 32],
    [48e-6, 4032, 2, 0xff],
  ])('%d s are %d clocks: CKD %d, DTG %d', (seconds, ticks, divided, generator) => {
    expect(deadTicksFor(timer.deadTime, 84e6 * seconds)).toBe(ticks);
    const values = field(ticks);
    expect([((values['TIM1_CR1'] ?? 0) >> 8) & 3, (values['TIM1_BDTR'] ?? 0) & 0xff]).toEqual([
      divided,
      generator,
    ]);
  });

  it('ends at 4032 clocks', () => {
    expect(deadTicksFor(timer.deadTime, 4033)).toBeUndefined();
  });
});

describe('PWM of the CCP blocks of a PIC16F18875', () => {
  // 32 MHz / 4 / 1 / 250 = 32 kHz; 30 % of 1000 quarter counts are 300 = 0x12C, right aligned in CCPR1H:CCPR1L.
  it('has ten bits, on one of three timers', () => {
    const setting: OutputSetting = {
      drive: 'pwm',
      timer: 'TMR4',
      mode: 'pwm',
      channel: 'CCP1',
      pin: 'RC2',
      prescaler: 1,
      top: 249,
      compare: 300,
    };
    const path = clockPath(pic16f18875, pic16f18875.defaultClock);
    const made = outcomeUnder(pic16f18875, path, setting);
    expect([made.frequency.valueOf(), made.duty.valueOf()]).toEqual([32000, 0.3]);
    const values = Object.fromEntries(
      settingRegisters(pic16f18875, setting).map(({ name, value }) => [name, value]),
    );
    expect(values).toMatchObject({ CCPR1H: 1, CCPR1L: 0x2c, CCP1CON: 0x8c, CCPTMRS0: 2, RC2PPS: 9 });
  });

  it('reaches ports A and D with PWM 6, A and C with PWM 7', () => {
    const ports = (id: string): string[] => [
      ...new Set(channelOf(timerOf(pic16f18875, 'TMR2'), id).outputs.map(({ pin }) => pin.slice(0, 2))),
    ];
    expect([ports('PWM6'), ports('PWM7')]).toEqual([
      ['RA', 'RD'],
      ['RA', 'RC'],
    ]);
  });
});

describe('the capture units of an AM3358 as PWM', () => {
  // 100 MHz / 2 000 000 = 50 Hz; 1.5 ms are 150 000 counts.
  it('count 32 bits of the bus clock', () => {
    const setting: OutputSetting = {
      drive: 'pwm',
      timer: 'ECAP0',
      mode: 'apwm',
      channel: 'APWM',
      pin: 'gpio0_7',
      prescaler: 1,
      top: 1_999_999,
      compare: 150_000,
    };
    const path = clockPath(am3358, am3358.defaultClock);
    const made = outcomeUnder(am3358, path, setting);
    expect([made.frequency.valueOf(), made.duty.valueOf()]).toEqual([50, 0.075]);
    const values = Object.fromEntries(
      settingRegisters(am3358, setting).map(({ name, value }) => [name, value]),
    );
    // APWM 0x200, synchronisation off 0x80, count free 0x10.
    expect(values).toMatchObject({ ECAP0_CAP1: 1_999_999, ECAP0_CAP2: 150_000, ECAP0_ECCTL2: 0x290 });
  });
});
