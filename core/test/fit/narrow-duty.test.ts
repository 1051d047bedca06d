import fc from 'fast-check';
import { clockOf, clockPath } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { divisionRange } from '../../src/part/division.ts';
import type { Part } from '../../src/part/types.ts';
import type { Requirement } from '../../src/signal/requirement.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { shipped as part } from '../helpers/parts.ts';

const SEED = 9119;

/** Whether some division, top and compare value of the part's PWM meets a requirement, by plain loops. */
function exists(own: Part, requirement: Requirement): boolean {
  const path = clockPath(own, own.defaultClock);
  const { frequency, duty } = requirement;
  if (frequency.kind !== 'near') throw new Error('a frequency is wanted');
  const [dutyLow, dutyHigh] = [duty.low.valueOf() - 1e-15, duty.high.valueOf() + 1e-15];
  return own.timers.some((timer) =>
    timer.modes.some((mode) => {
      const { top, pwm } = mode;
      if (!pwm || pwm.spread || pwm.grain || (top.kind !== 'register' && top.kind !== 'channel'))
        return false;
      const { prescaler } = timer;
      const scale = prescaler.kind === 'range' ? prescaler.scale : 1;
      const hz = clockOf(path, timer.clock).valueOf() * scale;
      const [short, long] = [
        Math.ceil(hz / frequency.high.valueOf() - 1e-6),
        Math.floor(hz / frequency.low.valueOf() + 1e-6),
      ];
      const { min, max } = divisionRange(prescaler);
      const divisions =
        prescaler.kind === 'list'
          ? prescaler.options.map(({ divide }) => divide)
          : Array.from({ length: max - min + 1 }, (_, at) => min + at);
      const both = mode.count === 'up' ? 1 : 2;
      return divisions.some((n) => {
        const first = Math.max(top.min + mode.base, Math.ceil(short / (n * both)));
        const last = Math.min(top.max + mode.base, Math.floor(long / (n * both)));
        for (let counts = first; counts <= last; counts += 1) {
          const from = Math.max(1, Math.ceil(dutyLow * counts));
          if (from < counts && from / counts <= dutyHigh) return true;
        }
        return false;
      });
    }),
  );
}

describe.each(['rp2040', 'atmega328p', 'samd21g18'])('a very narrow duty on %s', (id) => {
  it('is found wherever it exists', () => {
    const own = part(id);
    let some = 0;
    fc.assert(
      fc.property(
        fc
          .integer({ min: 3, max: 4000 })
          .chain((whole) =>
            fc.record({ whole: fc.constant(whole), high: fc.integer({ min: 1, max: whole - 1 }) }),
          ),
        fc.double({ min: 20, max: 20000, noNaN: true }),
        fc.constantFrom(500, 3000, 20000),
        ({ whole, high }, frequencyHz, frequencyTolerancePpm) => {
          const requirement = requirementOf({
            kind: 'blink',
            target: {
              frequencyHz: Number(frequencyHz.toPrecision(6)),
              frequencyTolerancePpm,
              duty: `${high}/${whole}`,
              dutyTolerance: 1e-6,
            },
          });
          if (!exists(own, requirement)) return;
          some += 1;
          const fit = fitRequirement(
            own,
            clockPath(own, { ...own.defaultClock, tolerancePpm: 0 }),
            requirement,
            undefined,
            'hardware',
          );
          expect(fit.candidates.length).toBeGreaterThan(0);
        },
      ),
      { numRuns: id === 'rp2040' ? 60 : 150, seed: SEED },
    );
    expect(some).toBeGreaterThan(10);
  });
});
