import type { EvaluatedSignal, SignalWaveform } from '@herzschlag/core';
import { ownSpan } from '../src/features/plan/StripWave.tsx';

const row = (frequencyHz: number): EvaluatedSignal =>
  ({ outcome: { frequencyHz, place: { cause: 'output' } } }) as EvaluatedSignal;

it('a strip shows four periods of its own signal, however fast', () => {
  expect(ownSpan(row(0.25), undefined)).toBe(16);
  expect(ownSpan(row(1000), undefined)).toBe(0.004);
});

it('a strip of a signal with a sequence shows one whole pass of it', () => {
  // Two periods of 4 s at 100 ticks a second, then 6 s of rest.
  const rows = [
    { cycle: { periodTicks: 400, edges: { rise: 0, fall: 40 } }, periods: 2 },
    { cycle: { periodTicks: 600, edges: { level: 0 } }, periods: 1 },
  ];
  const lane = { waveform: { rows }, tickHz: 100 } as unknown as SignalWaveform;
  expect(ownSpan(row(0.25), lane)).toBe(14);
});

it('a signal that nothing can make has no span', () => {
  expect(ownSpan({} as EvaluatedSignal, undefined)).toBeUndefined();
});
