import { COLOUR } from '../../theme/colour.ts';
import { rowSvg, rulerTicks, type Window } from '../../components/drawing/lanes.ts';
import { printSeconds, xmlText } from '@herzschlag/core';
import { laneHeight, RULER, rowsOf } from './Lanes.tsx';
import type { TraceLane } from './useLanes.ts';

const NAMES = 150;

/** The lanes as an SVG picture of its own, colours put in. */
export function svgPicture(
  lanes: readonly TraceLane[],
  window: Window,
  size: { width: number; height: number },
  colourOf: (name: string) => string,
): string {
  const { width, height } = size;
  const each = laneHeight(lanes.length, height);
  const ink = colourOf(COLOUR.ink);
  const x = (s: number): number => ((s - window.from) / (window.to - window.from)) * width;
  const ruler = rulerTicks(window, 8).map(
    (tick) =>
      `<line x1="${x(tick).toFixed(1)}" x2="${x(tick).toFixed(1)}" y1="${RULER}" y2="${height}" stroke="${colourOf(COLOUR.hair)}"/>` +
      `<text x="${(x(tick) + 4).toFixed(1)}" y="17">${printSeconds(tick, 9)}</text>`,
  );
  const rows = lanes.flatMap((lane, at) =>
    rowsOf(lane, RULER + at * each, each).map((row) =>
      rowSvg({ ...row, colour: colourOf(row.colour) }, window, width),
    ),
  );
  const names = lanes.map(
    (lane, at) => `<text x="8" y="${RULER + at * each + each / 2 + 4}">${xmlText(lane.name)}</text>`,
  );
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width + NAMES} ${height}" font-family="sans-serif" font-size="11" fill="${ink}">`,
    `<rect width="100%" height="100%" fill="${colourOf(COLOUR.paper)}"/>`,
    ...names,
    `<g transform="translate(${NAMES} 0)">`,
    ...ruler,
    ...rows,
    '</g>',
    '</svg>',
    '',
  ].join('\n');
}
