import {
  type KindAndTarget,
  clockOf,
  clockPath,
  fetchPart,
  fitRequirement,
  requirementOf,
} from '@herzschlag/core';
import { atmega328p as part } from '@herzschlag/core/parts/avr/atmega328p.ts';
import { quantile, timings } from './table.ts';

const CLOCK = 16e6;
const path = clockPath(part, { source: 'crystal', sourceHz: CLOCK });

const AIMS: Record<string, KindAndTarget> = {
  'tone 1 kHz, 5 cents': { kind: 'tone', target: { frequencyHz: 1000 } },
  'tone C#5, 5 cents': { kind: 'tone', target: { note: 'C#5' } },
  'blink 0.5 Hz, 10 %': { kind: 'blink', target: { frequencyHz: 0.5, duty: 0.1 } },
  'dim 200 Hz, 1000 steps': { kind: 'dim', target: { minHz: 200, minSteps: 1000, duty: 0.35 } },
};

/** Every prescaler and every top of every timer by plain loops; gives the least error in ppm. */
function everyTop(hz: number): number {
  let best = Infinity;
  for (const timer of part.timers) {
    const { prescaler } = timer;
    for (const { divide } of prescaler.kind === 'list' ? prescaler.options : []) {
      for (let top = 1; top < 2 ** timer.width; top += 1) {
        for (const period of [
          divide * (top + 1),
          2 * divide * top,
          2 * divide * (top + 1),
          4 * divide * top,
        ]) {
          best = Math.min(best, Math.abs(CLOCK / period / hz - 1));
        }
      }
    }
  }
  return best * 1e6;
}

function time(runs: number, work: () => unknown): number[] {
  return Array.from({ length: runs }, () => {
    const start = performance.now();
    work();
    return performance.now() - start;
  });
}

const rows = Object.entries(AIMS).map(([name, aim]) => {
  const requirement = requirementOf(aim);
  time(20, () => fitRequirement(part, path, requirement));
  return timings(
    `fit: ${name}`,
    time(60, () => fitRequirement(part, path, requirement)),
  );
});

const stm32 = await fetchPart('stm32f401');
if (!stm32) throw new Error('no stm32f401');
const stm32Path = clockPath(stm32, stm32.defaultClock);
const a4 = requirementOf({ kind: 'tone', target: { note: 'A4' } });
for (const pin of ['PB6', undefined]) {
  time(10, () => fitRequirement(stm32, stm32Path, a4, pin));
  const runs = time(30, () => fitRequirement(stm32, stm32Path, a4, pin));
  rows.push(timings(`fit: ${stm32.name}, A4 on ${pin ?? 'any pin'}`, runs));
}

/** Of the two tops nearest to a period in counts, the lesser error as a share; infinite where neither is in range. */
function nearestTop(counts: number, base: number, max: number): number {
  const below = Math.floor(counts) - base;
  const errors = [below, below + 1]
    .filter((top) => top >= 1 && top <= max)
    .map((top) => Math.abs(counts / (top + base) - 1));
  return Math.min(Infinity, ...errors);
}

/** Every prescaler of every timer that has any, with the two tops nearest to the period; gives the least error in ppm. */
function everyPrescaler(hz: number): number {
  let best = Infinity;
  for (const timer of stm32?.timers ?? []) {
    if (timer.prescaler.kind !== 'range') continue;
    const clock = clockOf(stm32Path, timer.clock).valueOf();
    for (const mode of timer.modes) {
      const runs = mode.count === 'updown' ? 2 : 1;
      const max = 2 ** timer.width - 1;
      for (let n = 1; n <= timer.prescaler.max; n += 1) {
        for (const factor of mode.toggle ? [runs, 2 * runs] : [runs])
          best = Math.min(best, nearestTop(clock / (factor * n) / hz, mode.base, max));
      }
    }
  }
  return best * 1e6;
}

/** Frequencies that do not divide the clock, for one search each. */
const ODD = [440.13, 1234.5, 2999.7, 17.31, 50000.7];
const problem = ODD.map((frequencyHz) => requirementOf({ kind: 'tone', target: { frequencyHz } }));
const whole = time(30, () => problem.map((one) => fitRequirement(stm32, stm32Path, one))).map(
  (ms) => ms / ODD.length,
);
const plain = time(10, () => ODD.map(everyPrescaler)).map((ms) => ms / ODD.length);
rows.push(
  timings(`fit: ${stm32.name}, all timers, any pin, five odd tones, each`, whole),
  timings('plain loops over its prescalers: the same tones, each', plain),
);
const answers = ODD.map((hz, at) => {
  const { candidates } = fitRequirement(stm32, stm32Path, problem[at] ?? a4);
  const [first] = [...candidates].sort((one, other) => Math.abs(one.errorPpm) - Math.abs(other.errorPpm));
  return Math.abs((first?.errorPpm ?? NaN) - 0) - everyPrescaler(hz);
});

const requirement = requirementOf({ kind: 'tone', target: { frequencyHz: 1234.5 } });
const fitted = time(40, () => fitRequirement(part, path, requirement));
const looped = time(40, () => everyTop(1234.5));
rows.push(
  timings('fit: tone 1234.5 Hz', fitted),
  timings('plain loops over prescaler and top: 1234.5 Hz', looped),
);
console.table(rows);

const min = Math.abs(fitRequirement(part, path, requirement).candidates[0]?.errorPpm ?? NaN);
console.log(`least error: fit ${min.toFixed(6)} ppm, loops ${everyTop(1234.5).toFixed(6)} ppm`);
console.log(
  `fit / loops, medians of one run: ${(quantile(fitted, 0.5) / quantile(looped, 0.5)).toFixed(2)} ` +
    '(fit also ranks, judges the duty, draws the front and gives reasons)',
);
console.log(
  `${stm32.name}, all timers: fit / loops ${(quantile(whole, 0.5) / quantile(plain, 0.5)).toFixed(2)}; ` +
    `least errors differ by ${Math.max(...answers.map(Math.abs)).toExponential(1)} ppm at most; ` +
    `requirement 50 ms for one signal: ${quantile(whole, 0.95) < 50 ? 'reached' : 'NOT reached'}`,
);
