import fc from 'fast-check';
import { exact, exactText } from '../../src/quantity/exact.ts';
import { atmega328p as part } from '../../src/part/parts/avr/atmega328p.ts';
import { modeOf, timerOf } from '../../src/part/find.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import type { Cycle } from '../../src/timer/outcome.ts';
import {
  sameSetting,
  SettingError,
  topRange,
  type OutputSetting,
  type Setting,
} from '../../src/timer/setting.ts';
import { periodicEdges } from '../../src/wave/edges.ts';
import { runCounter, type Machine } from '../helpers/counter.ts';
import { computeOutcome } from '../../src/timer/drives/index.ts';

const MHZ16 = exact(16000000);

const base: OutputSetting = {
  drive: 'pwm',
  timer: 'TIMER1',
  mode: 'fast-icr',
  channel: 'OC1A',
  pin: 'PB1',
  prescaler: 1,
  top: 15999,
  compare: 7999,
};

function outcome(change: Partial<OutputSetting>, hz = MHZ16) {
  return computeOutcome(part, { ...base, ...change }, hz);
}

const timer2: Partial<OutputSetting> = { timer: 'TIMER2', channel: 'OC2B', pin: 'PD3' };

describe('closed forms of the datasheet', () => {
  it.each<[string, Partial<OutputSetting>, string, string]>([
    ['fast PWM: clk / (N (top + 1)), high compare + 1', {}, '1000', '1/2'],
    [
      'phase correct: clk / (2 N top), high 2 compare',
      { mode: 'phase-icr', top: 8000, compare: 2000 },
      '1000',
      '1/4',
    ],
    ['10 bit fast', { mode: 'fast-10', top: 1023, compare: 255 }, '15625', '1/4'],
    [
      '8 bit phase correct, inverted',
      { ...timer2, mode: 'phase', top: 255, compare: 51, polarity: 'inverted' },
      '1600000/51',
      '4/5',
    ],
    [
      'toggle on compare: clk / (2 N (top + 1))',
      {
        ...timer2,
        channel: 'OC2A',
        pin: 'PB3',
        drive: 'toggle',
        mode: 'ctc',
        prescaler: 64,
        top: 124,
        compare: 124,
      },
      '1000',
      '1/2',
    ],
    [
      'toggle, up and down: clk / (4 N top)',
      { drive: 'toggle', mode: 'phase-ocra', prescaler: 8, top: 500, compare: 500 },
      '1000',
      '1/2',
    ],
    ['toggle at top 0: clk / 2', { drive: 'toggle', mode: 'ctc', top: 0, compare: 0 }, '8000000', '1/2'],
  ])('%s', (_, change, frequency, duty) => {
    const result = outcome(change);
    expect([exactText(result.frequency), exactText(result.duty)]).toEqual([frequency, duty]);
  });

  it('counts steps: 256 of a fast 8-bit run, 255 of an up-down one, 2 of a toggle', () => {
    expect(outcome({ ...timer2, mode: 'fast', top: 255, compare: 0 }).steps).toBe(256);
    expect(outcome({ ...timer2, mode: 'phase', top: 255, compare: 0 }).steps).toBe(255);
    expect(outcome({ drive: 'toggle', mode: 'ctc', compare: 15999 }).steps).toBe(2);
  });
});

describe('the ends of the duty', () => {
  const at = (mode: string, compare: number, polarity: 'normal' | 'inverted') => {
    const { duty, cycle } = outcome({ ...timer2, mode, top: 255, compare, polarity });
    return [exactText(duty), 'level' in cycle.edges ? cycle.edges.level : 'pulses'];
  };

  it.each([
    ['fast', 0, 'normal', '1/256', 'pulses'],
    ['fast', 255, 'normal', '1', 1],
    ['fast', 0, 'inverted', '255/256', 'pulses'],
    ['fast', 255, 'inverted', '0', 0],
    ['phase', 0, 'normal', '0', 0],
    ['phase', 255, 'normal', '1', 1],
    ['phase', 0, 'inverted', '1', 1],
    ['phase', 255, 'inverted', '0', 0],
  ] as const)('%s, compare %i, %s: duty %s, %s', (mode, compare, polarity, duty, level) => {
    expect(at(mode, compare, polarity)).toEqual([duty, level]);
  });

  it('says what the compare register can reach', () => {
    const fast = outcome({ ...timer2, mode: 'fast', top: 255, compare: 9 }).reach;
    expect([exactText(fast.min), exactText(fast.max)]).toEqual(['1/256', '1']);
    const inverted = outcome({ ...timer2, mode: 'fast', top: 255, compare: 9, polarity: 'inverted' }).reach;
    expect([exactText(inverted.min), exactText(inverted.max)]).toEqual(['0', '255/256']);
  });
});

/** Levels tick by tick as the product's own trace has them. */
function levels(cycle: Cycle, from: number, to: number): number[] {
  const trace = periodicEdges(cycle, from, to);
  const list: number[] = [];
  let level: number = trace.start;
  let next = 0;
  for (let tick = from; tick < to; tick += 1) {
    while (trace.edges[next] === tick) {
      level = 1 - level;
      next += 1;
    }
    list.push(level);
  }
  return list;
}

describe('a counter stepped clock by clock', () => {
  const mode = fc.constantFrom('fast-ocra', 'phase-ocra', 'ctc');
  const kinds = { 'fast-ocra': 'fast', 'phase-ocra': 'updown', ctc: 'clear' } as const;

  it('gives the same levels as the formulas, in every mode, at every tick', () => {
    fc.assert(
      fc.property(
        mode,
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 0, max: 45 }),
        fc.boolean(),
        (id, top, compare, inverted) => {
          const toggle = id === 'ctc';
          const polarity = inverted && !toggle ? 'inverted' : 'normal';
          const setting: Partial<OutputSetting> = {
            ...timer2,
            mode: id,
            top,
            compare,
            polarity,
            drive: toggle ? 'toggle' : 'pwm',
          };
          const { cycle } = outcome(setting);
          const machine: Machine = {
            kind: kinds[id],
            output: toggle ? 'toggle' : polarity,
            top,
            compare,
          };
          const settled = 2 * cycle.periodTicks;
          const clocks = 5 * cycle.periodTicks;
          expect(levels(cycle, settled, clocks)).toEqual(runCounter(machine, clocks).slice(settled));
        },
      ),
      { numRuns: 600 },
    );
  });

  it('stretches by the prescaler', () => {
    const one = outcome({ ...timer2, mode: 'fast-ocra', top: 9, compare: 3 }).cycle;
    const eight = outcome({ ...timer2, mode: 'fast-ocra', top: 9, compare: 3, prescaler: 8 }).cycle;
    expect(eight).toEqual({ periodTicks: 8 * one.periodTicks, edges: { rise: 0, fall: 32 } });
  });
});

describe('settings the part cannot do', () => {
  it.each<[string, Partial<OutputSetting>, RegExp]>([
    ['timer', { timer: 'TIMER7' }, /ATmega328P has no timer “TIMER7”/],
    ['mode', { mode: 'wild' }, /Timer 1 has no mode “wild”/],
    ['channel', { channel: 'OC9Z' }, /has no channel/],
    ['prescaler', { prescaler: 7 }, /divides by 1, 8, 64, 256, 1024, not by 7/],
    ['top', { top: 65536 }, /goes from 3 to 65535; 65536 is not possible/],
    ['top', { mode: 'fast-10', top: 1000 }, /is fixed at 1023/],
    ['top', { top: 1.5 }, /1.5 is not possible/],
    ['compare', { compare: -1 }, /goes from 0 to 65535/],
    ['compare', { mode: 'ctc', drive: 'toggle', compare: 5 }, /OC1A is the top/],
    ['drive', { drive: 'toggle', mode: 'phase-icr', top: 8000 }, /has no toggled output/],
    ['drive', { mode: 'fast-ocra', compare: 15999 }, /OC1A has no PWM output/],
    ['pin', { pin: 'PB5' }, /OC1A comes out on PB1, not on PB5/],
  ])('%s', (key, change, message) => {
    const attempt = (): unknown => outcome(change);
    expect(attempt).toThrow(SettingError);
    expect(attempt).toThrow(message);
    expect(attempt).toThrow(expect.objectContaining({ key }) as Error);
  });
});

describe('registers', () => {
  const registers = (change: Partial<OutputSetting>): Record<string, number> =>
    Object.fromEntries(
      settingRegisters(part, { ...base, ...change }).map(({ name, value }) => [name, value]),
    );

  it('encodes 1 kHz, 50 %, fast PWM with ICR1: TCCR1A 0x82, TCCR1B 0x19', () => {
    expect(registers({})).toEqual({
      OCR1A: 7999,
      TCCR1A: 0x82,
      TCCR1B: 0x19,
      ICR1: 15999,
      PORTB: 0,
      DDRB: 0x02,
    });
  });

  it('encodes a toggled 8-bit output: TCCR2A 0x42, TCCR2B 0x04', () => {
    const setting = {
      ...timer2,
      channel: 'OC2A',
      pin: 'PB3',
      drive: 'toggle',
      mode: 'ctc',
      prescaler: 64,
      top: 124,
      compare: 124,
    } as const;
    expect(registers(setting)).toEqual({ OCR2A: 124, TCCR2A: 0x42, TCCR2B: 0x04, PORTB: 0, DDRB: 0x08 });
  });

  it('keeps bits of different fields apart', () => {
    for (const timer of part.timers) {
      for (const { id } of timer.modes) {
        const mode = modeOf(timerOf(part, timer.id), id);
        for (const drive of ['pwm', 'toggle'] as const) {
          for (const channel of mode[drive]?.channels ?? []) {
            const pin = timer.channels.find((one) => one.id === channel)?.outputs[0]?.pin ?? '';
            const top = topRange(mode).min;
            const list = settingRegisters(part, {
              drive,
              timer: timer.id,
              mode: id,
              channel,
              pin,
              prescaler: 8,
              top,
              compare: top,
            });
            for (const { value, mask, width } of list) {
              expect(value & ~mask).toBe(0);
              expect(mask).toBeLessThan(2 ** width);
            }
          }
        }
      }
    }
  });
});

describe('settings that are compared', () => {
  const one = {
    drive: 'pwm',
    timer: 'T',
    mode: 'm',
    channel: 'A',
    pin: 'P1',
    prescaler: 8,
    top: 9,
    compare: 3,
  };
  const same = (first: object, second: object): boolean => sameSetting(first as Setting, second as Setting);

  it('are the same in whatever order they are written, and differ by any number, name or nested pin', () => {
    expect(same(one, Object.fromEntries(Object.entries(one).reverse()))).toBe(true);
    for (const key of Object.keys(one)) {
      expect([key, same(one, { ...one, [key]: 'other' })]).toEqual([key, false]);
      const without = Object.fromEntries(Object.entries(one).filter(([name]) => name !== key));
      expect([key, same(one, without), same(without, one)]).toEqual([key, false, false]);
    }
    const complement = { pin: 'P2', deadTicks: 4 };
    expect(same({ ...one, complement }, { ...one, complement: { ...complement } })).toBe(true);
    expect(same({ ...one, complement }, { ...one, complement: { ...complement, deadTicks: 5 } })).toBe(false);
    expect(same(one, { ...one, complement })).toBe(false);
  });
});
