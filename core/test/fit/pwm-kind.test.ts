import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { clockPath, type ClockSetting } from '../../src/clock/path.ts';
import { signalFit } from '../../src/evaluate/choose.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { withoutKey } from '../../src/plan/edit.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { modeOf, timerOf } from '../../src/part/find.ts';
import { sentenceText } from '../../src/signal/sentence.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';

const CLOCKS: Record<string, ClockSetting> = {
  stm32f401: {
    source: 'crystal',
    sourceHz: 8_000_000,
    tolerancePpm: 30,
    settings: { pllM: 8, pllN: 336, pllP: 4 },
  },
  atmega328p: { source: 'crystal', sourceHz: 16_000_000, tolerancePpm: 30 },
  rp2040: shipped('rp2040').defaultClock,
};

const FAN: PlanSignal = {
  id: 'fan',
  name: 'Fan',
  kind: 'pwm',
  target: { frequencyHz: 25_000, frequencyTolerancePpm: 20_000, duty: 0.4, minSteps: 256 },
};
const MOTOR: PlanSignal = {
  id: 'motor',
  name: 'Winch motor',
  kind: 'pwm',
  target: { minHz: 20_000, duty: 0.5, minSteps: 1024 },
};
const CARRIER: PlanSignal = {
  id: 'carrier',
  name: 'Carrier',
  kind: 'pwm',
  target: { frequencyHz: 38_000, duty: '1/3' },
};
const BRIDGE: PlanSignal = {
  id: 'bridge',
  name: 'Half bridge',
  kind: 'pwm',
  pin: 'PA8',
  target: { frequencyHz: 100_000, duty: 0.5 },
  complement: { pin: 'PB13', deadS: 200e-9 },
};

function clockOn(part: string): ClockSetting {
  return CLOCKS[part] ?? shipped(part).defaultClock;
}

function planOf(part: string, signal: PlanSignal): Plan {
  const clock = clockOn(part);
  return { format: 'herzschlag-plan', version: PLAN_VERSION, name: 'Hold', part, clock, signals: [signal] };
}

function evaluated(part: string, signal: PlanSignal) {
  const evaluation = evaluatePlan(planOf(part, signal), shipped(part));
  const [result] = evaluation.signals;
  if (!result) throw new Error('no signal');
  return result;
}

function fitOf(part: string, signal: PlanSignal) {
  const chip = shipped(part);
  return signalFit(chip, clockPath(chip, clockOn(part)), signal);
}

function verdicts(part: string, signal: PlanSignal): string[] {
  const checks = evaluated(part, signal).outcome?.checks ?? [];
  return checks.map(({ property, label, verdict }) => `${label ?? property} ${verdict}`);
}

/*
 * By hand. Clocks: 84 MHz, 16 MHz, 125 MHz.
 * 25 kHz is 3360, 640 and 5000 counts, exactly; 40 % of them are 1344, 256 and 2000.
 * 38 kHz is 2210.53, 421.05 and 3289.47 counts. The nearest whole ones are 2211 = 3 x 737 (a third exactly) and 421 (140 of
 * them are 33.25 %). With sixteenths of a clock 52 632 / 16 is nearest, 17/16 x 3096 of it divisible by three.
 */
describe.each([
  ['fan', FAN, 'stm32f401', { prescaler: 1, top: 3359, compare: 1344 }, 25_000, 3360],
  ['fan', FAN, 'atmega328p', { prescaler: 1, top: 639, compare: 255 }, 25_000, 640],
  ['fan', FAN, 'rp2040', { prescaler: 1, top: 4999, compare: 2000 }, 25_000, 5000],
  ['carrier', CARRIER, 'stm32f401', { prescaler: 1, top: 2210, compare: 737 }, 84e6 / 2211, 2211],
  ['carrier', CARRIER, 'atmega328p', { prescaler: 1, top: 420, compare: 139 }, 16e6 / 421, 421],
  ['carrier', CARRIER, 'rp2040', { prescaler: 17 / 16, top: 3095, compare: 1032 }, 2e9 / 52_632, 3096],
] as const)('a %s', (_, signal, part, numbers, hz, steps) => {
  it(`on ${part} has ${JSON.stringify(numbers)}`, () => {
    const { outcome } = evaluated(part, signal);
    expect(outcome?.setting).toMatchObject(numbers);
    expect(outcome?.steps).toBe(steps);
    expect(outcome?.frequencyHz).toBeCloseTo(hz, 6);
    const more = signal === FAN ? ['steps pass'] : [];
    expect(verdicts(part, signal)).toEqual(['frequency pass', 'duty pass', ...more]);
  });
});

describe('a motor above hearing in 10 bits', () => {
  // Of round numbers of steps the one that leaves most room to 20 kHz and to 1024 steps: 84 MHz / 2048 and 125 MHz / 2500.
  it.each([
    ['stm32f401', 2047, 84e6 / 2048],
    ['rp2040', 2499, 50_000],
  ])('on %s', (part, top, hz) => {
    const { outcome } = evaluated(part, MOTOR);
    expect(outcome?.setting).toMatchObject({ top });
    expect(outcome?.frequencyHz).toBeCloseTo(hz, 6);
    expect(verdicts(part, MOTOR)).toEqual(['frequency pass', 'duty pass', 'steps pass']);
  });

  it('is beyond an ATmega328P: 1024 steps of 16 MHz are 15.625 kHz', () => {
    const { candidates, refused } = fitOf('atmega328p', MOTOR);
    expect(candidates).toEqual([]);
    expect(refused.find(({ mode }) => mode === 'fast-icr')?.reason).toBe(
      'In 1\u202f024 steps the fastest is 15.625 kHz, below the 20 kHz asked for.',
    );
  });

  it('below its driver’s limit it stays amid the band', () => {
    const band: PlanSignal = {
      ...MOTOR,
      target: { minHz: 20_000, maxHz: 30_000, minSteps: 1024 },
    };
    const { candidates } = fitOf('stm32f401', band);
    // sqrt(20 x 30) = 24.495 kHz is 3429 counts.
    expect(candidates[0]?.setting).toMatchObject({ prescaler: 1, top: 3428 });
    expect(candidates.every(({ frequencyHz }) => frequencyHz >= 20_000 && frequencyHz <= 30_000)).toBe(true);
    expect(verdicts('stm32f401', band)[0]).toBe('frequency pass');
    const tight: PlanSignal = {
      ...MOTOR,
      target: { minHz: 63_000, maxHz: 65_000, minSteps: 256 },
    };
    expect(fitOf('atmega328p', tight).candidates).toEqual([]);
    expect(fitOf('atmega328p', tight).refused.find(({ mode }) => mode === 'fast-icr')?.reason).toBe(
      'In 256 steps the fastest is 62.5 kHz, below the 63 kHz asked for.',
    );
  });
});

describe('a half bridge with a dead time', () => {
  // 84 MHz / 100 kHz = 840 counts; 200 ns are 16.8 clocks, so 17, 202.4 ns.
  it('on STM32F401', () => {
    expect(evaluated('stm32f401', BRIDGE).outcome?.setting).toMatchObject({
      timer: 'TIM1',
      prescaler: 1,
      top: 839,
      compare: 437,
      complement: { pin: 'PB13', deadTicks: 17 },
    });
    expect(verdicts('stm32f401', BRIDGE)).not.toContain(expect.stringContaining('fail'));
  });

  // 1 us is 84 clocks of 84 MHz; 30 ppm fast they would be 30 ps short of it.
  it('takes a dead time that is long enough with the fastest oscillator', () => {
    const plain = { ...BRIDGE, target: { ...BRIDGE.target, frequencyHz: 10_000 } };
    const own = { ...plain, complement: { pin: 'PB13', deadS: 1e-6 } } as PlanSignal;
    expect(evaluated('stm32f401', own).outcome?.setting).toMatchObject({ complement: { deadTicks: 85 } });
    expect(verdicts('stm32f401', own)).not.toContain(expect.stringContaining('fail'));
  });

  // PA7 and PB13 are both outputs of CH1N, and an inverted CH1 moves as CH1N does: both switches would conduct.
  it.each([
    ['PA7', {}],
    ['PA8', { polarity: 'inverted' as const }],
  ])('never has the signal on %s as its own opposite', (pin, polarity) => {
    const setting = {
      ...{ drive: 'pwm' as const, timer: 'TIM1', mode: 'up', prescaler: 1, top: 839, channel: 'CH1' },
      ...{ pin, compare: 437, complement: { pin: 'PB13', deadTicks: 17 }, ...polarity },
    };
    const found = evaluated('stm32f401', { ...BRIDGE, pin, setting }).outcome?.checks;
    const check = found?.find(({ property }) => property === 'dead time');
    expect([check?.verdict, check?.note]).toEqual([
      'fail',
      `${pin} and PB13 go the same way: both switches of a bridge would conduct.`,
    ]);
    const refused = fitOf('stm32f401', { ...BRIDGE, pin: 'PA7' });
    expect(refused.candidates).toEqual([]);
    expect(refused.refused.find(({ timer }) => timer === 'TIM1')?.reason).toBe(
      'PA7 and PB13 go the same way: both are outputs of the opposite of one channel of TIM1.',
    );
  });

  it('takes the other pin of the channel where the signal may be on any', () => {
    const { candidates } = fitOf('stm32f401', withoutKey(BRIDGE, 'pin'));
    expect(candidates.length).toBeGreaterThan(0);
    for (const { setting } of candidates) expect(setting.pin).toBe('PA8');
  });

  // No hardware keeps dead times: 100 kHz are 2 x 80 counts of 16 MHz, 200 ns 3.2 of them; 2 x 625 of 125 MHz, 25 and a bit for a
  // fast crystal.
  it.each([
    ['atmega328p', 'PB1', 'PB2', 80, 4],
    ['rp2040', 'GPIO0', 'GPIO1', 625, 26],
  ])('on %s a second channel makes the opposite', (part, pin, other, top, deadTicks) => {
    const signal = { ...BRIDGE, pin, complement: { pin: other, deadS: 200e-9 } };
    const [best] = fitOf(part, signal).candidates;
    const { mode } = best!.setting as OutputSetting;
    expect(best?.setting).toMatchObject({ complement: { pin: other, deadTicks } });
    const { base } = modeOf(timerOf(shipped(part), (best!.setting as OutputSetting).timer), mode);
    expect(best!.setting.top + base).toBe(top);
    expect(verdicts(part, signal)).not.toContain(expect.stringContaining('fail'));
  });

  it.each([
    ['attiny85', 'PB1', 'PB4'],
    ['esp32', 'GPIO0', 'GPIO2'],
  ])('%s cannot on pins of two timers, or without a counter that goes up and down', (part, pin, other) => {
    expect(fitOf(part, { ...BRIDGE, pin, complement: { pin: other, deadS: 200e-9 } }).candidates).toEqual([]);
  });
});

describe('a duty that moves', () => {
  const span = (minDuty: number, maxDuty: number): PlanSignal => ({
    id: 'heater',
    name: 'Heater',
    kind: 'pwm',
    target: { frequencyHz: 1000, duty: 0.5, minDuty, maxDuty },
  });

  it('has a sentence and a check for each end', () => {
    expect(sentenceText(span(0.2, 1))).toBe(
      'Heater on any pin gets PWM at 1\u202f000 Hz within 1 %, high for 50 % between 20 % and 100 % of the time, in 100 steps or more.',
    );
    expect(verdicts('stm32f401', span(0, 1))).toEqual([
      'frequency pass',
      'duty pass',
      'steps pass',
      'least duty pass',
      'greatest duty pass',
    ]);
  });

  it('0 % needs a mode whose compare values reach it: fast PWM of an ATmega328P stays high for one count', () => {
    const { candidates } = fitOf('atmega328p', span(0, 1));
    expect(candidates.length).toBeGreaterThan(0);
    for (const { setting } of candidates) {
      if (!('mode' in setting) || setting.drive !== 'pwm') continue;
      expect(`${setting.mode} ${'polarity' in setting}`).not.toBe('fast-icr false');
    }
  });

  it('reports its positions: 20 % to 80 % of 840 counts are 168 to 672', () => {
    const { outcome } = evaluated('stm32f401', {
      ...span(0.2, 0.8),
      setting: {
        drive: 'pwm',
        timer: 'TIM3',
        mode: 'up',
        channel: 'CH1',
        pin: 'PA6',
        prescaler: 100,
        top: 839,
        compare: 420,
      },
    });
    expect(outcome?.span).toMatchObject({ of: 'duty', positions: 505, reached: true });
    expect(outcome?.span?.coarsest).toBeCloseTo(1 / 840, 12);
  });
});
