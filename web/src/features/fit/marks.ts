import { allDrives, type Drive } from '@herzschlag/core';

type Corners = readonly (readonly [number, number])[];

/** How a drive is marked in the landscape: its sign in the text, and the corners of its mark in radii; a disc has none. */
export type Mark = { drive: string; short: string; sign: string; corners?: Corners; filled: boolean };

const DISC = { sign: '●', filled: true };

/** Shapes in the order in which drives take them. */
const SHAPES: readonly { sign: string; corners: Corners }[] = [
  {
    sign: '△',
    corners: [
      [0, -1.2],
      [1.1, 0.8],
      [-1.1, 0.8],
    ],
  },
  {
    sign: '□',
    corners: [
      [-0.9, -0.9],
      [0.9, -0.9],
      [0.9, 0.9],
      [-0.9, 0.9],
    ],
  },
  {
    sign: '◇',
    corners: [
      [0, -1.2],
      [1.2, 0],
      [0, 1.2],
      [-1.2, 0],
    ],
  },
  {
    sign: '▽',
    corners: [
      [-1.1, -0.8],
      [1.1, -0.8],
      [0, 1.2],
    ],
  },
  {
    sign: '▭',
    corners: [
      [-1.2, -0.4],
      [1.2, -0.4],
      [1.2, 0.4],
      [-1.2, 0.4],
    ],
  },
  {
    sign: '⬡',
    corners: [
      [0, -1.2],
      [1.1, -0.6],
      [1.1, 0.6],
      [0, 1.2],
      [-1.1, 0.6],
      [-1.1, -0.6],
    ],
  },
];

/** The mark of each drive: a disc for the first, then a shape for each; there are as many signs as shapes. */
export function marks(drives: readonly Drive[] = allDrives()): Mark[] {
  return drives.map(({ id, short }, at) => ({
    drive: id,
    short,
    ...(at === 0 ? DISC : { ...(SHAPES[(at - 1) % SHAPES.length] ?? DISC), filled: false }),
  }));
}

/** A mark's outline around (x, y). */
export function markPath({ corners }: Mark, radius: number, x = 0, y = 0): string {
  const at = (dx: number, dy: number): string =>
    `${(x + dx * radius).toFixed(1)},${(y + dy * radius).toFixed(1)}`;
  if (corners) return `M${corners.map(([dx, dy]) => at(dx, dy)).join('L')}Z`;
  const arc = `a${radius},${radius} 0 1,0`;
  return `M${at(-1, 0)}${arc} ${2 * radius},0${arc} ${-2 * radius},0Z`;
}
