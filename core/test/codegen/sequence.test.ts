import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { stepBudget } from '../../src/assign/step-budget.ts';
import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { sequenceSettings } from '../../src/evaluate/sequence-rows.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { withSettings } from '../../src/plan/edit.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import type { Part } from '../../src/part/types.ts';
import { highCounts, maxCompare } from '../../src/timer/count.ts';
import { resolveSetting } from '../../src/timer/drives/index.ts';
import { counterNumbers } from '../../src/timer/fields.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { tickOf } from '../../src/timer/tick.ts';
import { holdsCompare, holdsTop, imagesOf } from '../helpers/chip-image.ts';
import { comeLines } from '../helpers/chip-play.ts';
import { runOnChip } from '../helpers/chip.ts';
import { planOn } from '../helpers/plan.ts';
import { planWith } from '../helpers/sequence-plans.ts';
import { PARTS, shipped } from '../helpers/parts.ts';

/** Three pulses, 20 ms of rest, a fade over 60 ms, and two pulses at a quarter: 3 + 4 + 12 + 2 periods of 5 ms. */
const LAMP: PlanSignal = {
  id: 'lamp',
  name: 'Lamp',
  kind: 'pwm',
  target: { frequencyHz: 200, duty: 0.5, minSteps: 100 },
  sequence: {
    steps: [
      { periods: 3 },
      { rest: true, forS: 0.02 },
      { forS: 0.06, duty: 0, toDuty: 1 },
      { periods: 2, duty: 0.25 },
    ],
  },
};

/** The setting of the one signal, if the code follows its sequence. */
function followed(part: Part, signal: PlanSignal): { plan: Plan; setting: OutputSetting } | undefined {
  const plan = planOn(part, signal);
  const { signals, failures } = evaluatePlan(plan, part);
  const setting = signals[0]?.outcome?.setting;
  if (failures.length > 0 || setting?.drive !== 'pwm') return undefined;
  return planCode(plan, part).leftOut.length === 0 ? { plan, setting } : undefined;
}

/** What the timer holds in each period after the first, some periods long; statements come before a tick by its number. */
function played(
  part: Part,
  plan: Plan,
  setting: OutputSetting,
  periods: number,
  calls: Record<number, string> = {},
): Map<string, number>[] {
  const { timer, mode } = resolveSetting(part, setting);
  const tick = tickOf(timer, mode);
  if (!tick) throw new Error('the mode has no tick');
  const ticks = Array.from({ length: periods }, (_, at) => [
    `mark("call ${at}");`,
    ...(calls[at] === undefined ? [] : [calls[at]]),
    ...comeLines(part, tick),
  ]).flat();
  const body = ['try_out_init();', 'try_out_start();', ...ticks, 'mark("call end");'];
  const steps = runOnChip([{ part, files: planCode(plan, part).files, body }])[0] ?? [];
  expect(steps.filter((step) => step.do === 'mark' && step.name.startsWith('stuck'))).toEqual([]);
  // Before tick n there is what period n + 1 takes over.
  const images = imagesOf([{ do: 'mark', name: 'call' }, ...steps]);
  return images.slice(0, periods);
}

/** The settings of one pass, period by period; undefined where the pin is low. */
function passOf(part: Part, plan: Plan, setting: OutputSetting): (OutputSetting | undefined)[] {
  const [signal] = plan.signals;
  if (!signal?.sequence) return [];
  const path = clockPath(part, plan.clock);
  return sequenceSettings(part, path, signal, signal.sequence, setting).flatMap(({ setting: own, periods }) =>
    Array.from({ length: periods }, () => own as OutputSetting | undefined),
  );
}

/** Whether the registers hold a setting, or a value that keeps the pin low where there is none. */
function holds(
  part: Part,
  setting: OutputSetting,
  own: OutputSetting | undefined,
  image: Map<string, number>,
): boolean {
  const { mode, timer } = resolveSetting(part, setting);
  if (!own) {
    const inverted = setting.polarity === 'inverted';
    const rests = [0, maxCompare(mode, setting.top, timer.width)];
    return rests.some(
      (compare) =>
        highCounts(mode, setting.top, compare, inverted) === 0 && holdsCompare(part, setting, image, compare),
    );
  }
  const moves = own.top !== setting.top;
  return (
    holdsCompare(part, setting, image, own.compare) &&
    (!moves || holdsTop(part, mode, counterNumbers(timer, own.top, setting.prescaler), image))
  );
}

const cases = PARTS.flatMap((part) => {
  const made = followed(part, LAMP);
  return made ? [[part.name, part, made.plan, made.setting] as const] : [];
});

describe('a sequence', () => {
  it('is followed on the parts whose compare values wait for the end of a period', () => {
    const names = cases.map(([name]) => name);
    expect(names).toEqual(expect.arrayContaining(['STM32F401', 'SAMD21G18', 'RP2040', 'ESP32', 'MK20DX256']));
  });

  it.each(cases)('has the values of its rows, period by period, twice over: %s', (_, part, plan, setting) => {
    const pass = passOf(part, plan, setting);
    expect(pass).toHaveLength(21);
    const wanted = [...pass, ...pass];
    const images = played(part, plan, setting, wanted.length);
    const wrong = wanted.flatMap((own, at) =>
      holds(part, setting, own, images[at] ?? new Map<string, number>()) ? [] : [at],
    );
    expect(wrong).toEqual([]);
  });

  it.each(cases)('ends low and starts anew when asked: %s', (_, part, plan, setting) => {
    const pass = passOf(part, plan, setting);
    // Asked before the second tick, in period 2: low from period 3 on; asked again before the sixth.
    const images = played(part, plan, setting, 10, { 1: 'lamp_play(0);', 5: 'lamp_play(1);' });
    const wanted = [
      pass[0],
      pass[1],
      undefined,
      undefined,
      undefined,
      undefined,
      pass[0],
      pass[1],
      pass[2],
      pass[3],
    ];
    const wrong = wanted.flatMap((own, at) =>
      holds(part, setting, own, images[at] ?? new Map<string, number>()) ? [] : [at],
    );
    expect(wrong).toEqual([]);
  });

  it('that is over stays low; one that moves its frequency moves the top', () => {
    const part = shipped('stm32f401');
    const once = {
      ...LAMP,
      sequence: { once: true, steps: [{ periods: 2 }, { periods: 3, frequencyHz: 400 }] },
    } as PlanSignal;
    const made = followed(part, once);
    if (!made) throw new Error('not followed');
    const { plan, setting } = made;
    const pass = passOf(part, plan, setting);
    // Half the counts at twice the frequency: f = clock / (prescaler x (top + 1)).
    expect(pass[2]?.top).toBe((setting.top + 1) / 2 - 1);
    const images = played(part, plan, setting, 9);
    const wanted = [...pass, undefined, undefined, undefined, undefined];
    const wrong = wanted.flatMap((own, at) =>
      holds(part, setting, own, images[at] ?? new Map<string, number>()) ? [] : [at],
    );
    expect(wrong).toEqual([]);
  });

  it('that the code cannot follow is named with the reason', () => {
    const part = shipped('bcm2835');
    const made = planWith(part, LAMP, 'pwm');
    if (!made) throw new Error('no PWM output');
    expect(planCode(made.plan, part, { failing: true }).leftOut.join()).toMatch(
      /^Lamp: its sequence \(.*\); the signal runs steadily, since PWM channel \d has no interrupt/,
    );
  });

  it('of the buoy is in its code', () => {
    const text = readFileSync(join(__dirname, '../../../examples/harbour-buoy.plan.json'), 'utf8');
    const read = readPlan(text, PARTS);
    if (!read.ok) throw new Error(read.fault.sentence);
    const { plan, part } = read.value;
    const assigned = assignPlan(plan, part, stepBudget(400));
    if (!assigned.feasible) throw new Error('not assigned');
    const { files, leftOut } = planCode(withSettings(plan, assigned.settings), part);
    expect(leftOut.filter((line) => line.includes('sequence'))).toEqual([]);
    expect(files[1]?.text).toContain('void fog_signal_play(uint8_t on);');
  });
});
