import { xmlText } from '@herzschlag/core';
import type { Window } from '../../components/drawing/lanes.ts';
import { svgPen } from '../../components/drawing/pen.ts';
import { COLOUR } from '../../theme/colour.ts';
import { MAIN, paintTimeline, PIN, ROW, RULER, timelineHeight, type Shown } from './draw.ts';
import type { TimelineRows } from './rows.ts';

/** Room for the names left of the rows. */
const NAMES = 180;

/** The timeline with the names of its rows as an SVG file of its own, colours put in. */
export function timelineSvg(
  data: TimelineRows,
  names: readonly string[],
  window: Window,
  width: number,
  shown: Shown,
  colourOf: (name: string) => string,
): string {
  const { pen, elements } = svgPen();
  paintTimeline(pen, data, window, width, shown, colourOf);
  const height = timelineHeight(data.rows.length, shown.pin !== undefined);
  const first = RULER + (shown.pin ? PIN : 0);
  const labels = [
    ...(shown.pin ? [{ text: shown.pin.name, y: RULER + PIN / 2 }] : []),
    ...names.map((text, at) => ({ text, y: first + at * ROW + ROW / 2 })),
    { text: 'main loop', y: first + names.length * ROW + MAIN / 2 },
  ];
  const ink = colourOf(COLOUR.ink);
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width + NAMES} ${height}" width="${width + NAMES}" height="${height}">`,
    `<rect width="100%" height="100%" fill="${colourOf(COLOUR.paper)}"/>`,
    ...labels.map(
      ({ text, y }) =>
        `<text x="8" y="${y}" dominant-baseline="central" font-family="sans-serif" font-size="12" fill="${ink}">${xmlText(text)}</text>`,
    ),
    `<svg x="${NAMES}" width="${width}" height="${height}">`,
    ...elements,
    '</svg>',
    '</svg>',
    '',
  ].join('\n');
}
