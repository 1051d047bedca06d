import type { EdgeSource, Level } from '@herzschlag/core';

/** The stretch of time that is shown, in s. */
export type Window = { from: number; to: number };

/** A row of a lane drawing: where its edges come from, its colour, and where it lies. */
export type Row = { source: EdgeSource; colour: string; top: number; height: number; faint?: boolean };

/** Edges closer than this, in pixels on the average, are shown as activity. */
const DENSE = 0.5;

/** A run of pixels of one kind: a line low or high, or edges that lie closer than pixels. */
export type Stroke =
  { kind: 'line'; points: [number, number][] } | { kind: 'busy'; from: number; to: number };

/** Where a level is drawn: low 0, high 1, one that is not known half way between them. */
function heightOf(level: Level): number {
  return level === 2 ? 0.5 : level;
}

/**
 * What of a source is to be drawn in so many pixels: exact edges as one line where they are sparse; where they are dense
 * each pixel is asked for the number of its edges, and those with some become busy stretches between straight lines.
 */
export function strokesOf(source: EdgeSource, window: Window, width: number): Stroke[] {
  const { from, to } = window;
  const perPixel = (to - from) / width;
  const x = (s: number): number => (s - from) / perPixel;
  if (source.count(from, to) <= width * DENSE) {
    let level = heightOf(source.level(from));
    const points: [number, number][] = [[0, level]];
    for (const edge of source.edges(from, to)) {
      points.push([x(edge), level]);
      level = heightOf(source.level(edge));
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
export function drawRow(context: CanvasRenderingContext2D, row: Row, window: Window, width: number): void {
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

/** A row as a path of an SVG picture. */
export function rowSvg({ source, colour, top, height }: Row, window: Window, width: number): string {
  const y = (level: number): string => (top + (1 - level) * height).toFixed(1);
  return strokesOf(source, window, width)
    .map((stroke) =>
      stroke.kind === 'busy'
        ? `<rect x="${stroke.from}" y="${top}" width="${stroke.to - stroke.from}" height="${height}" fill="${colour}" opacity="0.34"/>`
        : `<path d="M${stroke.points.map(([px, level]) => `${px.toFixed(2)},${y(level)}`).join('L')}" fill="none" stroke="${colour}" stroke-width="1.5"/>`,
    )
    .join('');
}

/** Times for the marks of a ruler: round ones, about so many. */
export function rulerTicks({ from, to }: Window, count: number): number[] {
  const rough = (to - from) / count;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((times) => times * power).find((one) => one >= rough) ?? power;
  const first = Math.ceil(from / step - 1e-9);
  const last = Math.floor(to / step + 1e-9);
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, at) => (first + at) * step);
}
