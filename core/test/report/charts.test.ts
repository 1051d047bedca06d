import { JSDOM } from 'jsdom';
import { readingsSvg } from '../../src/report/charts.ts';
import type { Readings } from '../../src/readings/readings.ts';

const drawn = (svg: string): Document => new JSDOM(svg, { contentType: 'image/svg+xml' }).window.document;

describe('the picture of readings', () => {
  // 1 ms gives 0°, 2 ms 90°: a straight line from corner to corner, the point between them off it.
  const readings: Readings = {
    of: 'width',
    unit: '°',
    points: [
      { set: 0.001, seen: 0 },
      { set: 0.0015, seen: 30 },
      { set: 0.002, seen: 90 },
    ],
  };

  it('has a point for each reading, at its place', () => {
    const dots = [...drawn(readingsSvg(readings)).querySelectorAll('circle')].map((one) =>
      ['cx', 'cy'].map((name) => Number(one.getAttribute(name))),
    );
    // From 96 to 634 across, from 126 up to 12.
    expect(dots).toEqual([
      [96, 126],
      [365, 88],
      [634, 12],
    ]);
  });

  it('says its ends in words', () => {
    const texts = [...drawn(readingsSvg(readings)).querySelectorAll('text')].map((one) =>
      (one.textContent ?? '').replace(/[\u00a0\u202f]/g, ' '),
    );
    expect(texts).toEqual(['1 ms', '2 ms', '0°', '90°']);
  });

  it('draws a value that is the same everywhere as a level line', () => {
    const still = { ...readings, points: [0.001, 0.002].map((set) => ({ set, seen: 5 })) };
    const [, curve] = drawn(readingsSvg(still)).querySelectorAll('path');
    expect(curve?.getAttribute('d')).not.toContain('NaN');
  });
});
