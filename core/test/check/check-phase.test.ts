import { KHZ_PWM } from '../helpers/khz-settings.ts';
import { phaseBetween, riseOf } from '../../src/check/check-phase.ts';
import { clockPath } from '../../src/clock/path.ts';
import type { OutputSetting, Setting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';

const part = shipped('atmega328p');
const path = clockPath(part, { source: 'crystal', sourceHz: 16_000_000, tolerancePpm: 50 });

/** 1 kHz: 16 MHz / 64 / 250, high from count 0 for 100 counts. */
const ONE: OutputSetting = { ...KHZ_PWM, compare: 99 };
/** The same on the second channel, low for the first 100 counts. */
const OTHER: OutputSetting = { ...ONE, channel: 'OC1B', pin: 'PB2', polarity: 'inverted' };
/** Timer 2 at 1 kHz too: it counts by itself. */
const APART: OutputSetting = {
  drive: 'pwm',
  timer: 'TIMER2',
  mode: 'fast-ocra',
  channel: 'OC2B',
  pin: 'PD3',
  prescaler: 64,
  top: 249,
  compare: 99,
};

it('a rise is told from the start of the timer, in s', () => {
  expect(riseOf(part, path, ONE)).toEqual({ riseS: 0, hz: 1000 });
  // 100 counts of 4 us.
  expect(riseOf(part, path, OTHER)).toEqual({ riseS: expect.closeTo(0.0004, 12) as number, hz: 1000 });
  // A counter that begins at 150 is at 0 after 100 counts.
  expect(riseOf(part, path, { ...ONE, begin: 150 })?.riseS).toBeCloseTo(0.0004, 12);
});

it('what has no edges has no rise', () => {
  expect(riseOf(part, path, { ...ONE, compare: 249 })).toBeUndefined();
  const input: Setting = {
    drive: 'capture',
    timer: 'TIMER1',
    mode: part.timers.find(({ id }) => id === 'TIMER1')?.captures?.[0]?.mode ?? '',
    channel: part.timers.find(({ id }) => id === 'TIMER1')?.captures?.[0]?.id ?? '',
    pin: 'PB0',
    prescaler: 8,
    top: 65535,
  };
  expect(riseOf(part, path, input)).toBeUndefined();
});

describe('the phase of two signals', () => {
  const own = { name: 'Own', setting: OTHER };

  it('on one timer is that of its counts: 0.4 ms of 1 ms are 144°', () => {
    expect(
      phaseBetween(part, path, { to: 'other', degrees: 144 }, own, { name: 'Other', setting: ONE }),
    ).toMatchObject({ value: 144, low: 144 - 5, high: 144 + 5, verdict: 'pass' });
    const check = phaseBetween(part, path, { to: 'other', degrees: 144 }, own, {
      name: 'Other',
      setting: ONE,
    });
    expect(check.note).toBeUndefined();
  });

  it('is the difference of both rises: 0.4 ms after the start against 0.1 ms are 108°', () => {
    // Inverted, it rises after 25 counts of 4 us.
    const later: OutputSetting = { ...ONE, channel: 'OC1B', pin: 'PB2', polarity: 'inverted', compare: 24 };
    expect(riseOf(part, path, later)?.riseS).toBeCloseTo(0.0001, 12);
    expect(
      phaseBetween(part, path, { to: 'other', degrees: 108 }, own, { name: 'Other', setting: later }),
    ).toMatchObject({ value: 108, verdict: 'pass' });
  });

  it('within its own tolerance', () => {
    const phase = { to: 'other', degrees: 150, toleranceDegrees: 6 };
    expect(phaseBetween(part, path, phase, own, { name: 'Other', setting: ONE })).toMatchObject({
      low: 144,
      high: 156,
      verdict: 'pass',
    });
    expect(
      phaseBetween(part, path, { ...phase, toleranceDegrees: 5 }, own, { name: 'Other', setting: ONE })
        .verdict,
    ).toBe('fail');
  });

  it('on two timers holds where both start at the same moment, which is said where it passes', () => {
    const other = { name: 'Other', setting: APART };
    expect(phaseBetween(part, path, { to: 'other', degrees: 144 }, own, other)).toMatchObject({
      verdict: 'pass',
      note: 'Where both timers start at the same moment.',
    });
    const failing = phaseBetween(part, path, { to: 'other', degrees: 0 }, own, other);
    expect([failing.verdict, failing.note]).toEqual(['fail', undefined]);
  });

  it('without edges is unknown, and says whose', () => {
    const still = { name: 'Still', setting: { ...ONE, compare: 249 } };
    const phase = { to: 'other', degrees: 0 };
    expect(phaseBetween(part, path, phase, own, still)).toEqual({
      property: 'phase',
      unit: '°',
      verdict: 'unknown',
      note: 'Still has no edges to tell a phase from.',
    });
    expect(phaseBetween(part, path, phase, still, own).note).toBe('Still has no edges to tell a phase from.');
  });
});
