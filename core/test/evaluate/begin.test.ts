import { decodeText } from '../../src/decode/decode.ts';
import { clockPath } from '../../src/clock/path.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { planCode } from '../../src/evaluate/code.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

const part = shipped('stm32f401');

/** TIM3 at 84 MHz / 84 / 1000 = 1 kHz, 200 of 1000 counts high. */
const pulse: OutputSetting = {
  drive: 'pwm',
  timer: 'TIM3',
  mode: 'up',
  channel: 'CH1',
  pin: 'PA6',
  prescaler: 84,
  top: 999,
  compare: 200,
};

const signal = (id: string, setting: OutputSetting, more: Partial<PlanSignal> = {}): PlanSignal =>
  ({ id, name: id, kind: 'pwm', target: { frequencyHz: 1000, duty: 0.2 }, setting, ...more }) as PlanSignal;

it('a counter that begins at 750 of 1000 has its output rise a quarter later than one that begins at 0', () => {
  const plan = planOn(
    part,
    signal('left', pulse),
    signal(
      'right',
      { ...pulse, timer: 'TIM4', pin: 'PB6', begin: 750 },
      { phase: { to: 'left', degrees: 90 } },
    ),
  );
  const { signals, conflicts } = evaluatePlan(plan, part);
  expect(conflicts).toEqual([]);
  const phase = signals[1]?.outcome?.checks.find(({ property }) => property === 'phase');
  expect(phase).toMatchObject({ value: 90, verdict: 'pass' });
  expect(signals[1]?.outcome?.ladder.at(-1)).toMatchObject({ label: 'Counter begins', value: 750 });
  expect(signals[1]?.outcome?.registers.find(({ name }) => name === 'TIM4_CNT')?.value).toBe(750);
  const [source] = planCode(plan, part).files;
  expect(source?.text).toContain('TIM3_CNT = 0u;');
  // The update event puts the counter back to 0, and the timer runs from its last write on.
  expect(source?.text).toMatch(/TIM4_EGR = TIM4_EGR_UG_BIT;.*\n *TIM4_CNT = 750u;\n *TIM4_CR1 = /);
  expect(source?.text).toContain('at 750 of 1000 counts');
});

it('one timer begins at one count: another output on it that wants another is a conflict', () => {
  const other: OutputSetting = { ...pulse, channel: 'CH2', pin: 'PA7' };
  const conflictsOf = (setting: OutputSetting): number =>
    evaluatePlan(planOn(part, signal('left', { ...pulse, begin: 750 }), signal('right', setting)), part)
      .conflicts.length;
  const [conflict] = evaluatePlan(
    planOn(part, signal('left', { ...pulse, begin: 750 }), signal('right', other)),
    part,
  ).conflicts;
  expect(conflict).toMatchObject({
    title: 'left and right need TIM3 to begin at different counts.',
    text: 'A timer begins at one count for all its signals: 750 for left, 0 for right.',
  });
  expect(conflictsOf(other)).toBe(1);
  expect(conflictsOf({ ...other, begin: 749 })).toBe(1);
  expect(conflictsOf({ ...other, begin: 750 })).toBe(0);
});

it.each([
  [{ begin: 1000 }, 'begin goes from 0 to 999; 1000 is not possible.'],
  [
    { mode: 'center', begin: 5 },
    'The counter of TIM3 cannot begin at a chosen count in center-aligned, top ARR.',
  ],
])('%j is no setting', (change, reason) => {
  expect(() => settingRegisters(part, { ...pulse, ...change })).toThrow(reason);
});

it('is read back from code', () => {
  const plan = planOn(part, signal('left', { ...pulse, begin: 321 }));
  const [source] = planCode(plan, part).files;
  const found = decodeText(
    part,
    clockPath(part, part.defaultClock),
    source?.text.split('void try_out_stop')[0] ?? '',
  );
  if (!found.ok) throw new Error(found.fault.sentence);
  expect(found.value.timers.flatMap(({ notes }) => notes)).toEqual([]);
  const [effect] = found.value.timers.flatMap(({ effects }) => effects);
  expect(effect?.setting).toEqual({ ...pulse, begin: 321 });
});
