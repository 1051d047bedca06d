'use client';

import { resolved } from '../../theme/colour.ts';
import { useEffect, useRef, type KeyboardEvent } from 'react';
import { printSeconds } from '@herzschlag/core';
import type { Window } from '../../components/drawing/lanes.ts';
import { useTimeZoom } from '../../components/drawing/useTimeZoom.ts';
import { paintTimeline, PIN, ROW, RULER, timelineHeight, type Shown } from './draw.ts';
import styles from './interrupts.module.css';
import type { TimelineRows } from './rows.ts';

type Props = Shown & {
  data: TimelineRows;
  window: Window;
  width: number;
  night: boolean;
  setWindow: (window: Window) => void;
  select: (row: number) => void;
  press: (event: KeyboardEvent) => void;
};

/** The processor over time on a canvas: the wheel zooms, dragging moves, a click selects an interrupt. */
export function Timeline(props: Props) {
  const { data, window, width, pin, selected, setWindow, select, press } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const height = timelineHeight(data.rows.length, pin !== undefined);

  useEffect(() => {
    const own = canvas.current;
    const context = own?.getContext('2d');
    if (!own || !context || width < 10) return undefined;
    const frame = requestAnimationFrame(() => {
      const scale = globalThis.devicePixelRatio || 1;
      own.width = Math.round(width * scale);
      own.height = Math.round(height * scale);
      context.setTransform(scale, 0, 0, scale, 0, 0);
      paintTimeline(context, data, window, width, props, (colour) => resolved(own, colour));
    });
    return () => cancelAnimationFrame(frame);
  });

  useTimeZoom(canvas, window, width, setWindow);

  const name = data.rows[selected]?.name ?? 'none';
  return (
    <canvas
      ref={canvas}
      className={styles.canvas}
      style={{ width, height }}
      tabIndex={0}
      role="application"
      data-testid="timeline"
      aria-label={`The processor from ${printSeconds(window.from, 6)} to ${printSeconds(window.to, 6)}; selected: ${name}`}
      onKeyDown={press}
      onClick={(event) => {
        const y = event.nativeEvent.offsetY - RULER - (pin ? PIN : 0);
        const row = Math.floor(y / ROW);
        if (row >= 0 && row < data.rows.length) select(row);
      }}
    />
  );
}
