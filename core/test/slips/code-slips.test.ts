import { KHZ_PWM, KHZ_TICK, RELOADED_TICK } from '../helpers/khz-settings.ts';
import { clockOf, clockPath, type ClockPath } from '../../src/clock/path.ts';
import type { Part } from '../../src/part/types.ts';
import { exact } from '../../src/quantity/exact.ts';
import { bandAround, bandPpm, dutyBand } from '../../src/signal/band.ts';
import type { Requirement } from '../../src/signal/requirement.ts';
import { explainEffect } from '../../src/slips/code-slips.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';
import type { InterruptSetting, OutputSetting, Setting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';

const avr = shipped('atmega328p');
const MHZ16 = clockPath(avr, { source: 'crystal', sourceHz: 16_000_000 });

/** 16 MHz / 64 / 250: 1 kHz, high for 125 of 250 counts. */
const FAST: OutputSetting = KHZ_PWM;

function wanted(hz: number, { duty = 0.5, ppm = 1000, dutyTolerance = 0.001, ...more } = {}): Requirement {
  return {
    frequency: { kind: 'near', ...bandPpm(exact(hz), ppm) },
    duty: dutyBand(exact(duty), dutyTolerance, 'duty'),
    minSteps: 1,
    pin: true,
    ...more,
  };
}

function explained(
  setting: Setting,
  requirement: Requirement,
  part: Part = avr,
  path: ClockPath = MHZ16,
): { id: string; text: string } | undefined {
  const slips = explainEffect(part, path, requirement, {
    setting,
    outcome: outcomeUnder(part, path, setting),
  });
  // One reason, the best, or none.
  expect(slips.length).toBeLessThan(2);
  for (const { warns } of slips) expect(warns).toBe(true);
  return slips[0];
}

it('what does what is wanted needs no reason', () => {
  expect(explained(FAST, wanted(1000))).toBeUndefined();
  expect(
    explained(FAST, { ...wanted(1000), frequency: { kind: 'within', low: exact(900) } }),
  ).toBeUndefined();
  expect(
    explained(FAST, { ...wanted(1000), frequency: { kind: 'within', low: exact(900), high: exact(1000) } }),
  ).toBeUndefined();
});

it('what no timer counts has none', () => {
  expect(explained({ drive: 'delay-loop', pin: 'PB0', top: 250, compare: 125 }, wanted(5))).toBeUndefined();
});

describe('one count', () => {
  it.each([
    [
      250,
      'minus-one',
      'With 249 instead of 250 it would be 1\u202f000 Hz; the error is currently −3\u202f984 ppm.',
    ],
    [
      248,
      'minus-one-twice',
      'With 249 instead of 248 it would be 1\u202f000 Hz; the error is currently +4\u202f016 ppm.',
    ],
  ])('top %i for 249: %s', (top, id, text) => {
    expect(explained({ ...FAST, top }, wanted(1000))).toMatchObject({ id, text });
  });

  it('in an up-down mode, whose run has no one more: top 125 for 1 kHz', () => {
    const updown: OutputSetting = { ...FAST, mode: 'phase-icr', top: 126, compare: 63 };
    expect(explained(updown, wanted(1000))).toMatchObject({ id: 'minus-one' });
    expect(explained({ ...updown, top: 124, compare: 62 }, wanted(1000))?.id).toBe('minus-one-twice');
  });

  it('moves the compare value along where that is the top', () => {
    const toggled: OutputSetting = { ...FAST, drive: 'toggle', mode: 'ctc', top: 125, compare: 125 };
    expect(explained(toggled, wanted(1000))?.text).toMatch(/^With 124 instead of 125 it would be 1\s000 Hz/);
  });

  it('is found within a wide tolerance too, where the error is a whole count', () => {
    expect(explained({ ...FAST, top: 250 }, wanted(1000, { ppm: 10_000 }))?.id).toBe('minus-one');
  });

  it('two counts are something else', () => {
    expect(explained({ ...FAST, top: 252 }, wanted(1000))?.id).not.toBe('minus-one');
  });

  it('is not said of a fixed top', () => {
    const fixed: OutputSetting = {
      ...FAST,
      timer: 'TIMER0',
      mode: 'fast',
      channel: 'OC0A',
      pin: 'PD6',
      top: 255,
      compare: 127,
    };
    // 16 MHz / 64 / 255.
    expect(explained(fixed, wanted(980.39))?.id).not.toBe('minus-one');
  });
});

describe('a thousand', () => {
  it.each([
    [1, 'It is a thousand times too fast: 1 ms instead of 1 s.'],
    [1_000_000, 'It is a thousand times too slow: 1 ms instead of 1 µs.'],
  ])('wanted %f Hz, made 1 kHz', (hz, text) => {
    expect(explained(FAST, wanted(hz))).toMatchObject({ id: 'unit-1000', text });
  });
});

describe('halves', () => {
  const toggled: OutputSetting = { ...FAST, drive: 'toggle', mode: 'ctc-icr', top: 249, compare: 0 };
  const updown: OutputSetting = { ...FAST, mode: 'phase-icr', top: 250, compare: 125 };
  const tick: InterruptSetting = { ...KHZ_TICK, pin: 'PB0' };

  it('a toggle makes half of its counter’s rate', () => {
    expect(explained(toggled, wanted(1000))).toMatchObject({
      id: 'toggle-half',
      text: 'The pin changes once a run of 1\u202f000 Hz, so it is 500 Hz instead of 1\u202f000 Hz.',
    });
    expect(explained(toggled, wanted(250))).toMatchObject({
      id: 'halved-twice',
      text: 'The halving by the toggle was counted twice: it is 500 Hz instead of 250 Hz.',
    });
  });

  it('up and down takes twice the time', () => {
    expect(explained(updown, wanted(1000))).toMatchObject({ id: 'up-down-half' });
    expect(explained(updown, wanted(250))).toMatchObject({
      id: 'halved-twice',
      text: 'Up and down was counted twice: it is 500 Hz instead of 250 Hz.',
    });
  });

  it('two toggles by interrupts make a period', () => {
    expect(explained(tick, wanted(1000))).toMatchObject({
      id: 'interval-period',
      text: 'Two toggles make a period, so it is 500 Hz instead of 1\u202f000 Hz.',
    });
    // A tick on no pin toggles nothing: there it is the clock or the prescaler.
    const { pin: _, ...plain } = tick;
    expect(explained(plain as Setting, { ...wanted(2000), pin: false })?.id).toBe('clock');
  });

  it('a plain PWM of half the rate counts another clock', () => {
    expect(explained(FAST, wanted(2000))).toMatchObject({
      id: 'clock',
      text: 'Everything is 2 times too slow: Timer 1 counts 16 MHz, the numbers are right for 32 MHz.',
    });
    expect(explained(FAST, wanted(500))?.text).toBe(
      'Everything is 2 times too fast: Timer 1 counts 16 MHz, the numbers are right for 8 MHz.',
    );
  });
});

describe('prescalers', () => {
  it('a divider of 32 where only Timer 2 has one', () => {
    // 16 MHz / 32 / 250 = 2 kHz on Timer 2; the same bits are 64 on the others: wanted 1 kHz.
    const two: OutputSetting = {
      ...FAST,
      timer: 'TIMER2',
      mode: 'fast-ocra',
      channel: 'OC2B',
      pin: 'PD3',
      prescaler: 32,
    };
    expect(explained(two, wanted(4000 / 4))).toMatchObject({
      id: 'prescaler-table',
      text: 'These bits divide by 32 on Timer 2; on the other timers they divide by 64.',
    });
  });

  it('another one of the list', () => {
    // 64 for 1024: 16 times too fast is a clock's factor, 64 for 1: 64 times too slow is not.
    expect(explained({ ...FAST, prescaler: 1024 }, wanted(16_000_000 / 250))).toMatchObject({
      id: 'prescaler',
      text: 'It divides by 1024; with 1 everything would be right.',
    });
  });

  it('nothing explains a rate that no list gives', () => {
    expect(explained(FAST, wanted(1370))).toBeUndefined();
  });
});

describe('a match that is never reached', () => {
  it('above the top, or a top of nothing', () => {
    expect(explained({ ...FAST, compare: 250 }, wanted(1000))).toMatchObject({
      id: 'above-top',
      text: 'The counter turns at 249 and never reaches 250.',
    });
    expect(explained({ ...FAST, compare: 249 }, wanted(1000, { duty: 1 }))).toBeUndefined();
    const toggled: OutputSetting = { ...FAST, drive: 'toggle', mode: 'ctc-icr', top: 124, compare: 125 };
    expect(explained(toggled, wanted(1000))?.id).toBe('above-top');
  });
});

describe('the duty, where the frequency is right', () => {
  it.each([
    // 3 of 250 counts for 1.2, a hundredth of 120 % is none; 0.4 % for 40 %.
    [0, 0.4, 'fraction-percent', 'It is a hundredth of what is wanted: 0.4 % instead of 40 %.'],
    [199, 0.2, 'inverted', 'The pin is low where it should be high: 80 % instead of 20 %.'],
    [
      0,
      0,
      'never-off',
      'fast PWM, top ICR1 (WGM 14) is still high for one count in each period: 0.4 % instead of 0 %.',
    ],
    [
      248,
      1,
      'never-full',
      'fast PWM, top ICR1 (WGM 14) is still low for one count in each period: 99.6 % instead of 100 %.',
    ],
    [
      100,
      0.4,
      'compare-one',
      'In fast PWM, top ICR1 (WGM 14) the pin is high for compare + 1 counts: it is one count too long.',
    ],
    [
      98,
      0.4,
      'compare-one',
      'In fast PWM, top ICR1 (WGM 14) the pin is high for compare + 1 counts: it is one count too short.',
    ],
    // 100.5 of 250 counts are wanted: the nearest is half a count off.
    [99, 0.402, 'coarse', 'One step is 4 µs; the nearest one is 0.2 % off.'],
  ])('compare %i of 249, wanted %f: %s', (compare, duty, id, text) => {
    expect(explained({ ...FAST, compare }, wanted(1000, { duty, dutyTolerance: 0.0001 }))).toMatchObject({
      id,
      text,
    });
  });

  it('half is not taken for inverted, nor what is far off for anything', () => {
    expect(explained({ ...FAST, compare: 134 }, wanted(1000))).toBeUndefined();
    expect(explained({ ...FAST, compare: 10 }, wanted(1000, { duty: 0.7 }))).toBeUndefined();
  });

  it('too few steps are said with both numbers', () => {
    expect(explained(FAST, { ...wanted(1000), minSteps: 1000 })).toMatchObject({
      id: 'coarse',
      text: 'One step is 4 µs; 250 steps are there, 1\u202f000 are asked for.',
    });
    expect(explained(FAST, { ...wanted(1000), minSteps: 250 })).toBeUndefined();
  });

  it('a width counts where one is wanted', () => {
    // 125 counts of 4 us are 0.5 ms.
    const width = (s: number): Requirement => ({
      ...wanted(1000, { duty: s * 1000 }),
      width: bandAround(exact(s), exact(0.000001)),
    });
    expect(explained(FAST, width(0.0005))).toBeUndefined();
    expect(explained(FAST, width(0.000504))?.id).toBe('compare-one');
    expect(explained(FAST, width(0.000496))?.id).toBe('compare-one');
  });

  it('is not asked of ticks and of what the program makes', () => {
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
    expect(explained(counted, wanted(1000, { duty: 0.1 }))).toBeUndefined();
    expect(explained({ ...FAST, compare: 3 }, { ...wanted(1000), pin: false })).toBeUndefined();
  });
});

describe('a counter that is reloaded', () => {
  const pic = shipped('pic16f684');
  const path = clockPath(pic, { source: 'crystal', sourceHz: 8_000_000 });
  const timer = pic.timers.find(({ id }) => id === 'TMR0');
  const undivided: InterruptSetting = { ...RELOADED_TICK, prescaler: 1 };
  const tick = (hz: number, ppm = 1000): Requirement => ({ ...wanted(hz, { ppm }), pin: false });

  it('stands still for two clocks while it is written', () => {
    // 2 MHz: 100 counts and 2 clocks are 19.608 kHz; with 98 counts and the two it is 20 kHz.
    expect(clockOf(path, timer?.clock ?? '').valueOf()).toBe(2_000_000);
    expect(outcomeUnder(pic, path, undivided).frequency.valueOf()).toBeCloseTo(2e6 / 102, 6);
    expect(explained(undivided, tick(20_000), pic, path)).toMatchObject({
      id: 'hold-off',
      text: 'Writing it stops the count for 2 clocks; with 2 added to the reload it would be 20 kHz.',
    });
  });

  it('is not explained by that where another number of counts is missing', () => {
    // 102 clocks for 96: six are no hold of two.
    expect(explained(undivided, tick(2e6 / 96), pic, path)?.id).not.toBe('hold-off');
    // Two clocks are less than a count of 8.
    const slow: InterruptSetting = { ...RELOADED_TICK, prescaler: 8 };
    expect(explained(slow, tick(2e6 / 780), pic, path)?.id).not.toBe('hold-off');
  });

  it('counts undivided where its prescaler belongs to another user', () => {
    // 64 times as fast as with the prescaler of 64.
    expect(explained(undivided, tick(2e6 / 102 / 64), pic, path)).toMatchObject({
      id: 'given-away',
      text: 'OPTION_REG.PSA is 1: the prescaler belongs to another user, Timer 0 counts undivided instead of by 64.',
    });
    // No division of the list is 6, and with a prescaler of its own nothing is given away.
    expect(explained(undivided, tick(2e6 / 102 / 6), pic, path)).toBeUndefined();
    expect(explained(RELOADED_TICK, tick(2e6 / 202 / 64), pic, path)?.id).not.toBe('given-away');
  });
});

describe('what is near to nothing that explains', () => {
  it.each([
    // Half, two per mille at most beside it.
    [2000 * 1.0015, 'clock'],
    [2000 / 1.0015, 'clock'],
    [2000 * 1.004, undefined],
    [2000 / 1.004, undefined],
    // A thousandth.
    [1_000_000 * 1.0015, 'unit-1000'],
    [1_000_000 * 1.004, undefined],
  ])('wanted %f Hz, made 1 kHz: %s', (hz, id) => {
    expect(explained(FAST, wanted(hz))?.id).toBe(id);
  });

  it('a wide tolerance holds for the reason too', () => {
    expect(explained(FAST, wanted(2000 * 1.004, { ppm: 5000 }))?.id).toBe('clock');
    expect(explained(FAST, wanted(2000 * 1.006, { ppm: 5000 }))).toBeUndefined();
  });

  it('the prescaler that it has is no other one', () => {
    // 1.5 per mille off with a tolerance of one: nothing divides otherwise.
    expect(explained(FAST, wanted(1001.5))).toBeUndefined();
    expect(
      explained(
        { ...FAST, timer: 'TIMER2', mode: 'fast', channel: 'OC2A', pin: 'PB3', top: 255 },
        wanted(978),
      ),
    ).toBeUndefined();
  });

  it.each([
    [8, 'Everything is 8 times too fast'],
    [4, 'Everything is 4 times too fast'],
    [3, 'Everything is 3 times too fast'],
    [16, 'Everything is 16 times too fast'],
    [1 / 4, 'Everything is 4 times too slow'],
    [1 / 8, 'Everything is 8 times too slow'],
    [1 / 3, 'Everything is 3 times too slow'],
    [1 / 16, 'Everything is 16 times too slow'],
  ])('%f times the rate is a clock', (factor, text) => {
    // A top of 999 by 1 has no prescaler to explain it before the clock does.
    const plain: OutputSetting = { ...FAST, prescaler: 1, top: 999, compare: 499 };
    const slip = explained(plain, wanted(16_000 / factor));
    expect(slip).toMatchObject({ id: 'clock' });
    expect(slip?.text.startsWith(text)).toBe(true);
  });
});

describe('how near a count must be', () => {
  it('a third of a count is no count, half of one is', () => {
    // 250 counts: 1 kHz. 0.25 counts are 1 per mille, 0.9 counts 3.6 per mille.
    expect(explained(FAST, wanted(1000 * (1 + 0.25 / 250), { ppm: 500 }))).toBeUndefined();
    expect(explained(FAST, wanted(1000 * (1 + 0.95 / 250)))?.id).toBe('minus-one');
    expect(explained(FAST, wanted(1000 * (1 - 0.95 / 250)))?.id).toBe('minus-one-twice');
    expect(explained(FAST, wanted(1000 * (1 + 0.7 / 250)))).toBeUndefined();
  });

  it('a top of a power of two has no neighbours', () => {
    const esp = shipped('esp32');
    const led = esp.timers.find(({ modes }) => modes.some(({ top }) => top.kind === 'power'));
    const mode = led?.modes.find(({ top }) => top.kind === 'power');
    expect(mode?.top.kind).toBe('power');
  });
});

describe('a duty at its very ends', () => {
  it('is met at both limits of its band', () => {
    // 125 of 250 counts are half.
    for (const duty of [0.498, 0.502])
      expect(explained(FAST, wanted(1000, { duty, dutyTolerance: 0.002 }))).toBeUndefined();
    expect(explained(FAST, wanted(1000, { duty: 0.503, dutyTolerance: 0.002 }))).toBeDefined();
    expect(explained(FAST, wanted(1000, { duty: 0.497, dutyTolerance: 0.002 }))).toBeDefined();
  });

  it('a width is met at both limits of its band', () => {
    const width = (s: number): Requirement => ({
      ...wanted(1000, { duty: s * 1000 }),
      width: bandAround(exact(s), exact(0.000002)),
    });
    for (const s of [0.000498, 0.000502]) expect(explained(FAST, width(s))).toBeUndefined();
    for (const s of [0.000497, 0.000503]) expect(explained(FAST, width(s))).toBeDefined();
  });

  it('100 % for 1 % is a percent taken for the whole', () => {
    expect(
      explained({ ...FAST, compare: 249 }, wanted(1000, { duty: 0.01, dutyTolerance: 0.001 })),
    ).toMatchObject({
      id: 'fraction-percent',
      text: 'It is a hundred times what is wanted: 100 % instead of 1 %.',
    });
    expect(
      explained({ ...FAST, compare: 249 }, wanted(1000, { duty: 0.02, dutyTolerance: 0.001 }))?.id,
    ).not.toBe('fraction-percent');
    expect(
      explained({ ...FAST, compare: 240 }, wanted(1000, { duty: 0.01, dutyTolerance: 0.001 }))?.id,
    ).not.toBe('fraction-percent');
  });

  it('a hundredth is told within a step and a half', () => {
    const wide: OutputSetting = { ...FAST, prescaler: 1, top: 15_999, compare: 63 };
    // 64 of 16,000 counts are 0.4 %: a hundredth of 40 %, and of 40.9 % (65.4 counts), not of 41 %.
    expect(explained(wide, wanted(1000, { duty: 0.4 }))?.id).toBe('fraction-percent');
    expect(explained(wide, wanted(1000, { duty: 0.409 }))?.id).toBe('fraction-percent');
    expect(explained(wide, wanted(1000, { duty: 0.41 }))).toBeUndefined();
  });

  it('inverted is told within a step and a half, and not of what is right', () => {
    // 80 % made: 200 of 250. 20 % and 19.4 % are within 1.5 counts, 19.2 % is two away.
    const made = { ...FAST, compare: 199 };
    expect(explained(made, wanted(1000, { duty: 0.2 }))?.id).toBe('inverted');
    expect(explained(made, wanted(1000, { duty: 0.1945 }))?.id).toBe('inverted');
    expect(explained(made, wanted(1000, { duty: 0.192 }))).toBeUndefined();
  });

  it('one count is told between 0.6 and 1.4 counts', () => {
    const off = (counts: number): string | undefined =>
      explained(FAST, wanted(1000, { duty: 0.5 + counts / 250, dutyTolerance: 0.0001 }))?.id;
    expect([0.62, 1.38, -0.62, -1.38].map(off)).toEqual([
      'compare-one',
      'compare-one',
      'compare-one',
      'compare-one',
    ]);
    expect([0.45, -0.45].map(off)).toEqual(['coarse', 'coarse']);
    expect([0.57, 1.45].map(off)).toEqual([undefined, undefined]);
  });

  it('never off and never full are within one count and a half of their end', () => {
    const off = (compare: number, duty: number): string | undefined =>
      explained({ ...FAST, compare }, wanted(1000, { duty, dutyTolerance: 0.0001 }))?.id;
    expect([off(0, 0), off(1, 0), off(248, 1), off(247, 1)]).toEqual([
      'never-off',
      undefined,
      'never-full',
      undefined,
    ]);
  });

  it('counts of compare alone are called so where the mode has no one more', () => {
    const updown: OutputSetting = { ...FAST, mode: 'phase-icr', top: 125, compare: 63 };
    expect(explained(updown, wanted(1000, { duty: 0.496, dutyTolerance: 0.0001 }))?.text).toMatch(
      /^In phase-correct PWM, top ICR1 \(WGM 10\) the pin is high for compare counts: it is one count too long\.$/,
    );
  });
});
