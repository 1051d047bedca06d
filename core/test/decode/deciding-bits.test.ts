import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { decodeText, type Decoded } from '../../src/decode/decode.ts';
import { fieldValue } from '../../src/decode/fields.ts';
import type { Part, Timer } from '../../src/part/types.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { PARTS, shipped as part } from '../helpers/parts.ts';

const SEED = 60607;

function read(own: Part, text: string): Decoded {
  const found = decodeText(own, clockPath(own, own.defaultClock), text);
  if (!found.ok) throw new Error(found.fault.sentence);
  return found.value;
}

/** Frequency, duty and pin of everything that some assignments to an STM32F401 make, with the notes. */
function told(text: string): { made: [string | undefined, number, number][]; notes: string } {
  const timers = read(part('stm32f401'), text).timers;
  return {
    made: timers.flatMap(({ effects }) =>
      effects.map(({ setting, outcome }): [string | undefined, number, number] => [
        setting.pin,
        outcome.frequency.valueOf(),
        outcome.duty.valueOf(),
      ]),
    ),
    notes: timers.flatMap(({ notes }) => notes).join(' '),
  };
}

// 84 MHz ÷ 84 = 1 MHz. Up with ARR 999: 1000 Hz; center-aligned with ARR 1000: 2 x 1000 counts, 500 Hz.
const UP = 'TIM3->PSC = 83; TIM3->ARR = 999; TIM3->CCR1 = 300; TIM3->CCER = 1; TIM3->CR1 = 0x81;';
const CENTER = 'TIM3->PSC = 83; TIM3->ARR = 1000; TIM3->CCR1 = 300; TIM3->CCER = 1; TIM3->CCMR1 = 0x68;';
const ONE =
  'TIM1->PSC = 83; TIM1->ARR = 999; TIM1->CCR1 = 300; TIM1->CCMR1 = 0x68; TIM1->BDTR = 0x8000; TIM1->CR1 = 1;';

describe('bits that decide the waveform of an STM32F401', () => {
  it.each([1, 2, 3])('center-aligned mode %d counts up and down', (mode) => {
    expect(told(`${CENTER} TIM3->CR1 = ${(mode << 5) | 0x81};`).made).toEqual([['PA6', 500, 0.3]]);
  });

  it('PWM mode 2 is mode 1 turned over, and turned back by the polarity bit', () => {
    expect(told(`${UP} TIM3->CCMR1 = 0x68;`).made).toEqual([['PA6', 1000, 0.3]]);
    expect(told(`${UP} TIM3->CCMR1 = 0x78;`).made).toEqual([['PA6', 1000, 0.7]]);
    expect(told(`${UP} TIM3->CCMR1 = 0x68; TIM3->CCER = 3;`).made).toEqual([['PA6', 1000, 0.7]]);
    expect(told(`${UP} TIM3->CCMR1 = 0x78; TIM3->CCER = 3;`).made).toEqual([['PA6', 1000, 0.3]]);
  });

  it('keeps the polarity of a toggled output', () => {
    const effects = read(part('stm32f401'), `${UP} TIM3->CCMR1 = 0x30; TIM3->CCER = 3;`).timers[0]?.effects;
    expect(effects?.[0]?.setting).toMatchObject({ drive: 'toggle', polarity: 'inverted' });
  });

  it('keeps the polarity of the pin with the N, and tells the opposite with its dead time', () => {
    expect(told(`${ONE} TIM1->CCER = 0x4;`).made[0]?.slice(1)).toEqual([1000, 0.3]);
    expect(told(`${ONE} TIM1->CCER = 0xC;`).made[0]?.slice(1)).toEqual([1000, 0.7]);
    // DTG 84 at 84 MHz: 1 µs less of each pulse, so 299 of 1000.
    const both = read(part('stm32f401'), `${ONE} TIM1->CCER = 0x5; TIM1->BDTR = 0x8054;`).timers[0]?.effects;
    expect(both?.[0]?.setting).toMatchObject({ complement: { deadTicks: 84 } });
    expect(both?.[0]?.outcome.duty.valueOf()).toBe(0.299);
  });

  it.each([
    ['DIR, counting down', `${UP} TIM3->CCMR1 = 0x68; TIM3->CR1 = 0x91;`, 'TIM3_CR1.DIR is 1'],
    ['one pulse', `${UP} TIM3->CCMR1 = 0x68; TIM3->CR1 = 0x89;`, 'TIM3_CR1.OPM is 1'],
    ['no updates', `${UP} TIM3->CCMR1 = 0x68; TIM3->CR1 = 0x83;`, 'TIM3_CR1.UDIS is 1'],
    ['cleared by a pin', `${UP} TIM3->CCMR1 = 0xE8;`, 'TIM3_CCMR1.OC1CE is 1'],
    ['forced high', `${UP} TIM3->CCMR1 = 0x58;`, 'TIM3_CCMR1.OC1M'],
    ['a bit without a name', `${UP} TIM3->CCMR1 = 0x68; TIM3->CR1 = 0x481;`, 'bit 10 of TIM3_CR1 is 1'],
    ['all outputs off', `${ONE} TIM1->CCER = 1; TIM1->BDTR = 0;`, 'TIM1_BDTR.MOE is 0'],
    ['an opposite in phase', `${ONE} TIM1->CCER = 0xD;`, 'TIM1_CCER.CC1NP is 1'],
    ['an opposite of an inverted output', `${ONE} TIM1->CCER = 0x7;`, 'TIM1_CCER.CC1NE is on'],
  ])('%s is refused with the name of its bit', (_, text, bit) => {
    const { made, notes } = told(text);
    expect(made).toEqual([]);
    expect(notes).toContain(bit);
  });

  it.each([
    ['ARPE', `${UP} TIM3->CCMR1 = 0x68; TIM3->CR1 = 0x01;`],
    ['OC1PE', `${UP} TIM3->CCMR1 = 0x60;`],
    ['URS and CKD', `${UP} TIM3->CCMR1 = 0x68; TIM3->CR1 = 0x285;`],
  ])('%s decides nothing', (_, text) => {
    expect(told(text).made).toEqual([['PA6', 1000, 0.3]]);
  });

  it('tells the interrupt of a match', () => {
    const text = 'TIM3->PSC = 83; TIM3->ARR = 999; TIM3->CCR2 = 10; TIM3->DIER = 4; TIM3->CR1 = 1;';
    const { made, notes } = told(text);
    expect(made.map(([, hz]) => hz)).toEqual([1000]);
    expect(notes).toContain('TIM3 CH2’s match');
    expect(notes).not.toContain('no interrupt is enabled');
    const both = told(text.replace('CR1 = 1', 'CR1 = 0x21'));
    expect(both.made).toEqual([]);
    expect(both.notes).toContain('its rate in center-aligned, top ARR is not known');
    expect(told(text.replace('CCR2 = 10', 'CCR2 = 1000')).notes).toContain('which the counter never reaches');
  });
});

/** An STM32F401 timer as its reference manual describes it, bit by bit; undefined where this reading takes no stand. */
function stm32Reading(word: Record<'cr1' | 'ccmr' | 'ccer' | 'psc' | 'arr' | 'ccr', number>) {
  const bit = (value: number, at: number): number => (value >> at) & 1;
  const { cr1, ccmr, ccer, psc, arr, ccr } = word;
  if (!bit(cr1, 0) || bit(cr1, 1) || bit(cr1, 3) || cr1 >> 10 !== 0) return undefined;
  const aligned = (cr1 >> 5) & 3;
  if (aligned === 0 && bit(cr1, 4)) return undefined;
  if (aligned !== 0 && bit(cr1, 4)) return undefined;
  const how = (ccmr >> 4) & 7;
  if (!bit(ccer, 0) || (ccmr & 3) !== 0 || bit(ccmr, 7) || (how !== 6 && how !== 7)) return undefined;
  const counts = aligned === 0 ? arr + 1 : 2 * arr;
  const active = Math.min(counts, aligned === 0 ? ccr : 2 * ccr);
  const turned = (how === 7 ? 1 : 0) ^ bit(ccer, 1);
  return { hz: 84e6 / (psc + 1) / counts, duty: (turned ? counts - active : active) / counts };
}

describe('random register images', () => {
  it('of an STM32F401 are read as the manual reads them, or refused', () => {
    let agreed = 0;
    const image = fc.record({
      cr1: fc.oneof(fc.constantFrom(0x81, 0xa1, 0xc1, 0xe1, 1), fc.nat(0x7ff)),
      ccmr: fc.oneof(fc.constantFrom(0x68, 0x78, 0x60), fc.nat(0xff)),
      ccer: fc.oneof(fc.constantFrom(1, 3), fc.nat(3)),
      psc: fc.nat(65535),
      arr: fc.integer({ min: 1, max: 65534 }),
      ccr: fc.nat(65535),
    });
    fc.assert(
      fc.property(image, (word) => {
        const { ccmr, ccer, psc, arr, ccr } = word;
        const cr1 = word.cr1 | 1;
        const own = stm32Reading({ ...word, cr1 });
        const { made } = told(
          `TIM3->PSC = ${psc}; TIM3->ARR = ${arr}; TIM3->CCR1 = ${ccr}; TIM3->CCMR1 = ${ccmr}; TIM3->CCER = ${ccer}; TIM3->CR1 = ${cr1};`,
        ).made.reduce<{ made?: [string | undefined, number, number] }>(
          (found, one) => ({ made: found.made ?? one }),
          {},
        );
        if (own) expect([word, made?.[0]]).toEqual([word, 'PA6']);
        if (made === undefined) return;
        if (made[0] === undefined || ((ccmr >> 4) & 7) === 3) return;
        if (!own) throw new Error(`${JSON.stringify(word)} was read as ${String(made)}`);
        agreed += 1;
        expect(made[1]).toBeCloseTo(own.hz, 6);
        expect(made[2]).toBeCloseTo(own.duty, 12);
      }),
      { numRuns: 1000, seed: SEED },
    );
    expect(agreed).toBeGreaterThan(100);
  });
});

/** One output of every timer, mode, drive and polarity of a part, with small numbers. */
function outputsOf(own: Part, timer: Timer): OutputSetting[] {
  const { prescaler } = timer;
  const divide = prescaler.kind === 'list' ? (prescaler.options[0]?.divide ?? 1) : 2;
  return timer.modes.flatMap((mode) =>
    timer.channels.slice(0, 2).flatMap((channel) => {
      const [first] = channel.outputs;
      return channel.outputs
        .filter((one) => one.pin === first?.pin && mode[one.drive]?.channels.includes(channel.id))
        .flatMap(({ drive, pin, polarity }): OutputSetting[] => {
          const top =
            mode.top.kind === 'fixed'
              ? mode.top.value
              : mode.top.kind === 'power'
                ? 255
                : Math.max(mode.top.min, 200);
          const compare = drive === 'toggle' ? top : Math.floor(top / 3);
          const setting: OutputSetting = {
            drive,
            timer: timer.id,
            mode: mode.id,
            channel: channel.id,
            pin,
            prescaler: divide,
            top,
            compare,
            ...(polarity === 'inverted' ? { polarity } : {}),
          };
          try {
            outcomeUnder(own, clockPath(own, own.defaultClock), setting);
            return [setting];
          } catch {
            return [];
          }
        });
    }),
  );
}

describe.each(PARTS.map((own) => [own.id, own] as const))('every value of every field of %s', (_, own) => {
  const path = clockPath(own, own.defaultClock);
  const same = (one: OutputSetting, values: ReadonlyMap<string, number>): boolean => {
    const text = [...values].map(([name, value]) => `${name} = ${value};`).join('\n');
    const reading = decodeText(own, path, text);
    const effects = reading.ok ? reading.value.timers.flatMap((timer) => timer.effects) : [];
    return effects.some(({ setting }) => JSON.stringify(ordered(setting)) === JSON.stringify(ordered(one)));
  };
  const ordered = (setting: object): object =>
    Object.fromEntries(Object.entries(setting).sort(([a], [b]) => (a < b ? -1 : 1)));

  it('leaves the reading as it is only where the field decides nothing of it', () => {
    const timers = own.timers.filter(({ variantOf }) => variantOf === undefined).slice(0, 3);
    let read = 0;
    for (const timer of timers) {
      for (const setting of outputsOf(own, timer)) {
        const values = new Map(settingRegisters(own, setting).map(({ name, value }) => [name, value]));
        expect([setting, same(setting, values)]).toEqual([setting, true]);
        read += 1;
        const mode = timer.modes.find(({ id }) => id === setting.mode);
        const neutral = new Set([...(timer.neutral ?? []), ...(mode?.neutral ?? [])]);
        const output = timer.channels
          .find(({ id }) => id === setting.channel)
          ?.outputs.find(
            (one) =>
              one.pin === setting.pin &&
              one.drive === setting.drive &&
              one.polarity === (setting.polarity ?? 'normal'),
          );
        const starts = new Set(timer.sequence.flatMap(({ without = [] }) => without));
        const control = new Set(timer.sequence.map(({ register }) => register));
        const deciding = Object.entries({ ...mode?.writes, ...output?.writes }).filter(([key, value]) => {
          const [name = '', fieldName = ''] = key.split('.');
          return (
            typeof value === 'number' && !neutral.has(key) && control.has(name) && !starts.has(fieldName)
          );
        });
        for (const [key] of deciding) {
          const [name = '', fieldName = ''] = key.split('.');
          const register = own.registers.find((one) => one.name === name);
          if (!register || register.strobe) continue;
          const [high, low] = register.fields[fieldName] ?? [0, 0];
          const now = fieldValue(own, values, key);
          // What a channel that is not looked at does is not told here.
          if (
            Object.entries(mode?.pwm?.turned ?? {}).some(
              ([id, fields]) => id !== setting.channel && key in fields,
            )
          )
            continue;
          const alike = [...(mode?.same ?? []), ...(output?.same ?? [])].filter((one) =>
            Object.entries({ ...output?.writes, ...one }).every(
              ([place, wanted]) =>
                place === key || !(place in one) || fieldValue(own, values, place) === wanted,
            ),
          );
          const others = alike.flatMap((one) => one[key] ?? []);
          for (let value = 0; value < 2 ** Math.min(4, high - low + 1); value += 1) {
            if (value === now || others.includes(value)) continue;
            const next = new Map(values).set(name, (values.get(name) ?? 0) + (value - now) * 2 ** low);
            expect(`${key} = ${value}: ${String(same(setting, next))} ${JSON.stringify(setting)}`).toContain(
              ': false ',
            );
          }
        }
      }
    }
    if (own.timers.some((timer) => timer.channels.some(({ outputs }) => outputs.length > 0)))
      expect(read).toBeGreaterThan(0);
  });
});
