'use client';

import { useCallback, useState } from 'react';
import { nextPulse, printSeconds, type SignalEvaluation } from '@herzschlag/core';
import type { TimeWindow } from '../../components/drawing/useTimeWindow.ts';
import { jump, readSearch, type Jump } from './jumps.ts';
import type { Cursors } from './Lanes.tsx';
import { shownSource, type TraceLane } from './useLanes.ts';

/** What the view says about the last thing that was asked of it. */
type Said = { text: string; fault: boolean };

/** The two cursors of the trace, and what is found along a lane for them. */
export type CursorState = {
  cursors: Cursors;
  set: (which: 'a' | 'b', at: number) => void;
  /** Makes the other cursor the one that keys move. */
  change: () => void;
  /** Moves the active cursor to a moment and shows it. */
  goTo: (at: number) => void;
  /** Puts both cursors around the next failure or glitch. */
  jumpTo: (what: Jump) => void;
  /** Puts both cursors around the next pulse of a length that is described in words. */
  search: (text: string) => void;
  said: Said | undefined;
  say: (said: Said) => void;
};

/** Cursors on a lane whose signal evaluates to `outcome`, over a window. */
export function useCursors(
  lane: TraceLane | undefined,
  outcome: SignalEvaluation | undefined,
  view: TimeWindow,
  secondS: number,
): CursorState {
  const [cursors, setCursors] = useState<Cursors>({ a: 0, b: secondS, active: 'a' });
  const [said, say] = useState<Said>();
  const name = lane?.name ?? 'this lane';
  const set = useCallback((which: 'a' | 'b', at: number) => {
    setCursors((now) => ({ ...now, [which]: at, active: which }));
  }, []);
  const showFound = (found: { fromS: number; toS: number } | undefined, none: string): void => {
    if (!found) return say({ text: none, fault: false });
    const length = found.toS - found.fromS;
    setCursors((now) => ({ ...now, a: found.fromS, b: found.toS, active: 'a' }));
    view.set({ from: found.fromS - 6 * length, to: found.toS + 6 * length });
    say({ text: `${printSeconds(length, 6)} at ${printSeconds(found.fromS, 9)}`, fault: false });
  };
  return {
    cursors,
    set,
    change: () => setCursors((now) => ({ ...now, active: now.active === 'a' ? 'b' : 'a' })),
    goTo: (at) => {
      set(cursors.active, at);
      view.bring(at);
    },
    jumpTo: (what) => showFound(jump(lane, outcome, what, cursors.a), `No further ${what} on ${name}.`),
    search: (text) => {
      const reading = readSearch(text);
      if (!reading.ok) return say({ text: reading.fault.sentence, fault: true });
      const source = shownSource(lane);
      showFound(
        source && nextPulse(source, cursors.a, reading.value),
        `No further pulse like that on ${name}.`,
      );
    },
    said,
    say,
  };
}
