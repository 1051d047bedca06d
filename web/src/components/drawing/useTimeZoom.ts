'use client';

import { useEffect, type RefObject } from 'react';
import { select, zoom, ZoomTransform, type D3ZoomEvent } from 'd3';
import type { Window } from './lanes.ts';

/** The shortest and the longest time that the window shows, in s. */
export const SHORTEST_S = 1e-9;
export const LONGEST_S = 1e6;

/** Shift and a full turn of the wheel move the window by about a tenth of its length. */
const WHEEL_TRAVEL = 900;

/** Scales by at most e with one event of the wheel. */
function wheelPower({ deltaY }: WheelEvent): number {
  return -Math.max(-1, Math.min(1, deltaY / 300)) / Math.LN2;
}

/** The transform under which a window fills the width, where 1 s fills it without one. */
export function transformOf({ from, to }: Window, width: number): ZoomTransform {
  const scale = 1 / (to - from);
  return new ZoomTransform(scale, -from * scale * width, 0);
}

/** The window that a transform shows. */
export function windowOf({ k, x }: ZoomTransform, width: number): Window {
  const from = -x / (k * width);
  return { from, to: from + 1 / k };
}

/** The wheel, a drag and two fingers change the window; Shift and the wheel move it. A click stays a click. */
export function useTimeZoom(
  canvas: RefObject<HTMLCanvasElement | null>,
  window: Window,
  width: number,
  setWindow: (window: Window) => void,
): void {
  useEffect(() => {
    const own = canvas.current;
    if (!own || width < 10) return undefined;
    const behaviour = zoom<HTMLCanvasElement, unknown>()
      .scaleExtent([1 / LONGEST_S, 1 / SHORTEST_S])
      .clickDistance(3)
      .wheelDelta(wheelPower)
      .filter((event: MouseEvent) => !event.button && !(event.type === 'wheel' && event.shiftKey))
      .on('zoom', ({ transform }: D3ZoomEvent<HTMLCanvasElement, unknown>) =>
        setWindow(windowOf(transform, width)),
      );
    const selection = select(own).call(behaviour).on('dblclick.zoom', null);
    return () => {
      selection.on('.zoom', null);
    };
  }, [canvas, width, setWindow]);

  // The window also changes by keys, buttons and searches: the next gesture starts from what is shown.
  useEffect(() => {
    if (canvas.current) select(canvas.current).property('__zoom', transformOf(window, width));
  }, [canvas, window, width]);

  useEffect(() => {
    const own = canvas.current;
    if (!own) return undefined;
    const move = (event: WheelEvent): void => {
      if (!event.shiftKey) return;
      event.preventDefault();
      const by = ((window.to - window.from) * (event.deltaX || event.deltaY)) / WHEEL_TRAVEL;
      setWindow({ from: window.from + by, to: window.to + by });
    };
    own.addEventListener('wheel', move, { passive: false });
    return () => own.removeEventListener('wheel', move);
  }, [canvas, window, setWindow]);
}
