'use client';

import { useSearchParams } from 'next/navigation';
import { useState } from 'react';
import type { Window } from '../../components/drawing/lanes.ts';
import { useTimeWindow, type TimeWindow } from '../../components/drawing/useTimeWindow.ts';
import type { TimelineRows } from './rows.ts';
import type { Picture } from './rows.ts';

/** A window around a moment, at least 20 µs long. */
function around(at: number, span = 0): Window {
  const half = Math.max(span, 2e-5) / 2;
  return { from: at - half, to: at + half };
}

/** What of a simulation is shown: the selected row, the marked moment, the stretch of time. */
export type ShownTimeline = {
  selected: number;
  select: (row: number) => void;
  atS: number | undefined;
  /** Marks a moment and shows what is around it, as wide as the selected row's worst wait asks. */
  show: (atS: number) => void;
  /** Marks the next lost event, after the last one the first; gives whether there is any. */
  nextLoss: () => boolean;
  view: TimeWindow;
};

/** What is shown of a simulation; it begins with what the page's address names: a task or a signal, and a moment. */
export function useShown(picture: Picture | undefined, data: TimelineRows | undefined): ShownTimeline {
  const asked = useSearchParams();
  const [wanted, setWanted] = useState(asked.get('task') ?? asked.get('signal') ?? '');
  const startS = Number(asked.get('at') ?? NaN);
  const [atS, setAtS] = useState(Number.isFinite(startS) ? startS : undefined);
  const rows = picture?.report.rows ?? [];
  const selected = Math.max(
    0,
    rows.findIndex(({ id, task, signals }) => id === wanted || task === wanted || signals.includes(wanted)),
  );
  const seconds = picture?.report.seconds ?? 1;
  const view = useTimeWindow(-0.02 * seconds, 1.02 * seconds, atS === undefined ? undefined : around(atS));
  const show = (at: number): void => {
    setAtS(at);
    view.set(around(at, 24 * (rows[selected]?.response.worstS ?? 0)));
  };
  return {
    selected,
    select: (at) => setWanted(rows[at]?.id ?? ''),
    atS,
    show,
    nextLoss: () => {
      const all = (data?.rows ?? [])
        .flatMap(({ losses }) => Array.from(losses, (cycle) => cycle / (data?.cpuHz ?? 1)))
        .sort((one, other) => one - other);
      const next = all.find((loss) => loss > (atS ?? -1) + 1e-12) ?? all[0];
      if (next !== undefined) show(next);
      return next !== undefined;
    },
    view,
  };
}
