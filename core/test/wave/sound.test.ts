import { soundOf, soundOfEdges } from '../../src/wave/sound.ts';
import type { SteadyWaveform } from '../../src/wave/stream.ts';

const RATE = 48_000;

/** Frequency by the places where samples rise through zero, between two samples by a straight line. */
function heardHz(samples: Float32Array): number {
  const rises: number[] = [];
  for (let at = 1; at < samples.length; at += 1) {
    const [one = 0, next = 0] = [samples[at - 1], samples[at]];
    if (one < 0 && next >= 0) rises.push(at - 1 + one / (one - next));
  }
  const [first = 0, last = 0] = [rises[0], rises[rises.length - 1]];
  return ((rises.length - 1) / (last - first)) * RATE;
}

function square(hz: number, seconds: number, from = 0): number[] {
  return Array.from({ length: Math.floor(2 * hz * seconds) }, (_, at) => (from + at / (2 * hz)) * 1e6);
}

/** Share of the power near one frequency, by a sum over a sine and a cosine. */
function amplitude(samples: Float32Array, hz: number): number {
  let [sine, cosine] = [0, 0];
  samples.forEach((value, at) => {
    sine += value * Math.sin((2 * Math.PI * hz * at) / RATE);
    cosine += value * Math.cos((2 * Math.PI * hz * at) / RATE);
  });
  return (2 * Math.hypot(sine, cosine)) / samples.length;
}

describe('a pin as sound', () => {
  it.each([110, 440, 1150, 3217.4])('%d Hz is heard as such within 0.1 %', (hz) => {
    const samples = soundOfEdges({ pieces: [square(hz, 1)], start: 0, fromTick: 0, tickHz: 1e6 }, 1, RATE);
    expect(Math.abs(heardHz(samples.subarray(2400, 45_600)) / hz - 1)).toBeLessThan(0.001);
  });

  it('its first harmonics are those of a square: 1, 1/3 and 1/5, and none is even', () => {
    const samples = soundOfEdges(
      { pieces: [square(1000, 1)], start: 0, fromTick: 0, tickHz: 1e6 },
      1,
      RATE,
    ).subarray(4800, 43_200);
    const first = amplitude(samples, 1000);
    expect(first).toBeCloseTo(2 / Math.PI, 2);
    expect(amplitude(samples, 3000) / first).toBeCloseTo(1 / 3, 2);
    expect(amplitude(samples, 5000) / first).toBeCloseTo(1 / 5, 2);
    expect(amplitude(samples, 2000) / first).toBeLessThan(0.01);
  });

  it('nothing folds down from above half of the rate: 7 kHz has its 5th harmonic at 35 kHz, which would be 13 kHz', () => {
    const samples = soundOfEdges(
      { pieces: [square(7000, 1)], start: 0, fromTick: 0, tickHz: 1e6 },
      1,
      RATE,
    ).subarray(4800, 43_200);
    expect(amplitude(samples, 13_000) / amplitude(samples, 7000)).toBeLessThan(0.003);
  });

  it('begins and ends at zero, has no mean, and a pin that never changes is silent', () => {
    const samples = soundOfEdges(
      { pieces: [square(880, 0.5)], start: 0, fromTick: 0, tickHz: 1e6 },
      0.5,
      RATE,
    );
    expect([samples[0], samples[samples.length - 1]].map((one) => Math.abs(one ?? 1) < 1e-6)).toEqual([
      true,
      true,
    ]);
    expect(Math.abs(samples.reduce((sum, one) => sum + one, 0) / samples.length)).toBeLessThan(0.002);
    const high = soundOfEdges({ pieces: [[]], start: 1, fromTick: 0, tickHz: 1e6 }, 0.1, RATE);
    expect(Math.max(...high.map(Math.abs))).toBeLessThan(1e-6);
  });

  it('a falling third is heard as two notes: E5 and C5, 659.26 and 523.25 Hz', () => {
    const edges = [...square(659.26, 0.5), ...square(523.25, 0.5, 0.5)];
    const samples = soundOfEdges({ pieces: [edges], start: 0, fromTick: 0, tickHz: 1e6 }, 1, RATE);
    expect(Math.abs(heardHz(samples.subarray(2400, 21_600)) / 659.26 - 1)).toBeLessThan(0.001);
    expect(Math.abs(heardHz(samples.subarray(26_400, 45_600)) / 523.25 - 1)).toBeLessThan(0.001);
  });

  it('of a computed waveform is that of its edges', () => {
    const cycle = { periodTicks: 1000, edges: { rise: 0, fall: 500 } };
    const steady: SteadyWaveform = { cycle, scale: 1, settled: 0, begin: new Float64Array(0) };
    expect(Math.abs(heardHz(soundOf(steady, 1e6, 0.5).subarray(2400, 21_600)) / 1000 - 1)).toBeLessThan(
      0.001,
    );
  });
});
