import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { canShareTick } from '../../src/timer/drives/index.ts';
import { shareTimer, type TickUser } from '../../src/fit/software/shared-timer.ts';
import { partById } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import { computeOutcome } from '../../src/timer/drives/index.ts';
import { exact } from '../../src/quantity/exact.ts';

const avr = partById('atmega328p') as Part;
const path = clockPath(avr, { source: 'external', sourceHz: 16e6 });
const CLOCK = exact(16e6);

function blink(frequencyHz: number, ppm: number): TickUser {
  return {
    requirement: requirementOf({ kind: 'blink', target: { frequencyHz, frequencyTolerancePpm: ppm } }),
    pin: 'PC0',
  };
}

/** Rates at which Timer 0 or 2 of the part can interrupt, by plain loops: eight bits, seven and five divisions. */
function rates(): number[] {
  return [1, 8, 32, 64, 128, 256, 1024].flatMap((divide) =>
    Array.from({ length: 256 }, (_, at) => 16e6 / (divide * (at + 1))),
  );
}

it('gives every user its frequency within its tolerance, from one counter', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 2, maxLength: 4 }),
      fc.constantFrom(200, 2000, 20000),
      (frequencies, ppm) => {
        const users = frequencies.map((hz) => blink(hz, ppm));
        const found = shareTimer(avr, path, users);
        fc.pre(found !== undefined);
        if (!found) return;
        expect(
          new Set(
            found.uses.map(({ setting }) => JSON.stringify([setting.timer, setting.prescaler, setting.top])),
          ).size,
        ).toBe(1);
        found.uses.forEach(({ setting, frequency }, at) => {
          expect(computeOutcome(avr, setting, CLOCK, CLOCK).frequency.equals(frequency)).toBe(true);
          expect(Math.abs(frequency.valueOf() / (frequencies[at] ?? 0) - 1)).toBeLessThanOrEqual(
            ppm / 1e6 + 1e-12,
          );
        });
      },
    ),
    { numRuns: 60 },
  );
});

it('takes no faster tick than the timers need: none slower of the eight-bit ones serves both', () => {
  const able = rates();
  fc.assert(
    fc.property(fc.integer({ min: 20, max: 60 }), fc.integer({ min: 20, max: 60 }), (one, other) => {
      const found = shareTimer(avr, path, [blink(one, 500), blink(other, 500)], new Set(['TIMER1']));
      fc.pre(found !== undefined);
      if (!found) return;
      const tick = found.tickHz.valueOf();
      const serves = (rate: number): boolean =>
        [one, other].every((hz) => {
          const divider = Math.max(1, Math.round(rate / (2 * hz)));
          return Math.abs(rate / (2 * divider) / hz - 1) <= 500e-6;
        });
      // Ticks tried are whole multiples of the faster change; a timer makes the nearest rate it can, some percent off.
      const fastest = 2 * Math.max(one, other);
      const first = Array.from({ length: 2000 }, (_, at) => fastest * (at + 1)).find((ideal) => {
        const off = (rate: number): number => Math.abs(ideal / rate - 1);
        const closest = able.reduce((best, rate) => (off(rate) < off(best) ? rate : best));
        return off(closest) <= 0.02 && serves(ideal) && serves(closest);
      });
      expect(tick).toBeLessThanOrEqual((first ?? Infinity) * 1.05);
    }),
    { numRuns: 60 },
  );
});

it.each<[string, KindAndTarget, boolean]>([
  ['a tick', { kind: 'tick', target: { frequencyHz: 10 } }, true],
  ['half of the time', { kind: 'blink', target: { frequencyHz: 10 } }, true],
  ['a tenth of the time', { kind: 'blink', target: { frequencyHz: 10, duty: 0.1 } }, false],
  ['a width', { kind: 'pulse', target: { frameHz: 50, widthS: 0.01 } }, false],
  ['a least frequency', { kind: 'dim', target: { minHz: 100, minSteps: 2 } }, false],
  ['an input', { kind: 'measure', target: { minHz: 1, maxHz: 2 } }, false],
])('%s can be counted from ticks: %p', (_, aim, able) => {
  expect(canShareTick(requirementOf(aim))).toBe(able);
});
