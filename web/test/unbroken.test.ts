import { unbroken } from '../src/components/text/unbroken.ts';

it('keeps a number and its unit together, and leaves other words alone', () => {
  expect(unbroken('gives 49.9975 Hz, −50 ppm.')).toBe('gives 49.9975\u00a0Hz, −50\u00a0ppm.');
  expect(unbroken('10 % of 2 µs in 250 steps')).toBe('10\u00a0% of 2\u00a0µs in 250\u00a0steps');
  expect(unbroken('100 % for 3 periods; rest 1.4 s.')).toBe(
    '100\u00a0% for 3\u00a0periods; rest 1.4\u00a0s.',
  );
  expect(unbroken('TIM2 CH1 and 3 more signals, 5 special')).toBe('TIM2 CH1 and 3 more signals, 5 special');
});
