import fc from 'fast-check';
import { clockOf, clockPath, type ClockSetting } from '../../src/clock/path.ts';
import type { Candidate } from '../../src/fit/candidate.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { PARTS, partById } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';
import { exactText } from '../../src/quantity/exact.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import { interruptCycles } from '../../src/timer/run.ts';
import { hasTimer, SettingError, type InterruptSetting, type Setting } from '../../src/timer/setting.ts';
import { adjust, ladderOf, clockNode, outcomeUnder, checkSetting } from '../../src/timer/drives/index.ts';
import { rungText } from '../../src/timer/rungs.ts';

function part(id: string): Part {
  const found = partById(id);
  if (!found) throw new Error(`no ${id}`);
  return found;
}

function under(id: string, setting: Setting, clock: Partial<ClockSetting> = {}) {
  const own = part(id);
  return outcomeUnder(own, clockPath(own, { ...own.defaultClock, ...clock }), setting);
}

function hz(id: string, setting: Setting, clock: Partial<ClockSetting> = {}): string {
  return exactText(under(id, setting, clock).frequency);
}

function fit(id: string, aim: KindAndTarget, pin?: string, clock: Partial<ClockSetting> = {}) {
  const own = part(id);
  return fitRequirement(own, clockPath(own, { ...own.defaultClock, ...clock }), requirementOf(aim), pin);
}

function ticks(found: readonly Candidate[]): (Candidate & { setting: InterruptSetting })[] {
  return found.filter(
    (one): one is Candidate & { setting: InterruptSetting } => one.setting.drive === 'interrupt',
  );
}

const plain = (text: string): string => text.replace(/\u202f/g, ' ');
const EIGHT = { source: 'rc8', sourceHz: 8e6 };

describe('an overflow timer that its interrupt reloads: 8 MHz / 4, 8 bits, 100 µs', () => {
  const tick: InterruptSetting = {
    drive: 'interrupt',
    timer: 'TMR0',
    mode: 'reload',
    prescaler: 1,
    top: 197,
    divider: 1,
  };

  it('is reloaded with 58: 256 − 58 = 198 counts, and 2 that the write holds off, are 200', () => {
    expect(hz('pic16f684', tick, EIGHT)).toBe('10000');
    const registers = settingRegisters(part('pic16f684'), tick);
    expect(registers.find(({ name }) => name === 'TMR0')?.value).toBe(58);
    const path = clockPath(part('pic16f684'), EIGHT);
    const rungs = ladderOf(part('pic16f684'), path, tick);
    expect(rungs.map((rung) => [rung.id, plain(rungText(rung))])).toContainEqual([
      'reload',
      '÷ ( 256 − 58 + 2 held )',
    ]);
  });

  it('is off by 1 % with the plain arithmetic of 256 − 200 = 56', () => {
    const plainly = adjust(part('pic16f684'), tick, 0.5, 'reload', 56);
    expect(plainly).toEqual({ ...tick, top: 199 });
    expect(hz('pic16f684', plainly, EIGHT)).toBe('1000000/101');
  });

  it.each([
    [5000, '1'],
    [2500, '2'],
    [500, '10'],
  ])('a toggle every %i interrupts is %s Hz', (divider, frequency) => {
    expect(hz('pic16f684', { ...tick, pin: 'RC0', divider }, EIGHT)).toBe(frequency);
  });

  it('is found: the reload of 58 first of all ticks of Timer 0', () => {
    const found = fit('pic16f684', { kind: 'tick', target: { frequencyHz: 10000 } }, undefined, EIGHT);
    const own = ticks(found.candidates).filter(({ setting }) => setting.timer === 'TMR0');
    expect(own[0]).toMatchObject({ errorPpm: 0, setting: tick });
  });

  it('loses what the prescaler had counted when the write clears it: 4 x 50 + 2 + 6 mod 4 clocks', () => {
    expect(hz('pic16f684', { ...tick, prescaler: 4, top: 49 }, EIGHT)).toBe(exactText(ratioOf(2000000, 204)));
  });
});

function ratioOf(n: number, d: number) {
  return clockOf(clockPath(part('pic16f684'), { source: 'external', sourceHz: 4 * n }), 'cycle').div(d);
}

describe('ticks', () => {
  it('ATmega328P, 1 kHz: prescaler 64 and top 249 on Timer 0; 35 cycles a tick of 16 000', () => {
    const found = fit('atmega328p', { kind: 'tick', target: { frequencyHz: 1000 } });
    const own = ticks(found.candidates).find(
      ({ setting }) => setting.timer === 'TIMER0' && setting.prescaler === 64,
    );
    expect(own).toMatchObject({ errorPpm: 0, setting: { mode: 'ctc', top: 249, divider: 1 } });
    expect(own?.cpu).toBeCloseTo(35 / 16000, 12);
    expect(found.candidates.every(({ setting }) => setting.drive === 'interrupt')).toBe(true);
  });

  it('STM32F401, 1 ms: SysTick reloads with 83 999', () => {
    const setting: Setting = {
      drive: 'interrupt',
      timer: 'SYSTICK',
      mode: 'down',
      prescaler: 1,
      top: 83999,
      divider: 1,
    };
    expect(hz('stm32f401', setting)).toBe('1000');
    const found = fit('stm32f401', { kind: 'tick', target: { frequencyHz: 1000 } });
    expect(found.candidates.map((one) => one.setting)).toContainEqual(setting);
    const registers = Object.fromEntries(
      settingRegisters(part('stm32f401'), setting).map(({ name, value }) => [name, value]),
    );
    expect(registers).toEqual({ SysTick_LOAD: 83999, SysTick_CTRL: 0b111 });
  });

  it.each<[string, string, string, number, number, number]>([
    ['rp2040', 'ALARM0', 'alarm', 1, 19999, 50],
    ['bcm2835', 'ST1', 'match', 1, 19999, 50],
    ['esp32', 'TIMG0_T1', 'alarm', 80, 20000, 50],
    ['am3358', 'DMTIMER2', 'reload', 1, 479999, 50],
    ['mk20dx256', 'PIT2', 'down', 1, 719999, 50],
    ['pic18f4620', 'TMR1', 'reload', 4, 49999, 50],
    ['samd21g18', 'TC3', 'match', 16, 59965, 50],
  ])('%s: %s makes 50 Hz by its interrupt', (id, timer, mode, prescaler, top, frequency) => {
    const setting: Setting = { drive: 'interrupt', timer, mode, prescaler, top, divider: 1 };
    expect(under(id, setting).frequency.valueOf()).toBeCloseTo(frequency, 2);
    const found = fit(id, { kind: 'tick', target: { frequencyHz: frequency } });
    expect(ticks(found.candidates).some((one) => one.setting.timer === timer)).toBe(true);
  });

  it('PIC16F18875 at 4 MHz: Timer 2 counts at 1 MHz; its postscaler divides interrupts, not the output', () => {
    const clock = { source: 'external', sourceHz: 4e6 };
    const own = part('pic16f18875');
    const output: Setting = {
      drive: 'pwm',
      timer: 'TMR2',
      mode: 'pwm',
      channel: 'PWM7',
      pin: 'RC2',
      prescaler: 1,
      top: 249,
      compare: 500,
    };
    const tick: Setting = {
      drive: 'interrupt',
      timer: 'TMR2',
      mode: 'pwm',
      prescaler: 1,
      top: 249,
      divider: 1,
    };
    expect(exactText(clockOf(clockPath(own, clock), 'cycle'))).toBe('1000000');
    expect(hz('pic16f18875', output, clock)).toBe('4000');
    expect(hz('pic16f18875', tick, clock)).toBe('4000');
    expect(hz('pic16f18875', { ...tick, postscale: 10 }, clock)).toBe('400');
    const control = (setting: Setting): number | undefined =>
      settingRegisters(own, setting).find(({ name }) => name === 'T2CON')?.value;
    expect(control({ ...tick, postscale: 10 })).toBe(0x89);
    const found = fit('pic16f18875', { kind: 'tick', target: { frequencyHz: 10 } }, undefined, clock);
    const hardware = ticks(found.candidates).find(({ setting }) => setting.timer === 'TMR2');
    expect(hardware?.setting.postscale).toBeGreaterThan(1);
  });

  it('are refused where their jitter is asked to be below that of the instruction under way', () => {
    const aim = (jitterS: number): KindAndTarget => ({
      kind: 'tick',
      target: { frequencyHz: 1000, jitterS },
    });
    expect(fit('atmega328p', aim(1e-6)).candidates.length).toBeGreaterThan(0);
    expect(fit('atmega328p', aim(1e-8)).candidates).toEqual([]);
  });
});

describe('drives of the program', () => {
  const blink: KindAndTarget = { kind: 'blink', target: { frequencyHz: 2, frequencyTolerancePpm: 100 } };

  it('toggle a pin no timer reaches: 2 Hz on PC0 by any timer, hardware being out of reach', () => {
    const found = fit('atmega328p', blink, 'PC0');
    const drives = new Set(found.candidates.map(({ setting }) => setting.drive));
    expect(drives).toEqual(new Set(['interrupt', 'software-pwm', 'interrupt-pair', 'delay-loop']));
    expect(new Set(ticks(found.candidates).map(({ setting }) => setting.timer))).toEqual(
      new Set(['TIMER0', 'TIMER1', 'TIMER2']),
    );
    expect(ticks(found.candidates)[0]).toMatchObject({ errorPpm: 0 });
  });

  it('come after the hardware where that serves, whatever their error', () => {
    const found = fit('atmega328p', { kind: 'tone', target: { frequencyHz: 440 } }, 'PB1');
    const first = found.candidates.findIndex(({ cpu }) => cpu > 0);
    expect(first).toBeGreaterThan(0);
    expect(found.candidates.slice(first).every(({ cpu }) => cpu > 0)).toBe(true);
  });

  it('counted: 10 % in ten ticks of 100 Hz', () => {
    const setting: Setting = {
      drive: 'software-pwm',
      timer: 'TIMER2',
      mode: 'ctc',
      pin: 'PC1',
      prescaler: 64,
      top: 249,
      divider: 10,
      compare: 1,
    };
    const outcome = under('atmega328p', setting);
    expect([exactText(outcome.frequency), exactText(outcome.duty), outcome.steps]).toEqual([
      '100',
      '1/10',
      10,
    ]);
    expect(outcome.cpu).toBeCloseTo((1000 * 35) / 16e6, 12);
  });

  it('pair: 1.5 ms at 50 Hz; a match too soon waits until the first handler has ended', () => {
    const setting: Setting = {
      drive: 'interrupt-pair',
      timer: 'TIMER1',
      mode: 'ctc-icr',
      channel: 'OC1A',
      pin: 'PC2',
      prescaler: 8,
      top: 39999,
      compare: 2999,
    };
    const outcome = under('atmega328p', setting);
    expect([exactText(outcome.frequency), outcome.highTicks / 16e6]).toEqual(['50', 0.0015]);
    const min = Math.ceil(interruptCycles(part('atmega328p').cpu));
    expect(under('atmega328p', { ...setting, compare: 0 }).highTicks).toBe(min);
    expect(outcome.reach.min.valueOf()).toBeCloseTo(min / 320000, 12);
  });

  it('busy: 1 kHz is 4000 passes of four cycles, and all of the processor', () => {
    const outcome = under('atmega328p', { drive: 'delay-loop', pin: 'PC3', top: 4000, compare: 1000 });
    expect([exactText(outcome.frequency), exactText(outcome.duty), outcome.cpu]).toEqual(['1000', '1/4', 1]);
  });

  it.each<[string, Setting, RegExp]>([
    [
      'divider',
      { drive: 'interrupt', timer: 'TIMER0', mode: 'ctc', prescaler: 8, top: 99, divider: 0 },
      /divider goes from 1/,
    ],
    [
      'mode',
      { drive: 'interrupt', timer: 'TIM3', mode: 'center', prescaler: 8, top: 99, divider: 1 },
      /no interrupt once a run/,
    ],
    [
      'postscale',
      { drive: 'interrupt', timer: 'TIMER0', mode: 'ctc', prescaler: 8, top: 99, divider: 1, postscale: 4 },
      /no postscaler/,
    ],
    [
      'channel',
      {
        drive: 'interrupt-pair',
        timer: 'TIMER0',
        mode: 'ctc',
        channel: 'OC0A',
        pin: 'PC0',
        prescaler: 8,
        top: 99,
        compare: 5,
      },
      /cannot end a pulse/,
    ],
    ['compare', { drive: 'delay-loop', pin: 'PC0', top: 10, compare: 11 }, /compare goes from 0 to 10/],
  ])('say which field is at fault: %s', (key, setting, message) => {
    const own = part(hasTimer(setting) && setting.timer.startsWith('TIM3') ? 'stm32f401' : 'atmega328p');
    const attempt = (): void => checkSetting(own, setting);
    expect(attempt).toThrow(SettingError);
    expect(attempt).toThrow(message);
    expect(attempt).toThrow(expect.objectContaining({ key }) as Error);
  });
});

it('finds the least error of any prescaler, top and software divider up to that of least cost, on 8-bit timers', () => {
  const own = part('atmega328p');
  const path = clockPath(own, own.defaultClock);
  fc.assert(
    fc.property(fc.double({ min: 0, max: 4, noNaN: true }), (decade) => {
      const wanted = Number((10 ** decade).toPrecision(6));
      const aim: KindAndTarget = {
        kind: 'tick',
        target: { frequencyHz: wanted, frequencyTolerancePpm: 200000 },
      };
      const found = fitRequirement(own, path, requirementOf(aim));
      for (const [timer, divides] of [
        ['TIMER0', [1, 8, 64, 256, 1024]],
        ['TIMER2', [1, 8, 32, 64, 128, 256, 1024]],
      ] as const) {
        const listed = ticks(found.candidates).filter(({ setting }) => setting.timer === timer);
        const max = Math.max(1, ...listed.map(({ setting }) => setting.divider));
        let best = Infinity;
        for (let divider = 1; divider <= max; divider += 1) {
          for (const divide of divides) {
            const ideal = 16e6 / (wanted * divider * divide);
            for (const counts of [Math.floor(ideal), Math.ceil(ideal)]) {
              if (counts < 1 || counts > 256) continue;
              best = Math.min(best, Math.abs(16e6 / (divider * divide * counts) / wanted - 1));
            }
          }
        }
        if (best > 0.19) continue;
        const min = Math.min(...listed.map(({ errorPpm }) => Math.abs(errorPpm) / 1e6));
        expect(min).toBeCloseTo(best, 11);
      }
    }),
    { numRuns: 25 },
  );
});

it('gives what it says: each software setting, made anew, has the frequency and cost it was listed with', () => {
  for (const own of PARTS) {
    const path = clockPath(own, own.defaultClock);
    for (const aim of [
      { kind: 'blink', target: { frequencyHz: 3, duty: 0.25 } },
      { kind: 'tick', target: { frequencyHz: 250 } },
      { kind: 'dim', target: { minHz: 100, minSteps: 16 } },
    ] as KindAndTarget[]) {
      const { candidates } = fitRequirement(own, path, requirementOf(aim));
      const soft = candidates.filter(({ cpu }) => cpu > 0);
      expect([own.id, aim.kind, soft.length > 0]).toEqual([own.id, aim.kind, true]);
      for (const { setting, frequencyHz, cpu } of soft) {
        checkSetting(own, setting);
        const outcome = outcomeUnder(own, path, setting);
        expect([outcome.frequency.valueOf(), outcome.cpu]).toEqual([frequencyHz, cpu]);
        expect(clockOf(path, clockNode(own, setting)).compare(0)).toBe(1);
        expect(
          settingRegisters(own, setting).every(({ value, width }) => value >= 0 && value < 2 ** width),
        ).toBe(true);
      }
    }
  }
});

it('leaves out timers whose oscillator alone exceeds the tolerance, and says so', () => {
  const tick: KindAndTarget = { kind: 'tick', target: { frequencyHz: 1000, frequencyTolerancePpm: 30000 } };
  const rc: Partial<ClockSetting> = { source: 'rc', sourceHz: 32e6, settings: { osc: 8 } };
  const found = fit('pic16f18875', tick, undefined, rc);
  const used = new Set(found.candidates.map(({ setting }) => (setting as InterruptSetting).timer));
  expect(used).toContain('TMR2');
  expect([...used].filter((timer) => timer.endsWith('_LF'))).toEqual([]);
  expect(found.refused.find(({ timer }) => timer === 'TMR2_LF')?.reason).toMatch(
    /^The error of its clock can reach ±.*, the target allows ±/,
  );
  // At ±0.1 % not even the main oscillator of ±2 % will do: then the dividers are shown, and the verdict says the rest.
  const strict: KindAndTarget = { kind: 'tick', target: { frequencyHz: 1000, frequencyTolerancePpm: 1000 } };
  const still = fit('pic16f18875', strict, undefined, rc).candidates;
  expect(still.length).toBeGreaterThan(0);
  expect(still.some(({ setting }) => (setting as InterruptSetting).timer.endsWith('_LF'))).toBe(false);
});
