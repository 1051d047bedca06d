import type { Check } from '../../src/check/check.ts';
import { checksAlone } from '../../src/evaluate/signal-checks.ts';
import { clockPath, type ClockSetting } from '../../src/clock/path.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';

const part = shipped('atmega328p');
const CRYSTAL: ClockSetting = { source: 'crystal', sourceHz: 16e6, tolerancePpm: 50 };

function checks(aim: KindAndTarget, setting: object, clock = CRYSTAL): Check[] {
  const signal = { id: 'one', name: 'One', pin: 'PB1', ...aim } as PlanSignal;
  return checksAlone(part, clockPath(part, clock), signal, setting as Setting);
}

const named = (list: readonly Check[], label: string): Check | undefined =>
  list.find((check) => check.label === label);

/** 20 ms of 0.5 µs on Timer 1, high for as many counts as said. */
const frame = (counts: number) => ({
  drive: 'pwm',
  timer: 'TIMER1',
  mode: 'fast-icr',
  channel: 'OC1A',
  pin: 'PB1',
  prescaler: 8,
  top: 39999,
  compare: counts - 1,
});
const SERVO = { kind: 'pulse', target: { frameHz: 50, minS: 0.0009, maxS: 0.0021 } } as const;

describe('a span of widths', () => {
  it('is off by half a count of 0.5 µs and 50 ppm of 2.1 ms at its worst place: 0.355 µs', () => {
    const worst = named(checks(SERVO, frame(3000)), 'worst place');
    expect(worst).toMatchObject({ verdict: 'pass', high: 0.000005 });
    expect(worst?.value).toBeCloseTo(0.25e-6 * 1.00005 + 0.0021 * 50e-6, 15);
  });

  it.each([1800, 2000, 3000, 4200])('takes any width inside to begin with: %d counts of 0.5 µs', (counts) => {
    const failing = checks(SERVO, frame(counts)).filter(({ verdict }) => verdict !== 'pass');
    expect(failing).toEqual([]);
  });

  it.each([1789, 4212])('refuses one outside by more than 5 µs: %d counts', (counts) => {
    const width = checks(SERVO, frame(counts)).find(({ property }) => property === 'width');
    expect(width?.verdict).toBe('fail');
  });

  it('fails at its far end on an oscillator of ±10 %: 2.1 ms can be 210 µs off', () => {
    const worst = named(
      checks(
        { kind: 'pulse', target: { ...SERVO.target, widthToleranceS: 0.0002, frameTolerancePpm: 200000 } },
        frame(3000),
        { ...CRYSTAL, tolerancePpm: 100000 },
      ),
      'worst place',
    );
    expect(worst?.verdict).toBe('fail');
    expect(worst?.value).toBeCloseTo(0.00021 + 0.25e-6 * 1.1, 12);
    expect(worst?.note?.replace(/[\u202f\u00a0]/g, ' ')).toMatch(
      /^A width within the span can be 210\.\d+ µs off/,
    );
  });

  it('has three places in 8 bits at 61 Hz, which are 1/256 of 16.384 ms apart: half of 64 µs is missing', () => {
    const coarse = {
      drive: 'pwm',
      timer: 'TIMER2',
      mode: 'fast',
      channel: 'OC2A',
      pin: 'PB3',
      prescaler: 1024,
      top: 255,
      compare: 23,
    };
    const list = checks({ kind: 'pulse', target: { ...SERVO.target, frameHz: 61.03515625 } }, coarse);
    expect(named(list, 'worst place')).toMatchObject({ verdict: 'fail' });
    expect(named(list, 'worst place')?.value).toBeCloseTo(0.000032 * 1.00005 + 0.0021 * 50e-6, 12);
  });
});

describe('a span of frequencies', () => {
  const strobe = (frequencyTolerancePpm: number): KindAndTarget => ({
    kind: 'strobe',
    target: { minHz: 8, maxHz: 90, onS: 0.0005, frequencyTolerancePpm },
  });
  const slow = (prescaler: number) => ({
    ...frame(1),
    prescaler,
    // 8 Hz and 500 µs.
    top: 16e6 / prescaler / 8 - 1,
    compare: Math.round((16e6 / prescaler) * 0.0005) - 1,
  });

  it('is off by half of 2,778 counts and the crystal at 90 Hz: 180 + 50 ppm', () => {
    expect(named(checks(strobe(200), slow(64)), 'worst place')).toMatchObject({
      verdict: 'fail',
      unit: 'fraction',
    });
    const worst = named(checks(strobe(250), slow(64)), 'worst place');
    expect(worst?.verdict).toBe('pass');
    expect(worst?.value).toBeCloseTo(230e-6, 6);
  });

  it('is not reached by a prescaler too small for 8 Hz', () => {
    const list = checks(strobe(250), { ...slow(64), prescaler: 8, top: 65535, compare: 999 });
    expect(named(list, 'span of frequencies')).toMatchObject({ verdict: 'fail' });
  });
});

describe('a span of duties', () => {
  it('takes any duty inside to begin with, and refuses one outside', () => {
    const motor: KindAndTarget = {
      kind: 'pwm',
      target: { frequencyHz: 50, minDuty: 0.2, maxDuty: 0.8 },
    };
    const duty = (counts: number): string | undefined =>
      checks(motor, frame(counts)).find(({ property }) => property === 'duty')?.verdict;
    // 19 % and 81 % are the last within the tolerance of a point.
    expect([7600, 8000, 20000, 32400].map(duty)).toEqual(['pass', 'pass', 'pass', 'pass']);
    expect([7500, 32500].map(duty)).toEqual(['fail', 'fail']);
  });
});
