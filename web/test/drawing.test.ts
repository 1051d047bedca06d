import { worstVerdict } from '@herzschlag/core';
import { bandPath, wavePath, type WaveShape } from '../src/components/drawing/wave.ts';
import { laneColour } from '../src/theme/colour.ts';
import { scaleOf, timeText } from '../src/components/drawing/timeScale.ts';

const shape = (change: Partial<WaveShape>): WaveShape => ({
  periodS: 10,
  highS: 3,
  from: 0,
  to: 20,
  x: (s) => s,
  level: (high) => (high ? 1 : 9),
  ...change,
});

it('draws two periods from their rising edge', () => {
  expect(wavePath(shape({}))).toBe('M0,9L0.00,1H3.00L3.00,9H10.00L10.00,1H13.00L13.00,9H20.00');
  expect(bandPath(shape({}))).toBe('M0.00,1H3.00M3.00,9H10.00M10.00,1H13.00M13.00,9H20.00');
});

it('draws a level without edges, and a stretch that starts within a period', () => {
  expect(wavePath(shape({ highS: 0 }))).toBe('M0.00,9H20.00');
  expect(wavePath(shape({ highS: 10 }))).toBe('M0,9L0.00,1H20.00');
  expect(wavePath(shape({ from: 2, to: 5 }))).toBe('M2.00,1H3.00L3.00,9H5.00');
});

it('takes a round stretch of time that shows four periods of the slowest signal', () => {
  expect([scaleOf([2, 0.001]), scaleOf([0.5]), scaleOf([0.03]), scaleOf([])]).toEqual([10, 2, 0.2, 1]);
  expect([timeText(2), timeText(0.2)]).toEqual(['Two seconds', '200 ms']);
});

it('has eight lane colours and starts again', () => {
  expect(laneColour(0)).toBe(laneColour(8));
  expect(new Set(Array.from({ length: 8 }, (_, at) => laneColour(at))).size).toBe(8);
});

it('lets a failure outweigh an unknown, and no check at all count as a failure', () => {
  expect(worstVerdict(['pass', 'unknown', 'fail'])).toBe('fail');
  expect(worstVerdict(['pass', 'unknown'])).toBe('unknown');
  expect(worstVerdict([])).toBe('fail');
});
