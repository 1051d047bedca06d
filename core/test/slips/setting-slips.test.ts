import { KHZ_PWM, KHZ_TICK, RELOADED_TICK } from '../helpers/khz-settings.ts';
import { clockOf, clockPath } from '../../src/clock/path.ts';
import { exact, ratio } from '../../src/quantity/exact.ts';
import { bandAround, bandPpm, dutyBand } from '../../src/signal/band.ts';
import type { Requirement } from '../../src/signal/requirement.ts';
import { slipsOf } from '../../src/slips/setting-slips.ts';
import type { Slip } from '../../src/slips/catalogue.ts';
import { clockNode } from '../../src/timer/drives/index.ts';
import type { InterruptSetting, OutputSetting, Setting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';

const avr = shipped('atmega328p');
const stm32 = shipped('stm32f401');
const CLOCKS = {
  atmega328p: { source: 'crystal', sourceHz: 16_000_000 },
  pic16f684: { source: 'crystal', sourceHz: 8_000_000 },
} as const;

/** 1 kHz within 1 %, half of the time. */
const KHZ: Requirement = {
  frequency: { kind: 'near', ...bandPpm(exact(1000), 10_000) },
  duty: dutyBand(ratio(1, 2), 0.01, 'duty'),
  minSteps: 1,
  pin: true,
};

/** 16 MHz / 64 / 250: 1 kHz, 4 us a count. */
const FAST: OutputSetting = KHZ_PWM;

function found(
  setting: Setting,
  wanted: Requirement = KHZ,
  tolerancePpm = 50,
  part = avr,
): Record<string, Slip> {
  const clock = part.id in CLOCKS ? CLOCKS[part.id as keyof typeof CLOCKS] : part.defaultClock;
  const path = clockPath(part, clock);
  const hz = clockOf(path, clockNode(part, setting));
  const slips = slipsOf(part, setting, wanted, hz, tolerancePpm, clockOf(path, part.cpu.clock));
  // Those that spoil the target come first.
  expect(slips.map(({ warns }) => warns)).toEqual(
    slips
      .map(({ warns }) => warns)
      .sort()
      .reverse(),
  );
  return Object.fromEntries(slips.map((slip) => [slip.id, slip]));
}

describe('one count too many', () => {
  it('is shown with what it would give: 250 / 251 of 1 kHz', () => {
    expect(found(FAST)['minus-one']).toEqual({
      id: 'minus-one',
      title: 'Minus one.',
      text: 'Writing 250 instead of 249 gives 996.015\u202f9 Hz, −3\u202f984 ppm.',
      warns: false,
    });
  });

  it('goes along with the compare value where that is the top', () => {
    const toggled: OutputSetting = { ...FAST, drive: 'toggle', mode: 'ctc', top: 124, compare: 124 };
    // Toggled at each match: 16 MHz / 64 / 125 / 2 = 1 kHz, with 126 counts 992.06 Hz.
    expect(found(toggled)['minus-one']?.text).toBe(
      'Writing 125 instead of 124 gives 992.063\u202f5 Hz, −7\u202f937 ppm.',
    );
  });

  it('is not said of a fixed top, a power of two, an up-down counter, nor at the end of the register', () => {
    const fixed: OutputSetting = {
      ...FAST,
      timer: 'TIMER0',
      mode: 'fast',
      channel: 'OC0A',
      pin: 'PD6',
      top: 255,
    };
    const updown: OutputSetting = { ...FAST, mode: 'phase-icr', top: 125, compare: 62 };
    expect(found(fixed)['minus-one']).toBeUndefined();
    expect(found(updown)['minus-one']).toBeUndefined();
    expect(found({ ...FAST, prescaler: 1, top: 65535, compare: 9 })['minus-one']).toBeUndefined();
    expect(found({ ...FAST, prescaler: 1, top: 65534, compare: 9 })['minus-one']).toBeDefined();
  });
});

describe('never off, never on', () => {
  it('one count of a fast PWM stays: 1 of 250 is 0.4 %', () => {
    expect(found(FAST)['never-off']).toMatchObject({
      warns: false,
      text: 'Compare 0 still gives 0.4 %: one count of 4 µs in each period (fast PWM, top ICR1 (WGM 14)). For 0 % use the inverted output, an up-down mode, or disconnect the output.',
    });
    expect(found(FAST)['never-full']).toBeUndefined();
  });

  it.each([
    ['where 0 % is wanted', { ...FAST }, 0, true],
    ['where the compare value is 0', { ...FAST, compare: 0 }, 0.5, true],
    ['not elsewhere', { ...FAST, compare: 1 }, 0.5, false],
  ])('warns %s', (_, setting, duty, warns) => {
    const wanted = { ...KHZ, duty: dutyBand(exact(duty), 0.01, 'duty') };
    expect(found(setting, wanted)['never-off']?.warns).toBe(warns);
  });

  it('inverted it is the greatest compare value, and the other output is named', () => {
    const inverted: OutputSetting = { ...FAST, polarity: 'inverted' };
    // Inverted, compare 0 leaves one count low, and compare 249 none high.
    expect(found(inverted)['never-off']).toBeUndefined();
    expect(found(inverted)['never-full']).toMatchObject({
      warns: false,
      text: 'Compare 0 gives 99.6 %: one count of 4 µs stays low in each period (fast PWM, top ICR1 (WGM 14)).',
    });
    expect(found({ ...inverted, compare: 0 })['never-full']?.warns).toBe(true);
    const full = { ...KHZ, duty: dutyBand(exact(1), 0.01, 'duty') };
    expect(found(inverted, full)['never-full']?.warns).toBe(true);
  });

  // 24 MHz by 24,000 counts: 1 kHz, a count of 41.67 ns; compare 1 to 23,999 of 24,000 counts.
  it.each([
    [0.5, false],
    [0, true],
    [1, true],
  ])('an output that match and overflow toggle reaches neither end, at %d', (duty, warns) => {
    const sitara = shipped('am3358');
    const setting: OutputSetting = {
      ...{ drive: 'pwm', timer: 'DMTIMER4', mode: 'pwm', channel: 'OUT', pin: 'gpio2_2', prescaler: 1 },
      ...{ top: 23_999, compare: 12_000 },
    };
    const slips = found(setting, { ...KHZ, duty: dutyBand(exact(duty), 0.01, 'duty') }, 50, sitara);
    expect(slips['never-off']?.warns).toBe(warns);
    expect(slips['never-off']?.text.replace(/[\u202f\u00a0]/g, ' ')).toBe(
      'From 0.004 17 % to 99.995 8 %: match and overflow both come in each period, a count of 41.666 7 ns apart at least. For 0 % and 100 % stop the timer.',
    );
    expect(slips['never-full']).toBeUndefined();
  });

  it('is not said of an output that is toggled, nor of an up-down mode that reaches both', () => {
    expect(
      found({ ...FAST, drive: 'toggle', top: 124, compare: 60, mode: 'ctc-icr' })['never-off'],
    ).toBeUndefined();
    const updown = found({ ...FAST, mode: 'phase-icr', top: 125, compare: 62 });
    expect([updown['never-off'], updown['never-full']]).toEqual([undefined, undefined]);
  });
});

describe('halves', () => {
  it('a toggled pin has half of its counter’s rate', () => {
    const toggled: OutputSetting = { ...FAST, drive: 'toggle', mode: 'ctc-icr', top: 124, compare: 0 };
    expect(found(toggled)['toggle-half']).toMatchObject({
      warns: false,
      text: 'The counter runs at 2\u202f000 Hz; the pin changes once a run, so it has 1\u202f000 Hz.',
    });
    expect(found(FAST)['toggle-half']).toBeUndefined();
  });

  it('an up-down counter takes twice the time: top 125 counts 250, up alone 126', () => {
    // 16 MHz / 64 / 126 = 1984.13 Hz.
    expect(found({ ...FAST, mode: 'phase-icr', top: 125, compare: 62 })['up-down-half']?.text).toBe(
      'This mode counts up and down again; the same top in an up-counting mode would give 1\u202f984.13 Hz.',
    );
    expect(found(FAST)['up-down-half']).toBeUndefined();
  });
});

describe('the oscillator', () => {
  it.each([
    [10_000, undefined],
    [10_001, true],
  ])('of ±%i ppm against ±1 %%', (ppm, warns) => {
    expect(found(FAST, KHZ, ppm)['oscillator']?.warns).toBe(warns);
  });

  it('says both figures', () => {
    expect(found(FAST, KHZ, 20_000)['oscillator']?.text).toBe(
      'Its error can reach ±2 %, the target allows ±1 %: no divider can correct that.',
    );
  });

  it('does not matter where only a minimum is asked for, nor to an input', () => {
    const above: Requirement = { ...KHZ, frequency: { kind: 'within', low: exact(100) } };
    expect(found(FAST, above, 100_000)['oscillator']).toBeUndefined();
    const tick: InterruptSetting = KHZ_TICK;
    expect(found(tick, { ...KHZ, pin: false }, 20_000)['oscillator']?.warns).toBe(true);
  });
});

describe('a match that is never reached', () => {
  it('leaves the pin where it is', () => {
    expect(found({ ...FAST, compare: 250 })['above-top']).toMatchObject({
      warns: true,
      text: 'The counter turns at 249 and never reaches 250: the pin stays high.',
    });
    expect(found({ ...FAST, compare: 249 })['above-top']).toBeUndefined();
    const toggled: OutputSetting = { ...FAST, drive: 'toggle', mode: 'ctc-icr', top: 124, compare: 125 };
    expect(found(toggled)['above-top']?.text).toBe(
      'The counter turns at 124 and never reaches 125: the pin stays low.',
    );
  });
});

describe('what is seen and heard', () => {
  const above = (low: number): Requirement => ({ ...KHZ, frequency: { kind: 'within', low: exact(low) } });
  const at = (hz: number): OutputSetting => ({
    ...FAST,
    prescaler: 1,
    top: Math.round(16e6 / hz) - 1,
    compare: 9,
  });

  it.each([
    [16e6 / 65536, 'audible'],
    [20_000, undefined],
    [19_900, 'audible'],
    [25_000, undefined],
  ])('at %f Hz: %s', (hz, id) => {
    const slips = found(at(hz), above(100));
    expect(slips['flicker']).toBeUndefined();
    expect(slips['audible']?.id).toBe(id);
  });

  it.each([
    [99, true],
    [100, false],
  ])('at %i Hz it flickers: %s', (hz, flickers) => {
    const slow: OutputSetting = { ...FAST, prescaler: 8, top: Math.round(2e6 / hz) - 1, compare: 9 };
    const slips = found(slow, above(10));
    expect(slips['flicker']?.warns).toBe(flickers ? true : undefined);
    if (flickers)
      expect(slips['flicker']?.text).toMatch(
        /^At 99.000\s1 Hz a light is seen to flicker; from 100 Hz on it is not\.$/,
      );
    expect(slips['audible'] === undefined).toBe(flickers);
  });

  it('is not said of what has one frequency, nor of a tick', () => {
    expect(Object.keys(found(FAST))).not.toContain('audible');
    const tick: InterruptSetting = KHZ_TICK;
    expect(found(tick, { ...above(100), pin: false })['audible']).toBeUndefined();
  });
});

describe('steps of a width', () => {
  const width = (toleranceS: number): Requirement => ({
    ...KHZ,
    width: bandAround(exact(0.0005), exact(toleranceS)),
  });

  // One count is 4 us: too coarse for ±1.9 us, not for ±2 us.
  it.each([
    [0.0000019, true],
    [0.000002, undefined],
    [0, undefined],
  ])('of 4 us against ±%f s', (toleranceS, warns) => {
    expect(found(FAST, width(toleranceS))['coarse']?.warns).toBe(warns);
  });

  it('says both figures', () => {
    expect(found(FAST, width(0.000001))['coarse']?.text).toBe(
      'One step of 7.97 bits is 4 µs, the tolerance is ±1 µs: many widths cannot be made.',
    );
  });
});

describe('a tick', () => {
  const tick: InterruptSetting = KHZ_TICK;
  const wanted: Requirement = { ...KHZ, pin: false };

  it('that is counted wraps: 1 kHz in 16 bits after 65.5 s, in 32 bits after 49.7 days', () => {
    expect(found(tick, wanted)['wraps']).toMatchObject({
      warns: false,
      text: 'A count of 1\u202f000 Hz in 16 bits begins again after 65.5 s, in 32 bits after 49.7 days: compare differences, not counts.',
    });
    expect(found(FAST)['wraps']).toBeUndefined();
  });

  it('says seconds up to two days', () => {
    // 2^32 / 100 kHz = 42950 s; 2^16 / 100 kHz = 0.655 s.
    const fast: InterruptSetting = { ...tick, prescaler: 8, top: 19 };
    expect(
      found(fast, { ...wanted, frequency: { kind: 'near', ...bandPpm(exact(100_000), 1000) } })['wraps']
        ?.text,
    ).toContain('in 16 bits begins again after 655 ms, in 32 bits after 42\u202f950 s');
  });

  it('toggling a pin needs two interrupts a period', () => {
    expect(found({ ...tick, pin: 'PB0', top: 124 })['two-toggles']).toMatchObject({
      warns: false,
      text: 'The pin changes 2\u202f000 times a second, which is 1\u202f000 Hz.',
    });
    expect(found(tick, wanted)['two-toggles']).toBeUndefined();
    const counted: Setting = {
      drive: 'software-pwm',
      timer: 'TIMER1',
      mode: 'ctc',
      pin: 'PB0',
      prescaler: 8,
      top: 199,
      compare: 5,
      divider: 10,
    };
    expect(found(counted)['two-toggles']).toBeUndefined();
  });

  it('that takes a third of the processor leaves little', () => {
    // 54 cycles or so an interrupt: at 100 kHz more than a third of 16 MHz, at 1 kHz next to nothing.
    const busy = found({ ...tick, prescaler: 1, top: 99 }, wanted)['cpu'];
    expect(busy?.warns).toBe(true);
    expect(busy?.text).toMatch(
      /^This takes \d+\.?\d* % of its time; whatever else interrupts shifts the edges\.$/,
    );
    expect(found(tick, wanted)['cpu']).toBeUndefined();
  });
});

describe('timers on one prescaler', () => {
  it('shift each other where it is reset', () => {
    expect(found(FAST)['shared-prescaler']).toMatchObject({
      warns: false,
      text: 'Timer 1 shares its prescaler with Timer 0: each divides as it likes, but resetting it shifts the edges of all by up to 64 clocks.',
    });
  });

  it('not where they count undivided, nor where the prescaler is the timer’s own', () => {
    expect(found({ ...FAST, prescaler: 1 })['shared-prescaler']).toBeUndefined();
    const own: OutputSetting = {
      drive: 'pwm',
      timer: 'TIM3',
      mode: 'up',
      channel: 'CH1',
      pin: 'PA6',
      prescaler: 84,
      top: 999,
      compare: 500,
    };
    expect(found(own, KHZ, 30, stm32)['shared-prescaler']).toBeUndefined();
  });
});

describe('a counter that its interrupt reloads', () => {
  it('holds the count while it is written', () => {
    const pic = shipped('pic16f684');
    const setting: InterruptSetting = RELOADED_TICK;
    const slip = found(setting, { ...KHZ, pin: false }, 50, pic)['hold-off'];
    // 256 - 100 = 156 is written; two clocks held are one count of two, so that plain arithmetic has 155.
    expect(slip?.text).toMatch(
      /^By plain arithmetic the reload would be 155; the write holds the count for \d+ clocks, so it is 156\./,
    );
    expect(found(FAST)['hold-off']).toBeUndefined();
  });
});
