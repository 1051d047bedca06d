import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { settingAtReading } from '../../src/evaluate/knob.ts';
import type { Knob } from '../../src/knob/knob.ts';
import { setFor } from '../../src/readings/readings.ts';
import { outcomeUnder, resolveSetting } from '../../src/timer/drives/index.ts';
import { counterNumbers } from '../../src/timer/fields.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { benchPlans } from '../helpers/bench-plans.ts';
import { holdsCompare, holdsTop, imagesOf } from '../helpers/chip-image.ts';
import { runTogether, tryOut } from '../helpers/chip.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { LOCK_GATE } from '../helpers/plan.ts';
import type { Plan } from '../../src/plan/plan.ts';

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

describe('what knobs and readings do on a model of the chip', () => {
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
