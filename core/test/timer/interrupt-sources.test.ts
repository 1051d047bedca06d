import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import {
  divideRuns,
  interruptSources,
  runFor,
  type InterruptSource,
} from '../../src/timer/interrupt-sources.ts';
import { PARTS, shipped } from '../helpers/parts.ts';

function sourcesOf(id: string): InterruptSource[] {
  const part = shipped(id);
  return interruptSources(part, clockPath(part, part.defaultClock));
}

/**
 * How long a run is, in clocks of the timer: the counts, each divided by n. A write that reloads the counter holds it, and takes
 * what the prescaler has counted since the overflow.
 */
function lengthOf({ mode, latency }: InterruptSource, n: number, top: number): number {
  const counted = n * (top + mode.base);
  if (mode.top.kind !== 'reload') return counted;
  return counted + mode.top.hold + (mode.top.clears ? latency % n : 0);
}

/** Tops of a source next to the one that would make a run so long, without its hold and with it. */
function topsNear({ mode, min, max }: InterruptSource, n: number, period: number): number[] {
  if (mode.top.kind === 'power') return Array.from({ length: 17 }, (_, bits) => 2 ** bits - 1);
  const ideal = Math.floor(period / n) - mode.base;
  const hold = mode.top.kind === 'reload' ? mode.top.hold + 40 : 0;
  const tops = Array.from({ length: hold + 4 }, (_, at) => ideal - hold - 1 + at);
  return [...tops, min, max].filter((top) => top >= min && top <= max);
}

const listed = PARTS.flatMap((part) => sourcesOf(part.id)).filter(
  ({ timer }) => timer.prescaler.kind === 'list',
);

describe('runs of a counter', () => {
  it('come as close to a period as any listed division and any top', () => {
    expect(listed.length).toBeGreaterThan(60);
    const rates = fc.double({ min: -1, max: 5, noNaN: true }).map((power) => 10 ** power);
    fc.assert(
      fc.property(fc.nat(listed.length - 1), rates, fc.boolean(), (at, rateHz, below) => {
        const source = listed[at];
        if (!source) throw new RangeError('no such source');
        const period = source.partHz / rateHz;
        const errors = source.divides.flatMap(({ divide }) =>
          topsNear(source, divide, period)
            .filter((top) => top >= source.min && top <= source.max)
            .map((top) => lengthOf(source, divide, top))
            .filter((length) => !below || length <= period)
            .map((length) => Math.abs(length / period - 1)),
        );
        const best = Math.min(...errors);
        const run = runFor(source, rateHz, Infinity, below);
        // A run that is off by about a half serves nothing.
        if (best > 0.4) return;
        const error = run ? Math.abs(lengthOf(source, run.prescaler, run.top) / period - 1) : Infinity;
        expect(error).toBeLessThanOrEqual(best + 1e-8);
      }),
      { numRuns: 4000, seed: 271_127 },
    );
  });

  // 31 kHz and no divider: 31 000 / 3 = 10 333 Hz; two counts of two cycles each would be 7750 Hz, which is too slow.
  it('are not longer than a period where that is the limit, however short the least run', () => {
    const source = sourcesOf('pic16f18875').find(({ timer }) => timer.id === 'TMR2_LF');
    if (!source) throw new Error('no such timer');
    expect(runFor(source, 8296.7, 0.5, true)).toMatchObject({ prescaler: 1, top: 2 });
    // Its least run takes two cycles.
    expect(runFor(source, 15_500, 0.5, true)).toMatchObject({ prescaler: 1, top: 1 });
    expect(runFor(source, 16_000, 0.5, true)).toBeUndefined();
  });

  it('are the same on timers that count alike, but for the timer', () => {
    const [first, ...others] = sourcesOf('atmega2560').filter(({ mode }) => mode.id === 'ctc-icr');
    if (!first) throw new Error('no such mode');
    expect(others.map(({ timer }) => timer.id)).toEqual(['TIMER3', 'TIMER4', 'TIMER5']);
    const runs = divideRuns(first, 3.3);
    expect(runs.length).toBeGreaterThan(1);
    for (const source of others) {
      const timer = source.timer.id;
      expect(divideRuns(source, 3.3)).toEqual(
        runs.map((run) => ({ ...run, counter: { ...run.counter, timer } })),
      );
    }
  });
});
