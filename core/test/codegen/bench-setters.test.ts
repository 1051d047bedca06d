import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { settingAtReading } from '../../src/evaluate/knob.ts';
import { identifier } from '../../src/program/names.ts';
import type { Knob } from '../../src/knob/knob.ts';
import { setFor } from '../../src/readings/readings.ts';
import { outcomeUnder, resolveSetting } from '../../src/timer/drives/index.ts';
import { counterNumbers } from '../../src/timer/fields.ts';
import type { OutputSetting, Setting } from '../../src/timer/setting.ts';
import { benchPlans } from '../helpers/bench-plans.ts';
import { holdsCompare, holdsTop, imagesOf } from '../helpers/chip-image.ts';
import { runTogether, tryOut } from '../helpers/chip.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { LOCK_GATE } from '../helpers/plan.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';

const plans = PARTS.flatMap((part) =>
  benchPlans(part).map((one) => [part.name, one.signal.name, part, one] as const),
);
const vanes = plans.filter(([, name]) => name === 'Vane');

/** Readings of a knob that are tried. */
function readingsOf({ bits }: Knob): number[] {
  const highest = 2 ** bits - 1;
  return [0, 1, 13, Math.floor(highest / 3), Math.floor(highest / 2), highest - 31, highest];
}

/** Those whose knob has a setter: of some parts another signal's counter makes the rate, or it cannot be set. */
const settable = plans.flatMap(([part, name, ...rest]) => {
  const [own, { plan, signal }] = rest;
  const { knob } = signal;
  const call = `${name.toLowerCase()}_set_knob(`;
  const has = planCode(plan, own).files.some(({ text }) => text.includes(call));
  return knob && has ? [[part, name, ...rest, knob] as const] : [];
});

const turned = runTogether(
  new Map(
    settable.map(([, name, part, { plan }, knob]) => {
      const calls = readingsOf(knob).map((reading) => `${name.toLowerCase()}_set_knob(${reading}u);`);
      return [plan, tryOut(part, plan, calls)];
    }),
  ),
);

/** Millidegrees that are asked for. */
const ASKED = [-40_000, -20_000, 0, 30_000, 55_500, 90_000];

const moved = runTogether(
  new Map(
    vanes.map(([, , part, { plan }]) => {
      const calls = ASKED.map((value) => `vane_set_millidegrees(${value});`);
      return [plan, tryOut(part, plan, calls)];
    }),
  ),
);

type SteadyPlan = { plan: Plan; signal: PlanSignal; setting: Setting };

/** Means of four readings each, and which reading is then taken with a hysteresis of 3: by hand. */
const STEADY: readonly { readings: readonly number[]; taken: number }[] = [
  { readings: [500, 500, 500, 500], taken: 500 },
  { readings: [503, 503, 503, 503], taken: 500 },
  { readings: [504, 504, 504, 504], taken: 504 },
  // 2007 / 4 = 501.75, which is 502 and only two away.
  { readings: [501, 502, 502, 502], taken: 504 },
  { readings: [1023, 1023, 1023, 1023], taken: 1023 },
  { readings: [1020, 1020, 1020, 1020], taken: 1023 },
  { readings: [1019, 1019, 1019, 1019], taken: 1019 },
  { readings: [2, 2, 1, 2], taken: 2 },
  { readings: [0, 0, 0, 0], taken: 0 },
];

const STEADY_KNOB: Knob = { bits: 10, sets: 'width', from: 0.0011, to: 0.0019, average: 4, hysteresis: 3 };

const steady = vanes.map(([name, , part, { plan, signal, setting }]): [string, Part, SteadyPlan] => {
  const own = { ...signal, knob: STEADY_KNOB };
  return [name, part, { plan: { ...plan, signals: [own] }, signal: own, setting }];
});

const held = runTogether(
  new Map(
    steady.map(([, part, { plan }]) => {
      const again = `${identifier(plan.name)}_start();`;
      const calls = [...STEADY.flatMap(({ readings }) => readings), again, 1, 1, 1, 1].map((one) =>
        typeof one === 'string' ? one : `vane_set_knob(${one}u);`,
      );
      return [plan, tryOut(part, plan, calls)];
    }),
  ),
);

describe('what knobs and readings do on a model of the chip', () => {
  it.each(steady)(
    '%s: a mean of four readings is taken where it is more than 3 from the last one, or at an end; starting begins anew',
    (_, part, { plan, signal, setting }) => {
      const images = imagesOf(held(plan));
      const path = clockPath(part, plan.clock);
      const holds = (image: Map<string, number> | undefined, reading: number): boolean => {
        const made = settingAtReading(part, path, signal, STEADY_KNOB, setting, reading);
        if (!made.ok) throw new Error(made.fault.sentence);
        return holdsCompare(
          part,
          setting as OutputSetting,
          image ?? new Map<string, number>(),
          (made.value as OutputSetting).compare,
        );
      };
      const seen = STEADY.map(({ taken }, at) => holds(images[4 * at + 3], taken));
      expect(seen).toEqual(STEADY.map(() => true));
      // Two away from the last one that was taken before the start.
      expect(holds(images[4 * STEADY.length + 4], 1)).toBe(true);
    },
  );

  it('most parts have some', () => {
    const others = settable.filter(([, name]) => name !== 'Vane');
    expect([vanes.length >= 8, others.length >= 8]).toEqual([true, true]);
  });

  it.each(settable)(
    '%s, %s: the registers hold what the arithmetic gives for a reading',
    (_, __, part, { plan, signal, setting }, knob) => {
      const images = imagesOf(turned(plan));
      const path = clockPath(part, plan.clock);
      const { mode, timer } = resolveSetting(part, setting as OutputSetting);
      for (const [at, reading] of readingsOf(knob).entries()) {
        const made = settingAtReading(part, path, signal, knob, setting, reading);
        if (!made.ok) throw new Error(made.fault.sentence);
        const { top, compare } = made.value as OutputSetting;
        const image = images[at] ?? new Map<string, number>();
        const holds =
          knob.sets === 'width'
            ? holdsCompare(part, setting as OutputSetting, image, compare)
            : holdsTop(part, mode, counterNumbers(timer, top, (setting as OutputSetting).prescaler), image);
        expect([reading, holds]).toEqual([reading, true]);
      }
    },
  );

  it.each(vanes)(
    '%s, %s: millidegrees go through the readings, clamped to their ends',
    (_, __, part, { plan, signal, setting }) => {
      const { readings } = signal;
      if (!readings) throw new Error('readings');
      const images = imagesOf(moved(plan));
      const output = setting as OutputSetting;
      const { frequency, stepTicks, tickHz } = outcomeUnder(part, clockPath(part, plan.clock), setting);
      const stepS = stepTicks / tickHz.valueOf();
      for (const [at, value] of ASKED.entries()) {
        const wanted = setFor(readings, value / 1000);
        if (!wanted.ok) throw new Error(wanted.fault.sentence);
        const image = images[at] ?? new Map<string, number>();
        const guess = Math.round(
          output.compare *
            ((wanted.value.set * frequency.valueOf()) /
              outcomeUnder(part, clockPath(part, plan.clock), setting).duty.valueOf()),
        );
        const near = Array.from({ length: 13 }, (___, n) => Math.max(0, guess - 6 + n));
        const made = near.find((compare) => holdsCompare(part, output, image, compare));
        expect([value, made === undefined]).toEqual([value, false]);
        const duty = outcomeUnder(part, clockPath(part, plan.clock), { ...output, compare: made ?? 0 }).duty;
        // Both ends are rounded to a step, and the line between them once more.
        expect(Math.abs(duty.div(frequency).valueOf() - wanted.value.set)).toBeLessThanOrEqual(1.51 * stepS);
      }
    },
  );

  it('setters in us are clamped to what was read: 1100 to 1900 of a span of 1000 to 2000', () => {
    const [first] = vanes;
    if (!first) throw new Error('a vane');
    const [, , part, { plan }] = first;
    const text = planCode(plan, part)
      .files.map((file) => file.text)
      .join('\n');
    expect(text).toContain('#define VANE_US_MIN 1100u\n#define VANE_US_MAX 1900u');
  });

  it('a knob without a setter is told: another signal runs on its timer', () => {
    const part = shipped('atmega328p');
    const setting = {
      drive: 'pwm',
      timer: 'TIMER1',
      mode: 'fast-icr',
      prescaler: 8,
      top: 1999,
      compare: 999,
    } as const;
    const plan: Plan = {
      ...LOCK_GATE,
      signals: [
        {
          ...{ id: 'a', name: 'Inlet', kind: 'tone', target: { frequencyHz: 1000 } },
          setting: { ...setting, channel: 'OC1A', pin: 'PB1' },
          knob: { bits: 10, sets: 'frequency', from: 800, to: 1200 },
        },
        {
          ...{ id: 'b', name: 'Outlet', kind: 'tone', target: { frequencyHz: 1000 } },
          setting: { ...setting, channel: 'OC1B', pin: 'PB2' },
        },
      ],
    };
    const { leftOut, files } = planCode(plan, part, { failing: true });
    expect(leftOut).toEqual(['Inlet: its knob; nothing in the code moves this signal alone.']);
    expect(files.some(({ text }) => text.includes('Inlet: its knob'))).toBe(true);
  });
});
