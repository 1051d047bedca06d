import type { InterruptSetting, OutputSetting } from '../../src/timer/setting.ts';

/** A fast PWM of 1 kHz on an ATmega328P at 16 MHz: 16 MHz / 64 / 250, 4 us a count, high for 125 of 250. */
export const KHZ_PWM: OutputSetting = {
  drive: 'pwm',
  timer: 'TIMER1',
  mode: 'fast-icr',
  channel: 'OC1A',
  pin: 'PB1',
  prescaler: 64,
  top: 249,
  compare: 124,
};

/** A tick of 1 kHz there. */
export const KHZ_TICK: InterruptSetting = {
  drive: 'interrupt',
  timer: 'TIMER1',
  mode: 'ctc',
  prescaler: 64,
  top: 249,
  divider: 1,
};

/** Timer 0 of a PIC16F684, reloaded by its interrupt after 100 counts of two clocks. */
export const RELOADED_TICK: InterruptSetting = {
  drive: 'interrupt',
  timer: 'TMR0',
  mode: 'reload',
  prescaler: 2,
  top: 99,
  divider: 1,
};
