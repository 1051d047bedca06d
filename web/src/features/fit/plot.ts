import { line, quadtree, scaleLinear, scaleLog, type Quadtree } from 'd3';
import { DRIVE_ORDER, type DriveId, type Landscape, type Point, printHz, printNumber, printPpm } from '@herzschlag/core';

/** The drawing's size in its own units; it scales with the page. */
export const SIZE = { width: 600, height: 286 } as const;

/** A point with its place in the drawing. */
export type Placed = { x: number; y: number; point: Point };

/** The landscape laid out: scales, ticks, shapes, and a tree to find the point under the pointer. */
export type Plot = {
  byError: boolean;
  area: { left: number; right: number; top: number; bottom: number };
  rail: number;
  x: (bits: number) => number;
  y: (height: number) => number;
  place: (bits: number, height: number) => [number, number];
  xTicks: number[];
  yTicks: { value: number; text: string }[];
  limit: number;
  limitText: string;
  minBits: number;
  points: Placed[];
  clouds: { key: string; path: string; meets: boolean; drive: DriveId }[];
  front: string;
  /** Those of the front's points that stand far enough apart to be drawn as rings. */
  rings: Placed[];
  tree: Quadtree<Placed>;
  /** Which drives there are points of. */
  drives: DriveId[];
  /** The points in the order the arrow keys go through them. */
  walk: Point[];
};

const MIN_PPM = 0.1;
const MAX_PPM = 1e5;

/** Corners of the marks that are not round, in radii: a triangle, a square, a diamond, a cross, a bar. */
const CORNERS: Partial<Record<DriveId, readonly (readonly [number, number])[]>> = {
  toggle: [
    [0, -1.2],
    [1.1, 0.8],
    [-1.1, 0.8],
  ],
  interrupt: [
    [-0.9, -0.9],
    [0.9, -0.9],
    [0.9, 0.9],
    [-0.9, 0.9],
  ],
  'software-pwm': [
    [0, -1.2],
    [1.2, 0],
    [0, 1.2],
    [-1.2, 0],
  ],
  'interrupt-pair': [
    [-1.1, -0.8],
    [1.1, -0.8],
    [0, 1.2],
  ],
  capture: [
    [0, -1.2],
    [1.1, -0.6],
    [1.1, 0.6],
    [0, 1.2],
    [-1.1, 0.6],
    [-1.1, -0.6],
  ],
  'delay-loop': [
    [-1.2, -0.4],
    [1.2, -0.4],
    [1.2, 0.4],
    [-1.2, 0.4],
  ],
};

/** A mark's outline around (x, y): a disc for compare outputs, shapes with corners for all other drives. */
export function markPath(drive: DriveId, radius: number, x = 0, y = 0): string {
  const at = (dx: number, dy: number): string =>
    `${(x + dx * radius).toFixed(1)},${(y + dy * radius).toFixed(1)}`;
  const corners = CORNERS[drive];
  if (corners) return `M${corners.map(([dx, dy]) => at(dx, dy)).join('L')}Z`;
  const arc = `a${radius},${radius} 0 1,0`;
  return `M${at(-1, 0)}${arc} ${2 * radius},0${arc} ${-2 * radius},0Z`;
}

function marks(points: readonly Placed[], drive: DriveId): string {
  return points.map(({ x, y }) => markPath(drive, drive === 'pwm' ? 2 : 3.2, x, y)).join('');
}

function frequencyTicks(low: number, high: number): { value: number; text: string }[] {
  const ticks: { value: number; text: string }[] = [];
  for (let value = 10 ** Math.ceil(Math.log10(low)); value <= high; value *= 10)
    ticks.push({ value, text: printHz(value) });
  return ticks;
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
    DRIVE_ORDER.map((drive) => {
      const own = drawn.filter(({ point }) => point.meets === meets && point.drive === drive);
      return { key: `${meets} ${drive}`, meets, drive, path: marks(own, drive) };
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
    xTicks: x.ticks(8).filter(Number.isInteger),
    yTicks: byError
      ? [0.1, 1, 10, 100, 1000, 10000, 100000].map((value) => ({ value, text: printNumber(value) }))
      : frequencyTicks(...domain),
    limit: landscape.limit,
    limitText: byError
      ? `tolerance ${printPpm(landscape.limit).replace('+', '')}`
      : `at least ${printHz(landscape.limit)}`,
    minBits: landscape.minBits,
    points: points.filter(({ point }) => !byError || point.height <= MAX_PPM),
    clouds,
    front:
      line<Placed>(
        (one) => one.x,
        (one) => one.y,
      )(front) ?? '',
    rings: apart(front),
    tree: quadtree(
      points,
      (one) => one.x,
      (one) => one.y,
    ),
    walk,
    drives: DRIVE_ORDER.filter((drive) => kept.some((point) => point.drive === drive)),
  };
}
