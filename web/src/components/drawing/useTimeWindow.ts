'use client';

import { useCallback, useMemo, useState } from 'react';
import type { Window } from './lanes.ts';
import { LONGEST_S, SHORTEST_S } from './useTimeZoom.ts';

/** A stretch of time that is shown, and the ways to move it. */
export type TimeWindow = {
  window: Window;
  /** Shows another stretch, unless it is too short or too long to draw. */
  set: (next: Window) => void;
  /** Makes the window longer (above 1) or shorter by a factor; a moment inside it stays where it is, else its middle does. */
  zoom: (by: number, aroundS?: number) => void;
  /** Moves it by a share of its length. */
  shift: (share: number) => void;
  /** Brings a stretch that begins at a moment into it, to its middle where it is outside. */
  bring: (atS: number, lengthS?: number) => void;
  showAll: () => void;
};

/** The window of a view over time: what `first` gives, then where the user moves it; the whole otherwise. */
export function useTimeWindow(fromS: number, toS: number, first?: Window): TimeWindow {
  const [asked, setAsked] = useState<Window | undefined>(first);
  const window = useMemo(() => asked ?? { from: fromS, to: toS }, [asked, fromS, toS]);
  const set = useCallback((next: Window) => {
    const span = next.to - next.from;
    if (span >= SHORTEST_S && span <= LONGEST_S) setAsked(next);
  }, []);
  const { from, to } = window;
  return {
    window,
    set,
    zoom: (by, aroundS) => {
      const centre = aroundS !== undefined && aroundS >= from && aroundS <= to ? aroundS : (from + to) / 2;
      set({ from: centre - (centre - from) * by, to: centre + (to - centre) * by });
    },
    shift: (share) => set({ from: from + (to - from) * share, to: to + (to - from) * share }),
    bring: (atS, lengthS = 0) => {
      if (atS >= from && atS + lengthS <= to) return;
      const span = Math.max(to - from, lengthS * 1.2);
      set({ from: atS - span / 2, to: atS + span / 2 });
    },
    showAll: () => setAsked(undefined),
  };
}
