import { printNumber } from '../quantity/print.ts';
import type { Drive, Setting } from './setting.ts';

/** Whether two settings are the same in every number, in whatever order they say them. */
export function sameSetting(one: Setting, other: Setting): boolean {
  const plain = (setting: Setting): string => JSON.stringify(Object.entries(setting).sort());
  return plain(one) === plain(other);
}

/** What each drive is called. */
export const DRIVES: Record<Drive, string> = {
  pwm: 'PWM output',
  toggle: 'toggled output',
  interrupt: 'interrupt',
  'interrupt-pair': 'pair of interrupts',
  'software-pwm': 'counted in software',
  'delay-loop': 'delay loop',
  capture: 'input capture',
};

/** The drives that cost no processor time, then those that do, in the order a list shows them. */
export const DRIVE_ORDER: readonly Drive[] = [
  'pwm',
  'toggle',
  'interrupt',
  'software-pwm',
  'interrupt-pair',
  'delay-loop',
  'capture',
];

/** The timer a setting uses, by id; empty where the program itself waits. */
export function timerIdOf(setting: Setting): string {
  return setting.drive === 'delay-loop' ? '' : setting.timer;
}

/** How a setting brings the signal out, in a word or two: "OC1A", "interrupt", "counted". */
export function meansOf(setting: Setting): string {
  switch (setting.drive) {
    case 'pwm':
    case 'toggle':
    case 'capture':
      return setting.channel;
    case 'interrupt':
      return setting.pin === undefined ? 'tick' : 'interrupt';
    case 'delay-loop':
      return 'delay loop';
    default:
      return setting.drive;
  }
}

/** The numbers of a setting in one line: "fast-icr ÷ 64, top 15 624". */
export function numbersText(setting: Setting): string {
  if (setting.drive === 'delay-loop') return `${printNumber(setting.top)} passes`;
  const counter = `${setting.mode} ÷ ${setting.prescaler}, top ${printNumber(setting.top)}`;
  if (setting.drive === 'interrupt' || setting.drive === 'software-pwm') {
    const post = (setting.postscale ?? 1) > 1 ? `, postscaler ${setting.postscale}` : '';
    return `${counter}${post}, ÷ ${printNumber(setting.divider)} in software`;
  }
  return counter;
}
