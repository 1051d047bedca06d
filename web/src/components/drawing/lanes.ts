import type { Pen } from './pen.ts';
import { scaleLinear } from 'd3';
import type { EdgeSource, Level } from '@herzschlag/core';

/** The time that is shown, in s. */
export type Window = { from: number; to: number };

/** A row of a lane drawing: where its edges come from, its colour, and where it lies. */
export type Row = { source: EdgeSource; colour: string; top: number; height: number; faint?: boolean };

/** Edges closer than this, in pixels on the average, are shown as activity. */
const DENSE = 0.5;

/** A run of pixels of one kind: a line low or high, or edges that lie closer than pixels. */
export type Stroke =
  | { kind: 'line'; points: [number, number][] }
  | { kind: 'busy'; from: number; to: number };

/** Where a level is drawn: low 0, high 1, one that is not known half way between them. */
function heightOf(level: Level): number {
  return level === 2 ? 0.5 : level;
}

/** The edges within a window, and the moments from which on and until which the level is known. */
function withEnds(source: EdgeSource, { from, to }: Window): Float64Array {
  const edges = source.edges(from, to);
  if (!source.known) return edges;
  const { fromS, toS } = source.known;
  const within = [fromS, toS].filter((at) => at > from && at < to);
  return within.length === 0 ? edges : Float64Array.from([...edges, ...within]).sort();
}

/**
 * What to draw of a source in `width` pixels: exact edges as one line where they are sparse; where they are dense
 * each pixel is asked for the number of its edges, and those with some become busy stretches between straight lines.
 */
export function strokesOf(source: EdgeSource, window: Window, width: number): Stroke[] {
  const { from, to } = window;
  const perPixel = (to - from) / width;
  const x = (s: number): number => (s - from) / perPixel;
  if (source.count(from, to) <= width * DENSE) {
    let level = heightOf(source.level(from));
    const points: [number, number][] = [[0, level]];
    for (const edge of withEnds(source, window)) {
      points.push([x(edge), level]);
      level = edge === source.known?.toS ? heightOf(2) : heightOf(source.level(edge));
      points.push([x(edge), level]);
    }
    points.push([width, level]);
    return [{ kind: 'line', points }];
  }
  const strokes: Stroke[] = [];
  for (let pixel = 0; pixel < width; pixel += 1) {
    const start = from + pixel * perPixel;
    const busy = source.count(start, start + perPixel) > 0;
    const last = strokes[strokes.length - 1];
    if (busy) {
      if (last?.kind === 'busy') last.to = pixel + 1;
      else strokes.push({ kind: 'busy', from: pixel, to: pixel + 1 });
      continue;
    }
    const level = heightOf(source.level(start));
    if (last?.kind === 'line') last.points.push([pixel + 1, level]);
    else
      strokes.push({
        kind: 'line',
        points: [
          [pixel, level],
          [pixel + 1, level],
        ],
      });
  }
  return strokes;
}

/** Draws one row onto a canvas. */
export function drawRow(context: Pen, row: Row, window: Window, width: number): void {
  const { source, colour, top, height, faint } = row;
  const y = (level: number): number => top + (1 - level) * height;
  context.strokeStyle = colour;
  context.fillStyle = colour;
  context.lineWidth = faint ? 1 : 1.5;
  for (const stroke of strokesOf(source, window, width)) {
    if (stroke.kind === 'busy') {
      context.globalAlpha = faint ? 0.2 : 0.34;
      context.fillRect(stroke.from, top, Math.max(1, stroke.to - stroke.from), height);
      context.globalAlpha = 1;
      continue;
    }
    context.beginPath();
    stroke.points.forEach(([px, level], at) => {
      if (at === 0) context.moveTo(px, y(level));
      else context.lineTo(px, y(level));
    });
    context.stroke();
  }
}

/** Sampled values for drawing: how far they reach, and their least and greatest in each of some parts of a time. */
export type Volts = {
  min: number;
  max: number;
  envelope: (fromS: number, toS: number, parts: number) => Float32Array;
  /** The mean between two moments. */
  mean: (oneS: number, otherS: number) => number | undefined;
};

/** Draws sampled values as a line over their lane. */
export function drawVolts(
  context: CanvasRenderingContext2D,
  { min, max, envelope }: Volts,
  window: Window,
  width: number,
  top: number,
  height: number,
  colour: string,
): void {
  const pairs = envelope(window.from, window.to, width);
  const y = (value: number): number => top + height - 6 - ((value - min) / (max - min || 1)) * (height - 12);
  context.strokeStyle = colour;
  context.lineWidth = 1;
  context.beginPath();
  let pen = false;
  for (let pixel = 0; pixel < width; pixel += 1) {
    const [low = NaN, high = NaN] = [pairs[2 * pixel], pairs[2 * pixel + 1]];
    if (Number.isNaN(low)) {
      pen = false;
      continue;
    }
    if (pen) context.lineTo(pixel, y(low));
    else context.moveTo(pixel, y(low));
    if (high !== low) context.lineTo(pixel, y(high));
    pen = true;
  }
  context.stroke();
}

/** A shape of a row in an SVG picture: a line, or an area where edges lie closer than pixels. */
export type RowShape = { kind: 'line'; d: string } | { kind: 'busy'; x: number; width: number };

/** The shapes of a row for an SVG picture. */
export function rowSvgPaths({ source, top, height }: Row, window: Window, width: number): RowShape[] {
  const y = (level: number): string => (top + (1 - level) * height).toFixed(1);
  return strokesOf(source, window, width).map((stroke) =>
    stroke.kind === 'busy'
      ? { kind: 'busy', x: stroke.from, width: stroke.to - stroke.from }
      : {
          kind: 'line',
          d: `M${stroke.points.map(([px, level]) => `${px.toFixed(2)},${y(level)}`).join('L')}`,
        },
  );
}

/** A row as the text of an SVG picture. */
export function rowSvg(row: Row, window: Window, width: number): string {
  const { colour, top, height } = row;
  return rowSvgPaths(row, window, width)
    .map((shape) =>
      shape.kind === 'busy'
        ? `<rect x="${shape.x}" y="${top}" width="${shape.width}" height="${height}" fill="${colour}" opacity="0.34"/>`
        : `<path d="${shape.d}" fill="none" stroke="${colour}" stroke-width="1.5"/>`,
    )
    .join('');
}

/** Round times for the ticks of a ruler, up to about the given number. */
export function rulerTicks({ from, to }: Window, count: number): number[] {
  return scaleLinear([from, to], [0, 1]).ticks(count);
}
