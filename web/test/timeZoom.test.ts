import { ZoomTransform } from 'd3';
import { transformOf, windowOf } from '../src/components/drawing/useTimeZoom.ts';

describe('the window as a transform', () => {
  it('scales by one over the length and moves by the start', () => {
    // 2 s of 1000 pixels: half the scale of 1 s; the start at 4 s lies 4 · 500 pixels to the left.
    const { k, x } = transformOf({ from: 4, to: 6 }, 1000);
    expect(k).toBe(0.5);
    expect(x).toBe(-2000);
  });

  it('comes back the same, to a nanosecond at a hundred seconds', () => {
    const back = windowOf(transformOf({ from: 100, to: 100 + 1e-6 }, 776), 776);
    expect(Math.abs(back.from - 100)).toBeLessThan(1e-12);
    expect(Math.abs(back.to - back.from - 1e-6)).toBeLessThan(1e-12);
  });

  it('keeps the moment under the pointer when it is scaled there', () => {
    // Zoomed by two at pixel 250 of 1000, where 0 … 10 s show 2.5 s: 1.25 … 6.25 s.
    const { k, x } = transformOf({ from: 0, to: 10 }, 1000);
    const pointer = 250;
    const shown = windowOf(new ZoomTransform(2 * k, pointer - (pointer - x) * 2, 0), 1000);
    expect(shown.from).toBeCloseTo(1.25, 12);
    expect(shown.to).toBeCloseTo(6.25, 12);
  });
});
