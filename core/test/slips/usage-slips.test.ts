import { clockOf, clockPath } from '../../src/clock/path.ts';
import { exact } from '../../src/quantity/exact.ts';
import type { Requirement } from '../../src/signal/requirement.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { Signal } from '../../src/signal/signal.ts';
import { slipsOfUse } from '../../src/slips/usage-slips.ts';
import { computeOutcome, outcomeUnder } from '../../src/timer/drives/index.ts';
import type { Outcome } from '../../src/timer/outcome.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';

const avr = shipped('atmega328p');
const pic = shipped('pic16f684');
const bcm = shipped('bcm2835');

const want = (signal: object): Requirement => requirementOf({ id: 'a', name: 'A', ...signal } as Signal);

const DIM = want({ kind: 'dim', target: { minHz: 50, minSteps: 10 } });
const TICK = want({ kind: 'tick', target: { frequencyHz: 1000 } });

/** 16 MHz / 64 / 256 = 976.6 Hz. */
const LAMP: Setting = {
  ...{
    drive: 'pwm',
    timer: 'TIMER2',
    mode: 'fast',
    channel: 'OC2A',
    pin: 'PB3',
    prescaler: 64,
    top: 255,
    compare: 99,
  },
};

/** The texts of the slips by their ids; what the outcome is may be said otherwise. */
function texts(
  part: typeof avr,
  setting: Setting,
  wanted: Requirement,
  changed: Partial<Outcome> = {},
): Record<string, string> {
  const path = clockPath(part, part.defaultClock);
  const outcome = { ...outcomeUnder(part, path, setting), ...changed };
  const slips = slipsOfUse(part, setting, wanted, outcome, clockOf(path, part.cpu.clock));
  return Object.fromEntries(slips.map(({ id, text }) => [id, text.replace(/[\u202f\u00a0]/g, ' ')]));
}

describe('eyes and ears', () => {
  it.each([
    [99.9, 'flicker', /At 99\.9 Hz a light is seen to flicker; from 100 Hz on it is not\./],
    [
      100,
      'audible',
      /^100 Hz is where coils and ceramic capacitors can be heard; above 20 kHz they are inaudible\.$/,
    ],
    [19_999, 'audible', /^20 kHz|^19\.999 kHz/],
  ])('at %d Hz', (hz, id, text) => {
    expect(texts(avr, LAMP, DIM, { frequency: exact(hz) })[id]).toMatch(text);
  });

  it('nothing from 20 kHz on, nor of a signal near a frequency, nor without a pin', () => {
    expect(texts(avr, LAMP, DIM, { frequency: exact(20_000) })).toEqual({});
    const near = want({ kind: 'pwm', target: { frequencyHz: 80 } });
    expect(texts(avr, LAMP, near, { frequency: exact(80) })).toEqual({});
  });
});

describe('a count of ticks', () => {
  // 2^16 / 1000 = 65.536 s, 2^32 / 1000 s = 49.71 days.
  it('begins again after 65.5 s in 16 bits and after 49.7 days in 32', () => {
    const tick: Setting = {
      drive: 'interrupt',
      timer: 'TIMER2',
      mode: 'ctc',
      prescaler: 64,
      top: 249,
      divider: 1,
    };
    expect(texts(avr, tick, TICK)['wraps']).toBe(
      'A count of 1 000 Hz in 16 bits begins again after 65.5 s, in 32 bits after 49.7 days: compare differences, not counts.',
    );
    // 2^16 / hz = 172,800 s: two days, said as days; a little faster, as seconds.
    expect(texts(avr, tick, TICK, { frequency: exact('65536/172800') })['wraps']).toContain('after 2 days');
    expect(texts(avr, tick, TICK, { frequency: exact('65537/172800') })['wraps']).not.toContain(
      'after 2 days',
    );
  });
});

describe('processor time', () => {
  it('is said from 30 % on, and never above 100 %', () => {
    const soft: Setting = {
      ...{
        drive: 'software-pwm',
        timer: 'TIMER2',
        mode: 'ctc',
        pin: 'PB0',
        prescaler: 8,
        top: 99,
        divider: 10,
        compare: 3,
      },
    };
    expect(texts(avr, soft, DIM, { cpu: 0.299 })['cpu']).toBeUndefined();
    expect(texts(avr, soft, DIM, { cpu: 0.3 })['cpu']).toBe(
      'This takes 30 % of its time; whatever else interrupts shifts the edges.',
    );
    expect(texts(avr, soft, DIM, { cpu: 1.7 })['cpu']).toContain('This takes 100 % of');
  });
});

describe('a counter that its interrupt reloads', () => {
  const beat = (timer: string, prescaler: number, top: number): Setting => ({
    ...{ drive: 'interrupt', timer, mode: 'reload', prescaler, top, divider: 1 },
  });

  // 2^16 - 7991 = 57,545; nine clocks are lost, so plain arithmetic would say 57,536. A clock of 7,991 is 125.1 ppm.
  it('says what plain arithmetic would give, what the write holds, and what each clock is', () => {
    const text = texts(pic, beat('TMR1', 1, 7990), TICK)['hold-off'];
    expect(text).toBe(
      'By plain arithmetic the reload would be 57 536; the write holds the count for 9 clocks, so it is 57 545. The assembler file of the code takes so long from reading the counter to writing it; compiled C may not, and each clock more or less is 125.1 ppm.',
    );
  });

  // Nine clocks are 2.25 counts of four: two of them.
  it('says that the write clears the prescaler, where it has one', () => {
    const text = texts(pic, beat('TMR1', 4, 1999), TICK)['hold-off'];
    expect(text).toContain('would be 63 534;');
    expect(text).toContain('so it is 63 536.');
    expect(text).toContain('each clock more or less is 125 ppm. The write clears the prescaler');
    expect(text).toMatch(/modulo 4\.$/);
  });

  it('says nothing of assembler where one store does it', () => {
    expect(texts(pic, beat('TMR0', 1, 199), TICK)['hold-off']).toBe(
      'By plain arithmetic the reload would be 54; the write holds the count for 2 clocks, so it is 56.',
    );
  });

  it('is not meant by a mode that needs no reload', () => {
    const free: Setting = {
      drive: 'interrupt',
      timer: 'TIMER2',
      mode: 'ctc',
      prescaler: 64,
      top: 249,
      divider: 1,
    };
    expect(texts(avr, free, TICK)).not.toHaveProperty('hold-off');
  });
});

describe('a string of LEDs', () => {
  // 30 x 24 bits of 1.25 us are 900 us.
  const wanted = want({
    kind: 'string',
    target: { bitS: 1.25e-6, zeroS: 4e-7, oneS: 8e-7, leds: 30, frameHz: 50 },
  });
  const loop: Setting = { drive: 'bit-loop', pin: 'PB0', top: 20, compare: 13, zero: 6 };

  it('says how long a frame lets nothing else in, and how often', () => {
    const found = texts(avr, loop, wanted);
    expect(found['waits-for-frame']).toBe(
      'A frame takes 900 µs, 50 times a second; whatever interrupts meanwhile is served after it.',
    );
    expect(found).not.toHaveProperty('cpu');
  });

  it('is not said of what is no string', () => {
    expect(texts(avr, loop, { ...wanted, burst: undefined })).not.toHaveProperty('waits-for-frame');
  });
});

describe('counts that are spread', () => {
  const timer = bcm.timers.find(({ modes }) => modes.some(({ pwm }) => pwm?.spread))!;
  const mode = timer.modes.find(({ pwm }) => pwm?.spread)!;
  const [channel] = timer.channels;
  const setting: Setting = {
    ...{ drive: 'pwm', timer: timer.id, mode: mode.id, channel: channel!.id, pin: channel!.outputs[0]!.pin },
    ...{ prescaler: 4, top: 999, compare: 250 },
  };

  it('have a mean, and no pulse', () => {
    const level = want({ kind: 'level', target: { volts: 0.825, supplyV: 3.3 } });
    expect(texts(bcm, setting, level)['spread']).toBe(
      '250 of 1 000 counts are high, spread as evenly as can be: the mean is right, no pulse has a width of its own.',
    );
    expect(computeOutcome(bcm, setting, exact(19_200_000)).cycle.edges).toHaveProperty('spread');
  });
});

describe('a shared prescaler', () => {
  it('is named with its other users, of outputs and inputs, unless it does not divide', () => {
    const input = (prescaler: number): Setting => ({
      ...{
        drive: 'capture',
        timer: 'TIMER1',
        mode: 'normal',
        channel: 'ICP1',
        pin: 'PB0',
        prescaler,
        top: 65_535,
      },
    });
    const wanted = want({ kind: 'measure', target: { minHz: 20, maxHz: 200 } });
    expect(texts(avr, input(8), wanted)).toEqual({
      'shared-prescaler':
        'Timer 1 shares its prescaler with Timer 0: each divides as it likes, but resetting it shifts the edges of all by up to 8 clocks.',
    });
    expect(texts(avr, input(1), wanted)).toEqual({});
    // Timer 2 has one of its own; a delay loop has none.
    expect(texts(avr, LAMP, DIM, { frequency: exact(30_000) })).toEqual({});
    const mega = shipped('atmega2560');
    const first: Setting = {
      ...{
        drive: 'pwm',
        timer: 'TIMER0',
        mode: 'fast',
        channel: 'OC0A',
        pin: 'PB7',
        prescaler: 64,
        top: 255,
        compare: 9,
      },
    };
    expect(texts(mega, first, DIM, { frequency: exact(30_000) })['shared-prescaler']).toContain(
      'Timer 0 shares its prescaler with Timer 1 and Timer 3 and',
    );
    const waits: Setting = { drive: 'delay-loop', pin: 'PB0', top: 1000, compare: 100 };
    expect(texts(avr, waits, DIM, { frequency: exact(30_000) })).not.toHaveProperty('shared-prescaler');
  });
});
