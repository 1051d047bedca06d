import fc from 'fast-check';
import type { Capture } from '../../src/wave/capture.ts';
import { envelope, meanBetween, reachOf } from '../../src/wave/samples.ts';
import { waveformSource, measureBetween, nextPeriod, nextPulse, wireSource } from '../../src/wave/source.ts';
import { waveformEdgeList, type Waveform } from '../../src/wave/stream.ts';

const lane: Waveform = {
  cycle: { periodTicks: 10, edges: { rise: 0, fall: 3 } },
  scale: 1,
  settled: 20,
  begin: Float64Array.from([2, 5, 12, 13]),
};
const wire = {
  name: 'a',
  times: Float64Array.from([0, 5, 8, 15, 18, 19, 20, 25]),
  levels: Uint8Array.from([0, 1, 0, 1, 0, 1, 0, 1]),
};
const capture: Capture = { tickHz: 10, from: 0, to: 30, wires: [wire] };

describe('a computed source', () => {
  const source = waveformSource(lane, 10);

  it('has its first edges, then its cycle', () => {
    expect([...source.edges(0, 4.1)].map((s) => Math.round(s * 10))).toEqual([
      2, 5, 12, 13, 20, 23, 30, 33, 40,
    ]);
    expect([0, 0.2, 0.4, 0.5, 1.9, 2, 2.2, 2.3].map(source.level)).toEqual([0, 1, 1, 0, 0, 1, 1, 0]);
    expect([source.next(0), source.next(0.2), source.next(1.3), source.next(1000.01)]).toEqual([
      0.2, 0.5, 2, 1000.3,
    ]);
    expect([source.previous(0.2), source.previous(2), source.previous(1000)]).toEqual([
      undefined,
      1.3,
      999.3,
    ]);
  });

  it('counts what it would list, without listing it', () => {
    expect(source.count(0, 2)).toBe(4);
    expect(source.count(100, 100000)).toBe(2 * 99900);
    fc.assert(
      fc.property(fc.nat(300), fc.nat(300), (from, length) => {
        const edges = [...waveformEdgeList(lane, 700).edges].filter(
          (edge) => edge >= from && edge < from + length,
        );
        expect(source.count(from / 10, (from + length) / 10)).toBe(edges.length);
        expect([...source.edges(from / 10, (from + length) / 10)].map((s) => Math.round(s * 10))).toEqual(
          edges,
        );
      }),
      { numRuns: 500 },
    );
  });
});

describe('a captured source', () => {
  const source = wireSource(wire, capture);

  it('finds edges by halving, its first entry being none', () => {
    expect([...source.edges(0, 3)]).toEqual([0.5, 0.8, 1.5, 1.8, 1.9, 2, 2.5]);
    expect([source.count(0, 3), source.count(0.6, 1.9)]).toEqual([7, 3]);
    expect([source.level(0.4), source.level(0.5), source.level(2.6), source.level(-1)]).toEqual([0, 1, 1, 2]);
    expect([source.next(0.5), source.next(2.5), source.previous(0.8), source.previous(0.5)]).toEqual([
      0.8,
      undefined,
      0.5,
      undefined,
    ]);
  });

  it('is laid over the plan: shifted by its start, stretched by the clock ratio', () => {
    const laid = wireSource(wire, capture, 0.5, 2);
    expect([...laid.edges(0, 3)]).toEqual([
      0,
      expect.closeTo(0.6),
      2,
      expect.closeTo(2.6),
      expect.closeTo(2.8),
    ]);
  });

  it('knows the level at its own edges, however they come out in s', () => {
    const times = Float64Array.from({ length: 2000 }, (_, at) => 20_000_000_000 + at * 4_350_429);
    const own = { name: 'b', times, levels: Uint8Array.from(times, (_, at) => at % 2) };
    for (const laid of [
      wireSource(own, { ...capture, tickHz: 1e10 }, 0.0123, 1.0022),
      wireSource(own, { ...capture, tickHz: 1e10 }),
    ]) {
      const edges = [...laid.edges(0, 10)];
      expect(edges).toHaveLength(1999);
      expect(edges.map(laid.level)).toEqual(edges.map((_, at) => (at + 1) % 2));
    }
  });

  it('goes to the next pulse shorter than a limit, and to the next period outside of one', () => {
    expect(nextPulse(source, 0, (s) => s < 0.15)).toEqual({ fromS: 1.8, toS: 1.9 });
    expect(nextPulse(source, 1.8, (s) => s < 0.15)).toEqual({ fromS: 1.9, toS: 2 });
    expect(nextPulse(source, 1.9, (s) => s < 0.15)).toBeUndefined();
    expect(nextPeriod(source, 0, (s) => s < 0.9)).toEqual({ fromS: 1.5, toS: 1.9 });
  });

  it('measures between two moments, from whole periods, whichever comes first', () => {
    expect(measureBetween(source, 1.5, 0.5)).toEqual({
      seconds: 1,
      rises: 1,
      falls: 1,
      duty: expect.closeTo(0.3) as number,
      frequencyHz: 1,
    });
    expect(measureBetween(source, 0, 1.6)).toMatchObject({ rises: 2, falls: 1, frequencyHz: 1 });
    expect(measureBetween(source, 1, 1)).toBeUndefined();
    expect(measureBetween(source, 0.55, 0.6)).toMatchObject({ rises: 0, duty: expect.closeTo(1) as number });
  });
});

describe('samples for drawing', () => {
  const samples = {
    times: Float64Array.from([0, 10, 20, 30]),
    values: Float32Array.from([0, 4, 2, 2]),
    rise: 3,
    fall: 1,
  };

  it('have their least and greatest in each part, lines between them, nothing outside', () => {
    const laid = { startS: 0, ratio: 1 };
    expect([...envelope(samples, { tickHz: 10 }, laid, 0, 4, 2)]).toEqual([0, 4, 2, 2]);
    expect([...envelope(samples, { tickHz: 10 }, laid, 0, 1, 4)]).toEqual([
      0, 0, 1.5, 1.5, 2.5, 2.5, 3.5, 3.5,
    ]);
    expect([...envelope(samples, { tickHz: 10 }, laid, 3.5, 4.5, 1)]).toEqual([NaN, NaN]);
    expect([...envelope(samples, { tickHz: 10 }, { startS: 1, ratio: 2 }, 0, 2, 1)]).toEqual([4, 4]);
    expect(reachOf(samples)).toEqual({ min: 0, max: 4 });
    // 0 V for one second and 4 V for half of one.
    expect(meanBetween(samples, { tickHz: 10 }, laid, 0, 1.5)).toBeCloseTo(4 / 3, 12);
    expect(meanBetween(samples, { tickHz: 10 }, laid, 5, 6)).toBeUndefined();
  });
});

it('has no edge at the start where the pin is low and stays low', () => {
  // Toggled by interrupts: it falls at 0 and rises at 5, but it is low before 0.
  const cycle = { periodTicks: 10, edges: { rise: 5, fall: 0 } };
  const source = waveformSource({ cycle, scale: 1, settled: 0, begin: new Float64Array(0) }, 10);
  expect([...source.edges(-1, 2.1)]).toEqual([0.5, 1, 1.5, 2]);
  expect(source.count(-1, 2.1)).toBe(4);
  expect(source.next(-1)).toBe(0.5);
  expect(source.level(0.2)).toBe(0);
  expect(source.level(0.7)).toBe(1);
});
