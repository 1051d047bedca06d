import { bestSetting, signalFit } from '../../src/evaluate/choose.ts';
import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

const part = shipped('am3358');

/** 24 MHz / 24000 = 1 kHz, 6000 of 24000 counts high. */
const quarter: OutputSetting = {
  drive: 'pwm',
  timer: 'DMTIMER4',
  mode: 'pwm',
  channel: 'OUT',
  pin: 'gpio2_2',
  prescaler: 1,
  top: 23_999,
  compare: 6_000,
};

const heater: PlanSignal = {
  id: 'heater',
  name: 'Heater',
  kind: 'pwm',
  target: { frequencyHz: 1000, duty: 0.25 },
};

it('PWM of a general timer: load, match and control of 1 kHz and a quarter, worked out by hand', () => {
  const values = new Map(settingRegisters(part, quarter).map(({ name, value }) => [name, value]));
  // 2^32 - 24000; 6000 counts later, less one; ST, AR, CE, TRG = 2, PT.
  expect(values.get('DMTIMER4_TLDR')).toBe(0xffffa240);
  expect(values.get('DMTIMER4_TMAR')).toBe(0xffffb9af);
  expect(values.get('DMTIMER4_TCLR')).toBe(0x1 | 0x2 | 0x40 | 0x800 | 0x1000);
});

it('its code begins two counts before the overflow, starts the timer last, and has no setter', () => {
  const { files } = planCode(planOn(part, { ...heater, setting: quarter }), part);
  const [source, header] = files.map(({ text }) => text);
  const order = ['DMTIMER4_TLDR = ', 'DMTIMER4_TMAR = ', 'DMTIMER4_TCRR = 0xFFFFFFFE', 'DMTIMER4_TCLR = '];
  const places = order.map((text) => source?.indexOf(text) ?? -1);
  expect(places.every((place, at) => place > (places[at - 1] ?? 0))).toBe(true);
  expect(header).not.toMatch(/heater_set/);
  expect(header).toContain('No setter: it stays as it is while the timer runs');
});

it('is found on the pin that only a general timer reaches', () => {
  const plan = planOn(part, { ...heater, pin: 'gpio2_2' });
  const [first] = evaluatePlan(plan, part).signals;
  expect(first?.outcome?.setting).toMatchObject({ drive: 'pwm', timer: 'DMTIMER4', top: 23_999 });
  expect(assignPlan(plan, part).feasible).toBe(true);
});

it('a duty that has to move is refused there, with the reason', () => {
  const target = { frequencyHz: 1000, minDuty: 0.2, maxDuty: 0.3 };
  const moving: PlanSignal = { ...heater, target, pin: 'gpio2_2', setting: quarter };
  const [own] = evaluatePlan(planOn(part, moving), part).signals;
  const failing = own?.outcome?.checks.filter(({ verdict }) => verdict !== 'pass');
  expect(failing?.map(({ note }) => note)).toEqual([
    'General timer 4 cannot change its PWM while its counter runs.',
  ]);
  const free: PlanSignal = { ...heater, target, pin: 'gpio2_2' };
  // No other timer reaches this pin, so that only the program is left.
  expect(bestSetting(planOn(part), part, free, 'cpu')?.drive).not.toBe('pwm');
  const { refused } = signalFit(part, clockPath(part, part.defaultClock), free);
  expect(refused.find(({ timer }) => timer === 'DMTIMER4')).toEqual({
    timer: 'DMTIMER4',
    reason: 'Its PWM stays as it is while the counter runs, and this signal moves.',
  });
});

it.each([0, 24_000])('a compare value of %d, which no match would follow, is no setting', (compare) => {
  expect(() => settingRegisters(part, { ...quarter, compare })).toThrow(
    /^In PWM by overflow and match a compare value of General timer 4 goes from 1 to its top, 23999; \d+ does not\.$/,
  );
});
