import {
  axisBottom,
  axisLeft,
  line,
  quadtree,
  scaleLinear,
  scaleLog,
  type Axis,
  type Quadtree,
  type ScaleLogarithmic,
} from 'd3';
import { type Landscape, type Point, printHz, printNumber, printPpm } from '@herzschlag/core';
import { markPath, marks, type Mark } from './marks.ts';

/** The drawing's size in its own units; it scales with the page. */
export const SIZE = { width: 600, height: 286 } as const;

/** A point with its place in the drawing. */
type Placed = { x: number; y: number; point: Point };

/** The landscape laid out: scales, ticks, shapes, and a tree to find the point under the pointer. */
export type Plot = {
  byError: boolean;
  area: { left: number; right: number; top: number; bottom: number };
  rail: number;
  x: (bits: number) => number;
  y: (height: number) => number;
  place: (bits: number, height: number) => [number, number];
  xAxis: Axis<number>;
  yAxis: Axis<number>;
  limit: number;
  limitText: string;
  minBits: number;
  points: Placed[];
  clouds: { key: string; path: string; meets: boolean; mark: Mark }[];
  front: string;
  /** Those of the front's points that stand far enough apart to be drawn as rings. */
  rings: (Placed & { mark: Mark | undefined })[];
  tree: Quadtree<Placed>;
  /** The marks of the drives that there are points of. */
  shown: Mark[];
  /** The points in the order the arrow keys go through them. */
  /** Bars under the points with round numbers. */
  round: string;
  walk: Point[];
};

const MIN_PPM = 0.1;
const MAX_PPM = 1e5;

function outlines(points: readonly Placed[], mark: Mark): string {
  return points.map(({ x, y }) => markPath(mark, mark.filled ? 2 : 3.2, x, y)).join('');
}

/** The powers of ten within a scale. */
function decades(scale: ScaleLogarithmic<number, number>): number[] {
  return scale.ticks().filter((value) => Number.isInteger(Math.round(Math.log10(value) * 1e6) / 1e6));
}

/** Rings nearer to each other than this run together. */
const RING_GAP = 8;

function apart(points: readonly Placed[]): Placed[] {
  const kept: Placed[] = [];
  for (const point of [...points].sort((one, other) => other.y - one.y)) {
    const clear = kept.every((other) => Math.hypot(other.x - point.x, other.y - point.y) >= RING_GAP);
    if (clear) kept.push(point);
  }
  return kept;
}

/** A short bar under each point whose numbers can be read. */
function roundBars(points: readonly Placed[]): string {
  return apart(points.filter(({ point }) => point.readable !== undefined))
    .map(({ x, y }) => `M${(x - 4.5).toFixed(1)},${(y + 6.5).toFixed(1)}h9`)
    .join('');
}

/** Lays the landscape out; with a timer only that timer's points. */
export function plotOf(landscape: Landscape, timer: string | undefined): Plot {
  const byError = landscape.height === 'error';
  const area = { left: byError ? 52 : 72, right: SIZE.width - 10, top: 8, bottom: SIZE.height - 36 };
  const kept = landscape.points.filter((point) => timer === undefined || point.timer === timer);
  const widest = Math.max(8, ...landscape.points.map((point) => point.bits));
  const x = scaleLinear([0, Math.ceil(widest + 0.25)], [area.left, area.right]);
  const heights = kept.map((point) => point.height).filter((height) => height > 0);
  const domain: [number, number] = byError
    ? [MIN_PPM, MAX_PPM]
    : [Math.min(landscape.limit / 10, ...heights), Math.max(landscape.limit * 10, ...heights) * 1.5];
  const all = marks();
  const rail = area.bottom - 10;
  const scale = scaleLog(domain, [byError ? rail - 16 : area.bottom, area.top]).clamp(true);
  const y = (height: number): number => (byError && height === 0 ? rail : scale(height));
  const place = (bits: number, height: number): [number, number] => [
    x(bits),
    Math.max(area.top + 11, y(height)),
  ];
  const points = kept.map((point): Placed => ({ x: x(point.bits), y: y(point.height), point }));
  const drawn = points.filter(({ point }) => !point.front && (!byError || point.height <= MAX_PPM));
  const clouds = [true, false].flatMap((meets) =>
    all.map((mark) => {
      const own = drawn.filter(({ point }) => point.meets === meets && point.drive === mark.drive);
      return { key: `${meets} ${mark.drive}`, meets, mark, path: outlines(own, mark) };
    }),
  );
  const front = points.filter(({ point }) => point.front).sort((one, other) => one.x - other.x);
  const walk = points
    .filter(({ point }) => point.meets)
    .sort((one, other) => one.x - other.x || other.y - one.y)
    .map(({ point }) => point);
  return {
    byError,
    area,
    rail,
    x,
    y,
    place,
    xAxis: axisBottom<number>(x)
      .tickValues(x.ticks(8).filter(Number.isInteger))
      .tickFormat((value) => printNumber(value))
      .tickSize(area.top - area.bottom)
      .tickPadding(6),
    yAxis: axisLeft<number>(scale)
      .tickValues(decades(scale))
      .tickFormat((value) => (byError ? printNumber(value) : printHz(value)))
      .tickSize(area.left - area.right)
      .tickPadding(8),
    limit: landscape.limit,
    limitText: byError
      ? `tolerance ${printPpm(landscape.limit).replace('+', '')}`
      : landscape.highest === undefined
        ? `at least ${printHz(landscape.limit)}`
        : `${printHz(landscape.limit)} to ${printHz(landscape.highest)}`,
    minBits: landscape.minBits,
    points: points.filter(({ point }) => !byError || point.height <= MAX_PPM),
    clouds,
    front:
      line<Placed>(
        (one) => one.x,
        (one) => one.y,
      )(front) ?? '',
    rings: apart(front).map((one) => ({ ...one, mark: all.find(({ drive }) => drive === one.point.drive) })),
    tree: quadtree(
      points,
      (one) => one.x,
      (one) => one.y,
    ),
    walk,
    round: roundBars(points),
    shown: all.filter(({ drive }) => kept.some((point) => point.drive === drive)),
  };
}
