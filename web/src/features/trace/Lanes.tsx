'use client';

import { COLOUR, MONO, resolved } from '../../theme/colour.ts';
import { useEffect, useRef, type KeyboardEvent } from 'react';
import { printSeconds } from '@herzschlag/core';
import { drawRow, drawVolts, rulerTicks, type Row, type Window } from '../../components/drawing/lanes.ts';
import styles from './trace.module.css';
import { shownSource, type TraceLane } from './useLanes.ts';
import { useTimeZoom } from '../../components/drawing/useTimeZoom.ts';

/** Height of the ruler, in pixels. */
export const RULER = 26;

/** Pixels within which the pointer takes an edge for the one that is meant. */
const SNAP = 9;

/** Two cursors in s, and which of them moves. */
export type Cursors = { a: number; b: number; active: 'a' | 'b' };

/** How high each lane is, so that all of them fill the stage as far as they can. */
export function laneHeight(count: number, height: number): number {
  return Math.max(30, Math.min(112, Math.floor((height - RULER) / Math.max(1, count))));
}

/** The rows of a lane: what was computed above, what was captured or simulated below it; one alone takes the whole height. */
export function rowsOf(lane: TraceLane, top: number, height: number): Row[] {
  const { computed, captured, simulated, colour } = lane;
  const inner = height - 12;
  const half = Math.floor((inner - 5) / 2);
  if (computed && captured) {
    return [
      { source: computed, colour, top: top + 6, height: half, faint: true },
      { source: captured, colour: COLOUR.ink, top: top + 6 + inner - half, height: half },
    ];
  }
  if (computed && simulated) {
    return [
      { source: computed, colour, top: top + 6, height: half, faint: true },
      { source: simulated, colour, top: top + 6 + inner - half, height: half },
    ];
  }
  if (captured) return [{ source: captured, colour, top: top + 8, height: inner - 4 }];
  return computed ? [{ source: computed, colour, top: top + 8, height: inner - 4 }] : [];
}

/** The edge of a lane that is nearest to a moment, within a distance. */
function snapped(lane: TraceLane | undefined, at: number, within: number): number {
  const source = shownSource(lane);
  if (!source) return at;
  const [before, after] = [source.previous(at), source.next(at)];
  const near = [before, after].filter(
    (edge) => edge !== undefined && Math.abs(edge - at) <= within,
  ) as number[];
  near.sort((one, other) => Math.abs(one - at) - Math.abs(other - at));
  return near[0] ?? at;
}

type Props = {
  lanes: readonly TraceLane[];
  selected: number;
  window: Window;
  cursors: Cursors;
  width: number;
  height: number;
  night: boolean;
  setWindow: (window: Window) => void;
  setCursor: (which: 'a' | 'b', at: number) => void;
  select: (lane: number) => void;
  press: (event: KeyboardEvent<HTMLCanvasElement>) => void;
};

function paint(canvas: HTMLCanvasElement, { lanes, selected, window, cursors, width, height }: Props): void {
  const context = canvas.getContext('2d');
  if (!context) return;
  const scale = globalThis.devicePixelRatio || 1;
  const [pixels, lines] = [Math.round(width * scale), Math.round(height * scale)];
  if (canvas.width !== pixels) canvas.width = pixels;
  if (canvas.height !== lines) canvas.height = lines;
  context.setTransform(scale, 0, 0, scale, 0, 0);
  const colour = (name: string): string => resolved(canvas, name);
  context.clearRect(0, 0, width, height);
  const each = laneHeight(lanes.length, height);
  context.fillStyle = colour(COLOUR.wash);
  context.fillRect(0, RULER + selected * each, width, each);
  const x = (s: number): number => ((s - window.from) / (window.to - window.from)) * width;
  context.font = `11px ${resolved(canvas, MONO)}`;
  context.textBaseline = 'middle';
  context.lineWidth = 1;
  let written = -Infinity;
  for (const tick of rulerTicks(window, 8)) {
    context.strokeStyle = colour(COLOUR.hair);
    context.beginPath();
    context.moveTo(Math.round(x(tick)) + 0.5, RULER);
    context.lineTo(Math.round(x(tick)) + 0.5, height);
    context.stroke();
    context.fillStyle = colour(COLOUR.soft);
    const text = Math.abs(tick) < 1e-15 ? '0' : printSeconds(tick, 9);
    const { width: length } = context.measureText(text);
    const place = Math.min(width - length - 2, Math.max(2, x(tick) + 4));
    if (place < written + 8) continue;
    written = place + length;
    context.fillText(text, place, RULER / 2);
  }
  lanes.forEach((lane, at) => {
    for (const row of rowsOf(lane, RULER + at * each, each)) {
      drawRow(context, { ...row, colour: colour(row.colour) }, window, width);
    }
    if (lane.volts)
      drawVolts(context, lane.volts, window, width, RULER + at * each, each, colour(COLOUR.soft));
    context.fillStyle = colour(COLOUR.hair);
    context.fillRect(0, RULER + (at + 1) * each - 1, width, 1);
  });
  for (const which of ['a', 'b'] as const) {
    const place = Math.round(x(cursors[which])) + 0.5;
    if (place < -1 || place > width + 1) continue;
    context.strokeStyle = colour(COLOUR.pulse);
    context.lineWidth = cursors.active === which ? 2 : 1.4;
    context.setLineDash(which === 'a' ? [] : [4, 3]);
    context.beginPath();
    context.moveTo(place, RULER - 4);
    context.lineTo(place, height);
    context.stroke();
    context.setLineDash([]);
    context.fillStyle = colour(COLOUR.pulse);
    const flag = which === 'a' ? place - 16 : place;
    context.fillRect(flag, height - 16, 16, 16);
    context.fillStyle = colour(COLOUR.paper);
    context.fillText(which.toUpperCase(), flag + 4.5, height - 7.5);
  }
}

/** The lanes on a canvas: the wheel zooms, dragging moves, a click puts the active cursor on the nearest edge. */
export function Lanes(props: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { lanes, window, width, height, setWindow, setCursor, select, cursors, press } = props;

  useEffect(() => {
    const own = canvas.current;
    if (!own || width < 10) return undefined;
    const frame = requestAnimationFrame(() => paint(own, props));
    return () => cancelAnimationFrame(frame);
  });

  useTimeZoom(canvas, window, width, setWindow);

  return (
    <canvas
      ref={canvas}
      className={styles.canvas}
      style={{ width, height }}
      tabIndex={0}
      role="application"
      aria-label="Waveforms. Left and right go from edge to edge, plus and minus zoom, up and down choose a lane, C changes the cursor."
      data-testid="lanes"
      data-from={window.from}
      data-to={window.to}
      onKeyDown={press}
      onClick={({ nativeEvent: { offsetX, offsetY, shiftKey } }) => {
        const lane = Math.floor((offsetY - RULER) / laneHeight(lanes.length, height));
        if (lane >= 0 && lane < lanes.length) select(lane);
        const perPixel = (window.to - window.from) / width;
        const which = shiftKey ? (cursors.active === 'a' ? 'b' : 'a') : cursors.active;
        setCursor(which, snapped(lanes[lane], window.from + offsetX * perPixel, SNAP * perPixel));
      }}
    />
  );
}
