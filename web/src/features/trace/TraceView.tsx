'use client';

import { useEffect, useEffectEvent, useRef, useState } from 'react';
import { shownPeriod } from '../../components/drawing/wave.ts';
import { scaleOf } from '../../components/drawing/timeScale.ts';
import { useTimeWindow, type TimeWindow } from '../../components/drawing/useTimeWindow.ts';
import { SHORTEST_S } from '../../components/drawing/useTimeZoom.ts';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { press, type Keys } from '../../components/hooks/keys.ts';
import { useSize } from '../../components/hooks/useSize.ts';
import { useStill } from '../../components/hooks/useStill.ts';
import { AddSignal } from '../../components/signals/AddSignal.tsx';
import { useNight } from '../../theme/useNight.ts';
import { captureTaken, useLeftCapture } from '../../state/left-capture.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import { Findings } from './Findings.tsx';
import { Histogram } from './Histogram.tsx';
import { LaneChecks, LaneNames } from './LaneNames.tsx';
import { Lanes } from './Lanes.tsx';
import { Readout } from './Readout.tsx';
import { saveTrace } from './saving.ts';
import styles from './trace.module.css';
import { TraceActions } from './TraceActions.tsx';
import { TraceBar } from './TraceBar.tsx';
import { useCapture } from './useCapture.ts';
import { useCursors, type CursorState } from './useCursors.ts';
import { shownSource, useLanes, type TraceLane } from './useLanes.ts';

/** The window counts as still once it has not moved for so long. */
const STILL_MS = 140;

/** What keys do on the lanes. `pixelS` is the time of one pixel, `step` selects the lane above or below. */
function keysOf(
  { cursors, change, goTo, jumpTo }: CursorState,
  view: TimeWindow,
  { lane, pixelS, step }: { lane: TraceLane | undefined; pixelS: number; step: (by: number) => void },
): Keys {
  const at = cursors[cursors.active];
  const source = shownSource(lane);
  const move = (to: number | undefined): void => {
    if (to !== undefined) goTo(to);
  };
  return {
    ArrowLeft: ({ shiftKey }) => move(shiftKey ? at - pixelS : source?.previous(at)),
    ArrowRight: ({ shiftKey }) => move(shiftKey ? at + pixelS : source?.next(at)),
    ArrowUp: () => step(-1),
    ArrowDown: () => step(1),
    '+': () => view.zoom(0.5, at),
    '=': () => view.zoom(0.5, at),
    '-': () => view.zoom(2, at),
    PageUp: () => view.shift(-1),
    PageDown: () => view.shift(1),
    Home: view.showAll,
    c: change,
    m: () => jumpTo('failure'),
    g: () => jumpTo('glitch'),
  };
}

function NoSignals() {
  return (
    <div className={styles.empty}>
      <h1 className="serif">No signals yet.</h1>
      <p className="soft">Each signal of the plan is drawn here, tick by tick; a capture is drawn over it.</p>
      <AddSignal wide />
    </div>
  );
}

/** All signals over time, computed and captured: lanes, cursors, checks, and what a capture says about the plan. */
export function TraceView() {
  const { plan, planId, evaluation, signal: shown, report } = usePlanContext();
  const { night } = useNight();
  const editor = useCapture(planId, plan, report);
  const left = useLeftCapture(planId);
  const openLeft = useEffectEvent((file: File) => {
    captureTaken();
    editor.open(file);
  });
  useEffect(() => {
    if (left) openLeft(left);
  }, [left]);
  const [selectedId, setSelectedId] = useState(shown?.id ?? '');
  const [onPlanClock, setOnPlanClock] = useState(true);
  const { lanes } = useLanes(editor, selectedId, onPlanClock);
  const [stage, size] = useSize();
  const board = useRef<HTMLDivElement>(null);
  const seconds = scaleOf(
    evaluation.signals.flatMap(({ outcome }) => (outcome ? [shownPeriod(outcome)] : [])),
  );
  const view = useTimeWindow(-0.02 * seconds, seconds);
  const settled = useStill(view.window, STILL_MS);
  const selected = Math.max(
    0,
    lanes.findIndex((lane) => lane.id === selectedId),
  );
  const lane = lanes[selected];
  const outcome = evaluation.signals.find(({ signal }) => signal.id === lane?.id)?.outcome;
  const cursors = useCursors(lane, outcome, view, seconds / 5);
  if (plan.signals.length === 0) return <NoSignals />;

  const select = (at: number): void => setSelectedId(lanes[at]?.id ?? '');
  const keys = keysOf(cursors, view, {
    lane,
    pixelS: (view.window.to - view.window.from) / size.width,
    step: (by) => select(Math.min(lanes.length - 1, Math.max(0, selected + by))),
  });
  const save = (kind: string): void => {
    const { window } = view;
    const until = Math.max(window.to, SHORTEST_S);
    saveTrace({ kind, plan, lanes, lane: lane?.id ?? '', window, size, until, board: board.current })
      .then((fault) => fault !== undefined && report(fault))
      .catch((error: unknown) => report(sentenceOfError(error)));
  };
  return (
    <div className={styles.trace}>
      <TraceBar {...{ view, cursors, editor, onPlanClock, setOnPlanClock }} />
      <div className={styles.stage}>
        <LaneNames lanes={lanes} selected={selected} height={size.height} select={select} />
        <div className={styles.board} ref={stage}>
          <div ref={board}>
            <Lanes
              lanes={lanes}
              selected={selected}
              window={view.window}
              cursors={cursors.cursors}
              width={size.width}
              height={size.height}
              night={night}
              setWindow={view.set}
              setCursor={cursors.set}
              select={select}
              press={(event) => press(keys, event)}
            />
          </div>
        </div>
        <LaneChecks lanes={lanes} editor={editor} height={size.height} />
      </div>
      <div className={styles.foot}>
        <div>
          <Readout lane={lane} cursors={cursors.cursors} />
          <TraceActions lane={lane} cursors={cursors} save={save} />
        </div>
        <Histogram lane={lane} window={settled} />
        <Findings editor={editor} />
      </div>
    </div>
  );
}
