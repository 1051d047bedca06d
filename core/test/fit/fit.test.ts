import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { fitRequirement, type Fit } from '../../src/fit/fit.ts';
import { frontOf } from '../../src/fit/rank.ts';
import { slipsOf } from '../../src/slips/setting-slips.ts';
import { thinnedTops, topsWithin } from '../../src/fit/hardware/tops.ts';
import { exact } from '../../src/quantity/exact.ts';
import { atmega328p as part } from '../../src/part/parts/avr/atmega328p.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { hardware, type Hardware } from '../helpers/hardware.ts';

const at = (sourceHz: number) => clockPath(part, { source: 'external', sourceHz });
const fit = (sourceHz: number, aim: KindAndTarget, pin?: string): Fit =>
  fitRequirement(part, at(sourceHz), requirementOf(aim), pin, 'hardware');
const plain = (text: string | undefined): string => (text ?? '').replace(/\u202f/g, ' ');

function reason(found: Fit, timer: string, mode?: string): string {
  return plain(found.refused.find((one) => one.timer === timer && one.mode === mode)?.reason);
}

function settings(found: Fit): OutputSetting[] {
  return hardware(found.candidates).map((candidate) => candidate.setting);
}

describe('16 MHz, tone 1 kHz, 50 %', () => {
  const found = fit(16e6, { kind: 'tone', target: { frequencyHz: 1000, duty: 0.5 } });

  it('puts Timer 1 with prescaler 1 and top 15999 first, exact', () => {
    expect(found.candidates[0]).toMatchObject({
      errorPpm: 0,
      duty: 0.5,
      steps: 16000,
      setting: { timer: 'TIMER1', mode: 'fast-icr', prescaler: 1, top: 15999, compare: 7999 },
    });
  });

  it('finds Timer 2 as toggle, prescaler 64, top 124, exact', () => {
    const toggles = hardware(found.candidates).filter(
      ({ setting, errorPpm }) => setting.timer === 'TIMER2' && setting.drive === 'toggle' && errorPpm === 0,
    );
    expect(toggles.map(({ setting }) => setting)).toContainEqual(
      expect.objectContaining({ mode: 'ctc', channel: 'OC2A', prescaler: 64, top: 124, compare: 124 }),
    );
  });

  it('refuses the fixed tops of Timer 0 with the frequency that comes nearest', () => {
    expect(reason(found, 'TIMER0', 'fast')).toBe(
      'The nearest is 976.563 Hz with prescaler 64, −2.344 % from the target: the top is fixed at 255, so only the prescaler can be chosen.',
    );
    expect(reason(found, 'TIMER0', 'phase')).toMatch(/490.196 Hz.*the top is fixed at 255/);
    expect(found.refused.some((one) => one.timer === 'TIMER0' && one.mode === undefined)).toBe(false);
  });
});

describe('8 MHz, blink 0.5 Hz 10 %', () => {
  const found = fit(8e6, { kind: 'blink', target: { frequencyHz: 0.5, duty: 0.1 } });

  it('is served by Timer 1 alone, with prescaler 256 or 1024', () => {
    expect(new Set(settings(found).map(({ timer }) => timer))).toEqual(new Set(['TIMER1']));
    expect(new Set(settings(found).map(({ prescaler }) => prescaler))).toEqual(new Set([256, 1024]));
    expect(settings(found)).toContainEqual(
      expect.objectContaining({ mode: 'fast-icr', prescaler: 1024, top: 15624 }),
    );
    expect(settings(found)).toContainEqual(
      expect.objectContaining({ mode: 'fast-icr', prescaler: 256, top: 62499 }),
    );
  });

  it.each(['TIMER0', 'TIMER2'])('says why %s cannot', (timer) => {
    expect(reason(found, timer)).toBe(
      '0.5 Hz is too slow: with the largest prescaler, 1024, it needs 7 812.5 counts of 256 µs, and there are 255. The slowest here is 15.318 6 Hz.',
    );
    expect(reason(found, timer, 'ctc')).toBe(
      'A toggled output is high for half of the time; 10 % is not possible.',
    );
  });
});

describe('16 MHz, dim at 200 Hz or more in 1000 steps or more', () => {
  const found = fit(16e6, { kind: 'dim', target: { minHz: 200, minSteps: 1000, duty: 0.35 } });

  it('refuses the 8-bit timers for their 256 steps', () => {
    expect(reason(found, 'TIMER0')).toBe('256 steps at most; 1 000 are asked for.');
    expect(reason(found, 'TIMER2')).toBe('256 steps at most; 1 000 are asked for.');
  });

  it('offers Timer 1 from 1000 steps at 16 kHz to 65536 at 244 Hz: frequency x steps is the clock', () => {
    const fast = hardware(found.candidates).filter(
      ({ setting }) => setting.mode === 'fast-icr' && setting.prescaler === 1 && setting.channel === 'OC1A',
    );
    expect(fast.map(({ steps }) => steps).sort((a, b) => a - b)).toEqual(
      expect.arrayContaining([1000, 1024, 8192, 10000, 65536]),
    );
    for (const { steps, frequencyHz } of fast) expect(steps * frequencyHz).toBeCloseTo(16e6, 3);
    expect(found.front[0]).toMatchObject({ steps: 1000, frequencyHz: 16000 });
    expect(found.front[found.front.length - 1]).toMatchObject({ steps: 65536 });
  });
});

describe('the ends of the duty', () => {
  it('serves 0 % by the inverted output or an up-down mode only', () => {
    const found = fit(16e6, { kind: 'dim', target: { minHz: 200, minSteps: 100, duty: 0 } });
    for (const { setting, duty } of hardware(found.candidates)) {
      expect(duty).toBe(0);
      expect(setting.polarity === 'inverted' || setting.mode.startsWith('phase')).toBe(true);
    }
    const full = fit(16e6, { kind: 'dim', target: { minHz: 200, minSteps: 100, duty: 1 } });
    expect(hardware(full.candidates).every(({ duty }) => duty === 1)).toBe(true);
    expect(
      hardware(full.candidates).some(
        ({ setting }) => setting.mode === 'fast' && setting.polarity === undefined,
      ),
    ).toBe(true);
  });

  it('warns of the one count that is left', () => {
    const setting: OutputSetting = {
      drive: 'pwm',
      timer: 'TIMER0',
      mode: 'fast',
      channel: 'OC0A',
      pin: 'PD6',
      prescaler: 64,
      top: 255,
      compare: 0,
    };
    const requirement = requirementOf({ kind: 'dim', target: { minHz: 200, minSteps: 100, duty: 0 } });
    const [first] = slipsOf(part, setting, requirement, exact(16e6), 0);
    expect(first).toMatchObject({ id: 'never-off', warns: true });
    const dimmed = requirementOf({ kind: 'dim', target: { minHz: 200, minSteps: 100, duty: 0.3 } });
    const at = (compare: number) => slipsOf(part, { ...setting, compare }, dimmed, exact(16e6), 0);
    expect(at(0)[0]).toMatchObject({ id: 'never-off', warns: true });
    expect(at(76).find(({ id }) => id === 'never-off')).toMatchObject({ warns: false });
    expect(plain(first?.text)).toContain('Compare 0 still gives 0.391 %: one count of 4 µs in each period');
  });
});

describe('pins', () => {
  it('names the outputs of a timer that does not reach the pin, and of the part where none does', () => {
    const tone: KindAndTarget = { kind: 'tone', target: { frequencyHz: 1000 } };
    expect(reason(fit(16e6, tone, 'PB1'), 'TIMER0')).toBe(
      'PB1 is not an output of Timer 0; its outputs are PD6 and PD5.',
    );
    const nowhere = fit(16e6, tone, 'PC0');
    expect(nowhere.candidates).toEqual([]);
    expect(reason(nowhere, 'TIMER2')).toBe(
      'PC0 is not a timer output on this part; PB1, PB2, PB3, PD3, PD5, PD6 are.',
    );
  });
});

/** Every mode, prescaler, top and compare of the 8-bit timers, by the datasheet's formulas. */
function bruteForce(
  clock: number,
  timer: 0 | 2,
  hz: number,
  duty: number,
  tolerance: number,
  dutyTolerance: number,
) {
  const prescalers = timer === 0 ? [1, 8, 64, 256, 1024] : [1, 8, 32, 64, 128, 256, 1024];
  let best = { error: Infinity, dutyError: Infinity };
  const consider = (period: number, highs: () => number[]): void => {
    const error = Math.abs(clock / period / hz - 1);
    if (error > tolerance * (1 + 1e-12) || error > best.error + 1e-13) return;
    for (const high of highs()) {
      const dutyError = Math.abs(high - duty);
      if (dutyError > dutyTolerance + 1e-12) continue;
      if (error < best.error - 1e-13 || dutyError < best.dutyError) best = { error, dutyError };
    }
  };
  const half = (): number[] => [0.5];
  for (const n of prescalers) {
    for (let top = 0; top <= 255; top += 1) {
      const compares = Array.from({ length: top + 1 }, (_, compare) => compare);
      consider(2 * n * (top + 1), half);
      if (top === 0) continue;
      consider(4 * n * top, half);
      consider(n * (top + 1), () =>
        compares.flatMap((compare) => [(compare + 1) / (top + 1), 1 - (compare + 1) / (top + 1)]),
      );
      consider(2 * n * top, () => compares.flatMap((compare) => [compare / top, 1 - compare / top]));
    }
  }
  return best;
}

describe.each([0, 2] as const)('Timer %i, enumerated', (n) => {
  const only = { ...part, timers: part.timers.filter((timer) => timer.id === `TIMER${n}`) };

  it('has nothing better than what fit found', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(1e6, 8e6, 11059200, 16e6, 20e6),
        fc.double({ min: 1.2, max: 6, noNaN: true }),
        fc.constantFrom(0.5, 0.1, 0.25, 0.333, 0.9, 0.07),
        fc.constantFrom(0.0005, 0.01, 0.1),
        fc.constantFrom(0.001, 0.01, 0.05),
        (clock, decade, duty, tolerance, dutyTolerance) => {
          const hz = Number((10 ** decade).toPrecision(5));
          const requirement = requirementOf({
            kind: 'blink',
            target: { frequencyHz: hz, duty, frequencyTolerancePpm: tolerance * 1e6, dutyTolerance },
          });
          // An oscillator that is exact: another one would narrow the tolerance.
          const path = clockPath(only, { source: 'external', sourceHz: clock, tolerancePpm: 0 });
          const found = fitRequirement(only, path, requirement, undefined, 'hardware');
          const best = bruteForce(clock, n, hz, duty, tolerance, dutyTolerance);
          const [first] = found.candidates;
          expect(first === undefined).toBe(best.error === Infinity);
          if (!first) return;
          expect(Math.abs(first.errorPpm) / 1e6).toBeCloseTo(best.error, 11);
          expect(Math.abs(first.dutyError)).toBeCloseTo(best.dutyError, 11);
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('the pieces of the search', () => {
  it('lists the tops within a range exactly', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 4096 }),
        fc.constantFrom<0 | 1>(0, 1),
        fc.integer({ min: 1, max: 1e6 }),
        fc.nat(1e5),
        (unit, shift, low, span) => {
          const lane = { unit, shift, min: 1, max: 300 };
          const expected: number[] = [];
          for (let top = 1; top <= 300; top += 1) {
            const period = unit * (top + shift);
            if (period >= low && period <= low + span) expected.push(top);
          }
          const { min, max } = topsWithin(lane, low, low + span);
          expect(Array.from({ length: Math.max(0, max - min + 1) }, (_, index) => min + index)).toEqual(
            expected,
          );
        },
      ),
    );
  });

  it('thins without losing the ends or the middle', () => {
    fc.assert(
      fc.property(
        fc.nat(1000),
        fc.nat(65535),
        fc.double({ min: -1e5, max: 1e5, noNaN: true }),
        (min, span, middle) => {
          const max = min + span;
          const tops = thinnedTops({ min, max }, middle);
          const nearest = Math.min(max, Math.max(min, Math.round(middle)));
          expect(tops).toEqual(expect.arrayContaining([min, max, nearest]));
          expect(new Set(tops).size).toBe(tops.length);
          expect(tops.every((top) => top >= min && top <= max)).toBe(true);
          expect(tops.length).toBeLessThan(100);
        },
      ),
    );
  });

  it('finds the front that a comparison of all pairs finds', () => {
    fc.assert(
      fc.property(fc.double({ min: 2, max: 5, noNaN: true }), (decade) => {
        const requirement = requirementOf({
          kind: 'tone',
          target: { frequencyHz: Number((10 ** decade).toPrecision(4)), toleranceCents: 100 },
        });
        const found = fitRequirement(part, at(16e6), requirement, undefined, 'hardware');
        const beaten = (one: Hardware): boolean =>
          hardware(found.candidates).some(
            (other) =>
              other.steps >= one.steps &&
              Math.abs(other.errorPpm) <= Math.abs(one.errorPpm) &&
              (other.steps > one.steps || Math.abs(other.errorPpm) < Math.abs(one.errorPpm)),
          );
        const front = new Set(
          hardware(found.candidates)
            .filter((one) => !beaten(one))
            .map((one) => `${one.steps} ${Math.abs(one.errorPpm)}`),
        );
        expect(
          new Set(
            frontOf(found.candidates, requirement).map((one) => `${one.steps} ${Math.abs(one.errorPpm)}`),
          ),
        ).toEqual(front);
      }),
      { numRuns: 15 },
    );
  });

  it('proves the minus-one slip by its number: 16000 for 15999 is 62.5 ppm low', () => {
    const [best] = fit(16e6, { kind: 'tone', target: { frequencyHz: 1000 } }).candidates;
    if (!best) throw new Error('no candidate');
    const requirement = requirementOf({ kind: 'tone', target: { frequencyHz: 1000 } });
    const slips = slipsOf(part, best.setting, requirement, exact(16e6), 100000);
    expect(plain(slips.find(({ id }) => id === 'minus-one')?.text)).toBe(
      'Writing 16 000 instead of 15 999 gives 999.937 5 Hz, −62.5 ppm.',
    );
    expect(slips[0]).toMatchObject({ id: 'oscillator', warns: true });
  });
});
