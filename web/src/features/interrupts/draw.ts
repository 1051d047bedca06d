import { COLOUR, MONO } from '../../theme/colour.ts';
import { bisectLeft } from 'd3';
import { printSeconds, type EdgeSource } from '@herzschlag/core';
import { drawRow, rulerTicks, type Window } from '../../components/drawing/lanes.ts';
import type { Pen } from '../../components/drawing/pen.ts';
import type { Stretches, TimelineRows } from './rows.ts';

/** Heights in pixels: the ruler, the pin above, each interrupt, the main loop. */
export const RULER = 24;
export const PIN = 44;
export const ROW = 34;
export const MAIN = 40;

/** The pin that is drawn above the interrupts. */
export type Pin = { name: string; source: EdgeSource; colour: string };

/** Height of the whole timeline. */
export function timelineHeight(rows: number, pin: boolean): number {
  return RULER + (pin ? PIN : 0) + rows * ROW + MAIN;
}

/** The share of each pixel that stretches cover, for a window in cycles. */
function coverage({ from, to }: Stretches, start: number, end: number, width: number): Float32Array {
  const shares = new Float32Array(width);
  const each = (end - start) / width;
  // The stretch before may reach into the window.
  for (let i = Math.max(0, bisectLeft(from, start) - 1); i < from.length; i += 1) {
    const [a, b] = [Math.max(start, from[i] ?? 0), Math.min(end, to[i] ?? 0)];
    if ((from[i] ?? 0) >= end) break;
    if (b <= a) continue;
    const first = Math.floor((a - start) / each);
    const last = Math.min(width - 1, Math.floor((b - start) / each));
    for (let pixel = Math.max(0, first); pixel <= last; pixel += 1) {
      const low = start + pixel * each;
      shares[pixel] = (shares[pixel] ?? 0) + (Math.min(b, low + each) - Math.max(a, low)) / each;
    }
  }
  return shares;
}

type Brush = {
  context: Pen;
  width: number;
  start: number;
  end: number;
  /** A colour or a font of the theme, looked up. */
  colour: (name: string) => string;
};

/** Stretches as bars; where several fall into a pixel, as high as the share that they cover. */
function bars(brush: Brush, stretches: Stretches, top: number, height: number): void {
  const { context, width, start, end } = brush;
  const count = bisectLeft(stretches.from, end) - bisectLeft(stretches.from, start);
  if (count > width / 3) {
    coverage(stretches, start, end, width).forEach((share, pixel) => {
      if (share === 0) return;
      const high = Math.max(2, Math.min(1, share) * height);
      context.fillRect(pixel, top + height - high, 1, high);
    });
    return;
  }
  const x = (cycle: number): number => ((cycle - start) / (end - start)) * width;
  for (let i = Math.max(0, bisectLeft(stretches.from, start) - 1); i < stretches.from.length; i += 1) {
    const [a, b] = [stretches.from[i] ?? 0, stretches.to[i] ?? 0];
    if (a > end) return;
    if (b < start) continue;
    const left = Math.max(-2, x(a));
    context.fillRect(left, top, Math.max(1, Math.min(width + 2, x(b)) - left), height);
  }
}

/** Where an event waits: a line from the event to its handler, which a short stroke begins. */
function waits(brush: Brush, { from, to }: Stretches, top: number, height: number): void {
  const { context, width, start, end } = brush;
  const x = (cycle: number): number => ((cycle - start) / (end - start)) * width;
  const first = Math.max(0, bisectLeft(from, start) - 1);
  const count = bisectLeft(from, end) - first;
  if (count > width / 3) return;
  for (let i = first; i < first + count; i += 1) {
    const [a, b] = [x(from[i] ?? 0), x(to[i] ?? 0)];
    context.fillRect(a - 0.5, top, 1.5, height);
    if (b - a > 1.5) context.fillRect(a, top + height / 2 - 1, b - a, 2);
  }
}

function crosses(brush: Brush, at: Float64Array, top: number): void {
  const { context, width, start, end } = brush;
  const x = (cycle: number): number => ((cycle - start) / (end - start)) * width;
  context.lineWidth = 1.6;
  context.strokeStyle = brush.colour(COLOUR.fail);
  let before = -Infinity;
  for (let i = bisectLeft(at, start); i < at.length && (at[i] ?? 0) <= end; i += 1) {
    const place = x(at[i] ?? 0);
    if (place < before + 2) continue;
    before = place;
    context.beginPath();
    context.moveTo(place - 4, top);
    context.lineTo(place + 4, top + 8);
    context.moveTo(place + 4, top);
    context.lineTo(place - 4, top + 8);
    context.stroke();
  }
}

function ruler({ context, width, colour }: Brush, window: Window, height: number): void {
  context.font = `11px ${colour(MONO)}`;
  context.textBaseline = 'middle';
  context.lineWidth = 1;
  let written = -Infinity;
  for (const tick of rulerTicks(window, 8)) {
    const place = ((tick - window.from) / (window.to - window.from)) * width;
    context.strokeStyle = colour(COLOUR.hair);
    context.beginPath();
    context.moveTo(Math.round(place) + 0.5, RULER);
    context.lineTo(Math.round(place) + 0.5, height);
    context.stroke();
    const text = Math.abs(tick) < 1e-15 ? '0' : printSeconds(tick, 9);
    const { width: length } = context.measureText(text);
    const left = Math.min(width - length - 2, Math.max(2, place + 4));
    if (left < written + 8) continue;
    written = left + length;
    context.fillStyle = colour(COLOUR.soft);
    context.fillText(text, left, RULER / 2);
  }
}

/** Once a cycle is so many pixels wide, each is marked. */
const CYCLE_PIXELS = 6;

function cycleMarks({ context, width, start, end, colour }: Brush, top: number): void {
  if (width / (end - start) < CYCLE_PIXELS) return;
  context.fillStyle = colour(COLOUR.faint);
  for (let cycle = Math.ceil(start); cycle <= end; cycle += 1) {
    context.fillRect(((cycle - start) / (end - start)) * width - 0.5, top, 1, 4);
  }
}

/** What is drawn over the timeline: the selected row, and a moment that is looked at. */
export type Shown = { selected: number; atS: number | undefined; pin: Pin | undefined };

/** Draws the timeline: the pin, each interrupt with its waits and losses, the main loop with its masked sections. */
export function paintTimeline(
  context: Pen,
  data: TimelineRows,
  window: Window,
  width: number,
  { selected, atS, pin }: Shown,
  colour: (name: string) => string,
): void {
  const { rows, masked, handlers, cpuHz, cycles } = data;
  const height = timelineHeight(rows.length, pin !== undefined);
  const [start, end] = [window.from * cpuHz, window.to * cpuHz];
  const brush: Brush = { context, width, start, end, colour };
  const first = RULER + (pin ? PIN : 0);
  context.clearRect(0, 0, width, height);
  context.fillStyle = colour(COLOUR.wash);
  if (selected < rows.length) context.fillRect(0, first + selected * ROW, width, ROW);
  ruler(brush, window, height);
  cycleMarks(brush, RULER - 4);
  if (pin) {
    const row = { source: pin.source, colour: colour(pin.colour), top: RULER + 9, height: PIN - 20 };
    drawRow(context, row, window, width);
    context.fillStyle = colour(COLOUR.hair);
    context.fillRect(0, first - 1, width, 1);
  }
  rows.forEach((row, at) => {
    const top = first + at * ROW;
    context.fillStyle = colour(row.colour);
    bars(brush, row.runs, top + 14, 14);
    context.globalAlpha = 0.75;
    waits(brush, row.waits, top + 5, 7);
    context.globalAlpha = 1;
    crosses(brush, row.losses, top + 4);
    context.fillStyle = colour(COLOUR.hair);
    context.fillRect(0, top + ROW - 1, width, 1);
  });
  const top = first + rows.length * ROW;
  const [left, right] = [0, Math.min(end, cycles)].map((cycle) => ((cycle - start) / (end - start)) * width);
  context.fillStyle = colour(COLOUR.line);
  context.fillRect(
    Math.max(0, left ?? 0),
    top + 12,
    Math.max(0, (right ?? width) - Math.max(0, left ?? 0)),
    16,
  );
  context.fillStyle = colour(COLOUR.paper);
  bars(brush, handlers, top + 12, 16);
  context.fillStyle = colour(COLOUR.pulse);
  context.globalAlpha = 0.55;
  bars(brush, masked, top + 12, 16);
  context.globalAlpha = 1;
  if (atS !== undefined && atS >= window.from && atS <= window.to) {
    const place = Math.round(((atS - window.from) / (window.to - window.from)) * width) + 0.5;
    context.strokeStyle = colour(COLOUR.pulse);
    context.lineWidth = 1.5;
    context.beginPath();
    context.moveTo(place, RULER - 4);
    context.lineTo(place, height);
    context.stroke();
  }
}
