import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { arithmeticOf, computed, knobFunction, type Arithmetic } from '../../src/knob/arithmetic.ts';
import { wantedAt } from '../../src/knob/curve.ts';
import type { Knob } from '../../src/knob/knob.ts';
import { nervousness } from '../../src/knob/noise.ts';

/** Arithmetic between two ends that are whole numbers. */
function between(knob: Partial<Knob>, low: number, high: number, dividend?: number): Arithmetic {
  const whole: Knob = { bits: 10, sets: 'duty', from: 0, to: 1, ...knob };
  const at = (share: number): number => wantedAt(low, high, whole.curve ?? 'linear', share);
  return arithmeticOf(whole, { low, high, at, ...(dividend === undefined ? {} : { dividend }) });
}

describe('by hand', () => {
  it('10 bits onto 0 to 1000: 511 x 1000 / 1023 is 499.5, cut to 499', () => {
    expect(computed(between({}, 0, 1000), 511)).toEqual({ number: 499, counts: 499, overflow: false });
  });

  it('in 16 bits the product overflows from reading 66 on: 66 x 1000 = 66,000 is 464 more than 65,536', () => {
    const own = between({ wide: 16 }, 0, 1000);
    expect(computed(own, 65)).toEqual({ number: 63, counts: 63, overflow: false });
    expect(computed(own, 66)).toEqual({ number: 0, counts: 0, overflow: true });
  });

  it('divided first, 1000 / 1023 is 0 and the knob does nothing', () => {
    expect(computed(between({ first: 'divide' }, 0, 1000), 1023)).toEqual({
      number: 0,
      counts: 0,
      overflow: false,
    });
  });

  it('a frequency of zero has no counts; of 20.5 Hz 1 MHz makes 48,780', () => {
    const own = between({}, 0, 410, 10_000_000);
    expect(computed(own, 0)).toEqual({ number: 0, overflow: false });
    expect(computed(own, 512)).toEqual({ number: 205, counts: 48_780, overflow: false });
  });

  it('inverted it falls; dead zones of 20 at both ends are the ends themselves', () => {
    const own = between({ deadLow: 20, deadHigh: 20 }, 1000, 0);
    expect([0, 20, 1003, 1023].map((reading) => computed(own, reading).number)).toEqual([1000, 1000, 0, 0]);
    // (512 - 20) x 1023 / 983 = 512; 512 x 1000 / 1023 = 500.
    expect(computed(own, 512).number).toBe(500);
  });

  it('a logarithmic knob is at the geometric mean in its middle', () => {
    expect(computed(between({ curve: 'logarithmic' }, 100, 10_000), 512).number).toBe(1000);
  });

  it('noise of 2 counts moves a frequency of 1 Hz a count by 4 % at 100 Hz; the mean of 16 by an eighth of it at most', () => {
    const knob: Knob = {
      bits: 4,
      sets: 'frequency',
      from: 100,
      to: 115,
      noise: 2,
      average: 4,
      hysteresis: 1,
    };
    const readings = Array.from({ length: 16 }, (_, at) => at);
    const made = readings.map((reading) => 100 + reading);
    const nervous = nervousness(knob, readings, made);
    // At reading 2: from 100 to 104 around 102.
    expect(nervous?.reading).toBe(2);
    expect(nervous?.plain).toBeCloseTo(4 / 102, 9);
    expect(nervous?.averaged).toBeCloseTo(2 / 102, 9);
    expect(nervous?.steady).toBe(0);
  });
});

describe('against C, compiled on the host', () => {
  const directory = mkdtempSync(join(tmpdir(), 'knob-'));
  afterAll(() => rmSync(directory, { recursive: true }));

  const knobs = fc.record({
    bits: fc.constantFrom(10, 12),
    curve: fc.constantFrom('linear', 'logarithmic', 'lightness'),
    wide: fc.constantFrom(16, 32),
    first: fc.constantFrom('multiply', 'divide'),
    deadLow: fc.constantFrom(0, 7, 60),
    deadHigh: fc.constantFrom(0, 12),
  }) as fc.Arbitrary<Partial<Knob>>;
  const cases = fc.tuple(
    knobs,
    fc.integer({ min: 0, max: 70_000 }),
    fc.integer({ min: 0, max: 5_000_000 }),
    fc.option(fc.integer({ min: 1, max: 4_000_000_000 }), { nil: undefined }),
  );

  it('all 1,024 and all 4,096 readings agree, overflow and division by zero included', () => {
    const drawn = fc.sample(cases, { numRuns: 60, seed: 1805 });
    const all = [
      ...drawn.map(([knob, low, high, dividend]) => between(knob, low, high, dividend)),
      between({ bits: 10, wide: 16 }, 0, 1000),
      between({ bits: 12, wide: 16 }, 6000, 200),
      between({ bits: 12 }, 0, 4_000_000),
    ];
    const functions = all.map((own, at) => knobFunction(`knob_${at}`, own));
    const calls = all.map(
      (own, at) =>
        `    for (uint32_t r = 0; r <= ${own.highest}u; r++) printf("%lu\\n", (unsigned long)knob_${at}((uint16_t)r));`,
    );
    const source = [
      '#include <stdint.h>',
      '#include <stdio.h>',
      ...functions,
      'int main(void)',
      '{',
      ...calls,
      '    return 0;',
      '}',
      '',
    ];
    writeFileSync(join(directory, 'knobs.c'), source.join('\n'));
    const flags = ['-std=c11', '-O1', '-Wall', '-Wextra', '-Werror', '-Wconversion', '-pedantic'];
    execFileSync('gcc', [...flags, 'knobs.c', '-o', 'knobs'], { cwd: directory });
    const lines = execFileSync(join(directory, 'knobs'), { encoding: 'utf8', maxBuffer: 2 ** 26 })
      .trim()
      .split('\n')
      .map(Number);
    let at = 0;
    let overflows = 0;
    for (const own of all) {
      const mine: number[] = [];
      for (let reading = 0; reading <= own.highest; reading += 1) {
        const { counts = 0, overflow } = computed(own, reading);
        if (overflow) overflows += 1;
        mine.push(counts % 2 ** 32);
      }
      expect(lines.slice(at, at + mine.length)).toEqual(mine);
      at += mine.length;
    }
    expect(at).toBe(lines.length);
    expect(overflows).toBeGreaterThan(1000);
  });
});
