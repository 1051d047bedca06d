import { clockPath } from '../../src/clock/path.ts';
import { cFiles } from '../../src/codegen/c-files.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import type { Part, Writes } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { driveOf, outcomeUnder, resolveSetting } from '../../src/timer/drives/index.ts';
import { counterNumbers } from '../../src/timer/fields.ts';
import { topRange, type OutputSetting, type Setting } from '../../src/timer/setting.ts';
import { holdsCompare, holdsTop, holdsWrites, imagesOf } from '../helpers/chip-image.ts';
import { momentsOf, playedEdges, playLines } from '../helpers/chip-play.ts';
import { runOnChip, runTogether, tryOut, type Step } from '../helpers/chip.ts';
import { planOn } from '../helpers/plan.ts';
import { PARTS, shipped } from '../helpers/parts.ts';

const VANE: PlanSignal = {
  id: 'vane',
  name: 'Vane',
  kind: 'pulse',
  target: { frameHz: 50, minS: 0.001, maxS: 0.002 },
};

const HUM: PlanSignal = { id: 'hum', name: 'Hum', kind: 'tone', target: { frequencyHz: 440 } };

const HEATER: PlanSignal = {
  id: 'heater',
  name: 'Heater',
  kind: 'pwm',
  target: { frequencyHz: 1000, duty: 0.3, minSteps: 100 },
};

const LAMP: PlanSignal = { id: 'lamp', name: 'Lamp', kind: 'blink', target: { frequencyHz: 2, duty: 0.2 } };

const WHEEL: PlanSignal = {
  id: 'wheel',
  name: 'Wheel',
  kind: 'measure',
  target: { minHz: 20, maxHz: 200 },
};

/** What a part makes of a signal, if it can. */
function madeBy(part: Part, signal: PlanSignal): { plan: Plan; setting: Setting } | undefined {
  const plan = planOn(part, signal);
  const { signals, failures } = evaluatePlan(plan, part);
  const setting = signals[0]?.outcome?.setting;
  return failures.length === 0 && setting ? { plan, setting } : undefined;
}

/** How far the pulse of a compare value is from a time, in µs. */
function missBy(part: Part, setting: OutputSetting, compare: number, us: number): number {
  const { duty, frequency } = outcomeUnder(part, clockPath(part, part.defaultClock), { ...setting, compare });
  return Math.abs(duty.div(frequency).valueOf() * 1e6 - us);
}

/** The width of the first pulse, in s. */
function widthOf([rise = NaN, fall = NaN]: readonly number[]): number {
  return fall - rise;
}

/** What the test was told, by name. */
function toldBy(steps: readonly Step[], name: string): number[] {
  return steps.flatMap((step) =>
    step.do === 'mark' && step.name.startsWith(`${name}=`) ? [Number(step.name.slice(name.length + 1))] : [],
  );
}

/** Tones, dimmed lamps and slow lamps that a part's output makes, alone on its timer, with a top that can be set. */
const rates = PARTS.flatMap((part) =>
  [HUM, HEATER, LAMP].flatMap((signal) => {
    const made = madeBy(part, signal);
    if (!made || (made.setting.drive !== 'pwm' && made.setting.drive !== 'toggle')) return [];
    const { top } = resolveSetting(part, made.setting).mode;
    const text = planCode(made.plan, part).files[1]?.text ?? '';
    const unit = /_set_(hz|period_ms)\(/.exec(text)?.[1];
    if (top.kind !== 'register' && top.kind !== 'channel') return [];
    expect([part.name, signal.name, unit === undefined && !made.setting.complement]).toEqual([
      part.name,
      signal.name,
      resolveSetting(part, made.setting).mode.pwm?.spread === true,
    ]);
    const ends = /_(?:HZ|PERIOD_MS)_MIN (\d+)u\n#define \w+_MAX (\d+)u/.exec(text);
    return unit && ends
      ? [
          [
            part.name,
            signal.name,
            unit,
            part,
            made.plan,
            made.setting,
            Number(ends[1]),
            Number(ends[2]),
          ] as const,
        ]
      : [];
  }),
);

const servos = PARTS.flatMap((part) => {
  const made = madeBy(part, VANE);
  return made?.setting.drive === 'pwm' ? [[part.name, part, made.plan, made.setting] as const] : [];
});

const inputs = PARTS.flatMap((part) => {
  const made = madeBy(part, WHEEL);
  return made ? [[part.name, part, made.plan] as const] : [];
});

describe('setters', () => {
  it('are there on most parts', () => {
    expect(servos.length).toBeGreaterThanOrEqual(8);
    expect(inputs.length).toBeGreaterThanOrEqual(5);
  });

  const asked = [1000, 1001, 1234, 1500, 1777, 2000, 0, 60_000];
  const calls = asked.map((us) => `vane_set_us(${us});`);
  const runs = runTogether(new Map(servos.map(([, part, plan]) => [plan, tryOut(part, plan, calls)])));

  it.each(servos)(
    'in us take the nearest compare value, clamped to the span: %s',
    (_, part, plan, setting) => {
      const images = imagesOf(runs(plan));
      for (const [at, us] of asked.entries()) {
        const wanted = Math.min(2000, Math.max(1000, us));
        const ideal = Math.round((setting.compare * wanted) / 1500);
        const near = Array.from({ length: 9 }, (__, n) => Math.max(0, ideal - 4 + n));
        const image = images[at] ?? new Map<string, number>();
        const made = near.find((compare) => holdsCompare(part, setting, image, compare));
        expect([us, made === undefined]).toEqual([us, false]);
        const best = Math.min(...near.map((compare) => missBy(part, setting, compare, wanted)));
        expect(missBy(part, setting, made ?? 0, wanted)).toBeLessThanOrEqual(best + 1e-9);
      }
    },
  );
});

/** Servos and lamps that interrupts make, with what the program can set of them. */
const software = PARTS.flatMap((part) =>
  [VANE, { ...LAMP, target: { frequencyHz: 50, duty: 0.3 } }].flatMap((signal) => {
    const pins = part.pins
      .map(({ id }) => id)
      .filter(
        (id) =>
          !part.timers.some((timer) =>
            timer.channels.some(({ outputs }) => outputs.some(({ pin }) => pin === id)),
          ),
      );
    const [pin] = pins;
    const made = pin === undefined ? undefined : madeBy(part, { ...signal, pin });
    const adjustable = made && driveOf(made.setting).adjustable?.(part, made.setting);
    return made && adjustable
      ? [[part.name, signal.name, part, made.plan, made.setting, adjustable] as const]
      : [];
  }),
);

describe('setters of what interrupts make', () => {
  it('are there for some', () => {
    expect(software.length).toBeGreaterThan(4);
  });

  const widths = [1100, 1499, 1900];
  /** What hands the width to a match at the start of a period, if one does. */
  const loads = (part: Part, setting: Setting): Writes | undefined =>
    driveOf(setting)
      .handlers(part, setting)
      .flatMap(({ actions }) => actions)
      .find((action) => action.do === 'load')?.writes;
  const runs = runTogether(
    new Map(
      software.flatMap(([, name, part, plan, setting]) => {
        const moments = momentsOf(part, plan, setting, 2, 100_000);
        const also = Object.keys(loads(part, setting) ?? {}).map((key) => key.split('.')[0] ?? '');
        const plays = playLines(part, setting, moments, also);
        return widths.map((us) => {
          const statements = [`${name.toLowerCase()}_set_us(${us}u);`, ...plays];
          return [`${part.id} ${name} ${us}`, tryOut(part, plan, [statements.join(' ')])] as const;
        });
      }),
    ),
  );

  it.each(software)('%s, %s: the width is the nearest', (_, name, part, plan, setting, adjustable) => {
    const { frequency } = outcomeUnder(part, clockPath(part, plan.clock), setting);
    const countUs = 1e6 / frequency.valueOf() / adjustable.whole;
    const moments = momentsOf(part, plan, setting, 2, 100_000);
    const load = loads(part, setting);
    for (const us of widths) {
      const steps = runs(`${part.id} ${name} ${us}`);
      const image = imagesOf(steps)[0] ?? new Map<string, number>();
      const ideal = Math.round(us / countUs);
      const near = Array.from({ length: 9 }, (__, n) => Math.max(0, ideal - 4 + n));
      const loaded = load && near.find((compare) => holdsWrites(part, load, { compare }, image));
      const width = load
        ? (adjustable.first + (loaded ?? NaN)) * countUs
        : widthOf(playedEdges(part, setting.pin ?? '', moments, steps)) * 1e6;
      expect(Math.abs(width - us)).toBeLessThanOrEqual(countUs / 2 + 1e-6);
    }
  });
});

it('two pairs on one timer share the handler of its tick', () => {
  const part = shipped('stm32f401');
  const pair = { drive: 'interrupt-pair', timer: 'TIM3', mode: 'up', prescaler: 84, top: 19_999 } as const;
  const signals = [
    {
      name: 'Left',
      sentence: 'Left moves.',
      setting: { ...pair, channel: 'CH1', pin: 'PA0', compare: 1200 },
    },
    {
      name: 'Right',
      sentence: 'Right moves.',
      setting: { ...pair, channel: 'CH2', pin: 'PA1', compare: 1700 },
    },
  ];
  const files = cFiles(part, clockPath(part, part.defaultClock), 'pairs', signals);
  const body = [
    'pairs_init();',
    'pairs_start();',
    'TIM3_SR.value = 1;',
    'mark("call");',
    'TIM3_IRQHandler();',
  ];
  const [steps = []] = runOnChip([{ part, files, body }]);
  const image = imagesOf(steps)[0];
  expect([image?.get('TIM3_CCR1'), image?.get('TIM3_CCR2')]).toEqual([1200, 1700]);
});

describe('setters of the rate', () => {
  it('are there for most', () => {
    expect(rates.length).toBeGreaterThan(15);
  });

  const askedOf = (min: number, max: number): number[] => [
    min,
    min + 1,
    Math.round(Math.sqrt(min * max)),
    Math.round((min + max) / 3),
    max,
    0,
  ];
  const runs = runTogether(
    new Map(
      rates.map(([, name, unit, part, plan, , min, max]) => {
        const calls = askedOf(min, max).map((value) => `${name.toLowerCase()}_set_${unit}(${value}u);`);
        return [plan, tryOut(part, plan, calls)];
      }),
    ),
  );

  it.each(rates)(
    '%s, %s: %s takes the nearest top and keeps the duty',
    (_, __, unit, part, plan, setting, min, max) => {
      const asked = askedOf(min, max);
      const images = imagesOf(runs(plan));
      const { mode, timer } = resolveSetting(part, setting);
      const clock = clockPath(part, plan.clock);
      const before = outcomeUnder(part, clock, setting);
      const range = topRange(mode);
      for (const [at, value] of asked.entries()) {
        const heldTo = Math.max(min, value);
        const wantedS = unit === 'hz' ? 1 / heldTo : heldTo / 1000;
        const periodS = (top: number): number =>
          outcomeUnder(part, clock, { ...setting, top, compare: Math.min(setting.compare, top) })
            .frequency.inverse()
            .valueOf();
        const guess =
          Math.round((setting.top + mode.base) * (wantedS / before.frequency.inverse().valueOf())) -
          mode.base;
        const near = Array.from({ length: 9 }, (__, n) => guess - 4 + n).filter(
          (top) => top >= range.min && top <= range.max,
        );
        const image = images[at] ?? new Map<string, number>();
        const made = near.find((top) =>
          holdsTop(part, mode, counterNumbers(timer, top, setting.prescaler), image),
        );
        expect([value, made === undefined]).toEqual([value, false]);
        const miss = (top: number): number => Math.abs(periodS(top) - wantedS);
        const best = Math.min(...near.map(miss));
        expect(miss(made ?? 0)).toBeLessThanOrEqual(best + 1e-12);
        if (setting.drive === 'toggle') continue;
        const scaled = Math.round((setting.compare * ((made ?? 0) + mode.base)) / (setting.top + mode.base));
        const compares = Array.from({ length: 9 }, (__, n) => Math.max(0, scaled - 4 + n));
        const compare = compares.find((one) => holdsCompare(part, setting, image, one));
        expect([value, compare === undefined]).toEqual([value, false]);
        const { duty } = outcomeUnder(part, clock, { ...setting, top: made ?? 0, compare: compare ?? 0 });
        const step = 1 / ((made ?? 0) + mode.base);
        expect(Math.abs(duty.valueOf() - before.duty.valueOf())).toBeLessThanOrEqual(step);
      }
    },
  );
});

/** How long a count of an input takes, and how many of them 10 ms are. */
function countOf(part: Part, plan: Plan): { countS: number; counts: number } {
  const countS = evaluatePlan(plan, part).signals[0]?.outcome?.wave.countS ?? 0;
  return { countS, counts: Math.round(1 / (100 * countS)) };
}

describe('inputs', () => {
  const readings = runTogether(
    new Map(
      inputs.map(([, part, plan]) => {
        const { counts } = countOf(part, plan);
        const told = 'tell("reading", wheel_millihertz());';
        return [plan, tryOut(part, plan, [told, `wheel_counts = ${counts}u; ${told}`])];
      }),
    ),
  );
  const told = 'tell("lost", wheel_lost()); tell("counts", wheel_counts); tell("seen", wheel_seen);';
  const losses = runTogether(
    new Map(
      inputs.map(([, part, plan]) => {
        const calls = ['wheel_seen = 1; wheel_fresh = 1; wheel_counts = 500;', told, told];
        return [plan, tryOut(part, plan, calls)];
      }),
    ),
  );

  it.each(inputs)('are read in mHz, and not before two edges were seen: %s', (_, part, plan) => {
    const { countS, counts } = countOf(part, plan);
    const [none, some = 0] = toldBy(readings(plan), 'reading');
    expect(none).toBe(0);
    expect(Math.abs(some - 1e3 / (counts * countS))).toBeLessThanOrEqual(1);
  });

  it.each(inputs)('tell that they are lost, and begin anew: %s', (_, part, plan) => {
    expect(planCode(plan, part).files[1]?.text).toContain('ask every 100 ms or less often');
    const steps = losses(plan);
    expect(toldBy(steps, 'lost')).toEqual([0, 1]);
    expect(toldBy(steps, 'counts')).toEqual([500, 0]);
    expect(toldBy(steps, 'seen')).toEqual([1, 0]);
  });
});
