import { KHZ_PWM, RELOADED_TICK } from '../helpers/khz-settings.ts';
import { explainRate } from '../../src/slips/rate-slips.ts';
import { allSlips } from '../../src/slips/catalogue.ts';
import type { InterruptSetting, OutputSetting, Setting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';

const avr = shipped('atmega328p');
const stm32 = shipped('stm32f401');

/** 250 counts of 64. */
const SETTING: OutputSetting = { ...KHZ_PWM, compare: 100 };
const DOUBT = 50e-6;

const slip = (factor: number, setting: Setting = SETTING, part = avr, doubt = DOUBT) =>
  explainRate(part, setting, factor, doubt);

it.each([
  [250 / 251, 'minus-one', 'One count too many in each run: the top register holds 250 instead of 249.'],
  [250 / 249, 'minus-one-twice', 'One count too few in each run: the top register holds 248 instead of 249.'],
  [0.5, 'half', 'A toggle is taken for a period, or the counter goes up and down.'],
  [2, 'double', 'A period is taken for a toggle, or an up-down counter for an up-counter.'],
  [64, 'prescaler', 'The prescaler divides by 1 instead of 64.'],
  [8, 'prescaler', 'The prescaler divides by 8 instead of 64.'],
  [0.25, 'prescaler', 'The prescaler divides by 256 instead of 64.'],
  [1 / 16, 'prescaler', 'The prescaler divides by 1024 instead of 64.'],
  [4, 'clock', 'The timer counts a clock four times as fast as the plan says.'],
  [1 / 8, 'clock', 'The timer counts an eighth of the clock that the plan says.'],
  [1000, 'unit-1000', 'It is a thousand times too fast.'],
  [1 / 1000, 'unit-1000', 'It is a thousand times too slow.'],
  [250 / 200, 'top', 'A top of 199 instead of 249 would give what was captured.'],
])('%f times as fast as the plan: %s', (factor, id, text) => {
  expect(slip(factor)).toMatchObject({ id, text, warns: true, factor: expect.closeTo(factor, 9) as number });
});

it('a quarter and eight times the clock, where no prescaler of the timer is that', () => {
  const setting: OutputSetting = { ...SETTING, timer: 'TIM3', mode: 'up', channel: 'CH1', pin: 'PA6' };
  expect(slip(0.25, setting, stm32)).toMatchObject({
    id: 'clock',
    text: expect.stringContaining('a quarter of') as string,
  });
  expect(slip(8, setting, stm32)).toMatchObject({
    id: 'clock',
    text: expect.stringContaining('eight times') as string,
  });
});

it('what is within the doubt needs no reason, and what is beyond every slip has none', () => {
  expect(slip(1 + DOUBT)).toBeUndefined();
  expect(slip(1 - DOUBT)).toBeUndefined();
  expect(slip(3.37)).toBeUndefined();
  expect(slip(60.1)).toBeUndefined();
  // A top that is off by a share of a count: 250 / 1.7013 = 146.95.
  expect(slip(1.7013)).toBeUndefined();
});

it('a wider doubt takes the nearest reason, the counter’s own first', () => {
  // 0.9962 lies between one count too many (0.99602) and nothing at all.
  expect(slip(0.9962, SETTING, avr, 1e-3)?.id).toBe('minus-one');
  expect(slip(1.0039, SETTING, avr, 1e-3)?.id).toBe('minus-one-twice');
});

it('a top below 1 is no explanation', () => {
  const short: OutputSetting = { ...SETTING, top: 3, compare: 1 };
  expect(slip(4.0001, short, avr, 0.01)?.id).toBe('clock');
  expect(slip(3.99, { ...SETTING, top: 3, compare: 1 }, avr, 0.001)).toBeUndefined();
});

it('what no timer counts has the common reasons alone', () => {
  const loop: Setting = { drive: 'delay-loop', pin: 'PB0', top: 250, compare: 125 };
  expect(slip(0.5, loop)?.id).toBe('half');
  expect(slip(250 / 251, loop)).toBeUndefined();
});

it('an input is no signal of the plan', () => {
  const input = {
    drive: 'capture',
    timer: 'TIMER1',
    mode: 'normal',
    channel: 'ICP1',
    pin: 'PB0',
    prescaler: 8,
    top: 65535,
  };
  expect(slip(0.5, input as Setting)).toBeUndefined();
});

it('a counter that its interrupt reloads counts what its write holds', () => {
  const pic = shipped('pic16f684');
  const setting: InterruptSetting = RELOADED_TICK;
  const mode = pic.timers.find(({ id }) => id === 'TMR0')?.modes.find(({ id }) => id === 'reload');
  const hold = mode?.top.kind === 'reload' ? mode.top.hold : 0;
  const lost = (pic.cpu.entryCycles + pic.cpu.reloadCycles) % 2;
  const run = (top: number): number => 2 * (top + 1) + hold + lost;
  expect(slip(run(99) / run(100), setting, pic, 1e-5)?.id).toBe('minus-one');
  expect(slip(run(99) / run(79), setting, pic, 1e-5)).toMatchObject({
    id: 'top',
    text: 'A top of 79 instead of 99 would give what was captured.',
  });
});

it('every slip has a title of its own', () => {
  const titles = allSlips().map(({ title }) => title);
  expect(titles.length).toBeGreaterThan(30);
  expect(new Set(titles).size).toBe(titles.length);
});
