'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import { useNight } from '../../theme/useNight.ts';
import { useCallback, useMemo, useRef, useState, type DragEvent, type KeyboardEvent } from 'react';
import { nextPulse, printSeconds } from '@herzschlag/core';
import { shownPeriod } from '../../components/drawing/wave.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import type { Window } from '../../components/drawing/lanes.ts';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { TextBox } from '../../components/fields/TextBox.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { AddSignal } from '../../components/signals/AddSignal.tsx';
import { scaleOf } from '../../components/drawing/timeScale.ts';
import { Bookmarks } from './Bookmarks.tsx';
import { CaptureBar } from './CaptureBar.tsx';
import { Findings } from './Findings.tsx';
import { Histogram } from './Histogram.tsx';
import { risingEdges, withInterruptsAt } from './captured-interrupts.ts';
import { jump, readSearch, type Jump } from './jumps.ts';
import { LaneLoad } from './LaneLoad.tsx';
import { LaneChecks, LaneNames } from './LaneNames.tsx';
import { Lanes, type Cursors } from './Lanes.tsx';
import { saveTrace } from './saving.ts';
import { measureText, Readout } from './Readout.tsx';
import styles from './trace.module.css';
import { useStill } from '../../components/hooks/useStill.ts';
import { useSize } from '../../components/hooks/useSize.ts';
import { useCapture } from './useCapture.ts';
import { LONGEST_S, SHORTEST_S } from '../../components/drawing/useTimeZoom.ts';
import { shownSource, useLanes } from './useLanes.ts';

/** The window counts as still once it has not moved for so long. */
const STILL_MS = 140;

/** All signals over time, computed and captured: lanes, cursors, checks, and what a capture says about the plan. */
export function TraceView() {
  const { plan, planId, evaluation, signal: shown, change, report } = usePlanContext();
  const { night } = useNight();
  const editor = useCapture(planId, plan, report);
  const [selectedId, setSelectedId] = useState(shown?.id ?? '');
  const [onPlanClock, setOnPlanClock] = useState(true);
  const { lanes } = useLanes(editor, selectedId, onPlanClock);
  const [stage, size] = useSize();
  const board = useRef<HTMLDivElement>(null);
  const seconds = scaleOf(
    evaluation.signals.flatMap(({ outcome }) => (outcome ? [shownPeriod(outcome)] : [])),
  );
  const [asked, setAsked] = useState<Window>();
  const window = useMemo(() => asked ?? { from: -0.02 * seconds, to: seconds }, [asked, seconds]);
  const [cursors, setCursors] = useState<Cursors>({ a: 0, b: seconds / 5, active: 'a' });
  const [search, setSearch] = useState('');
  const [said, setSaid] = useState<{ text: string; fault: boolean }>();
  const settled = useStill(window, STILL_MS);
  const found = lanes.findIndex((lane) => lane.id === selectedId);
  const selected = Math.max(0, found);
  const lane = lanes[selected];

  const setWindow = useCallback((next: Window) => {
    const span = next.to - next.from;
    if (span >= SHORTEST_S && span <= LONGEST_S) setAsked(next);
  }, []);
  const setCursor = useCallback((which: 'a' | 'b', at: number) => {
    setCursors((now) => ({ ...now, [which]: at, active: which }));
  }, []);
  const select = (at: number): void => setSelectedId(lanes[at]?.id ?? '');

  /** Brings a moment into the window, in its middle where it is outside. */
  const bring = (at: number, length = 0): void => {
    const span = Math.max(window.to - window.from, length * 1.2);
    if (at >= window.from && at + length <= window.to) return;
    setWindow({ from: at - span / 2, to: at + span / 2 });
  };
  const goTo = (at: number): void => {
    setCursor(cursors.active, at);
    bring(at);
  };
  const showFound = (hit: { fromS: number; toS: number } | undefined, none: string): void => {
    if (!hit) return setSaid({ text: none, fault: false });
    setCursors((now) => ({ ...now, a: hit.fromS, b: hit.toS, active: 'a' }));
    const span = (hit.toS - hit.fromS) * 12;
    setWindow({ from: hit.fromS - span / 2, to: hit.toS + span / 2 });
    setSaid({
      text: `${printSeconds(hit.toS - hit.fromS, 6)} at ${printSeconds(hit.fromS, 9)}`,
      fault: false,
    });
  };
  const jumpTo = (what: Jump): void => {
    const own = evaluation.signals.find(({ signal }) => signal.id === lane?.id)?.outcome;
    showFound(jump(lane, own, what, cursors.a), `No further ${what} on ${lane?.name ?? 'this lane'}.`);
  };
  const searchPulse = (): void => {
    const reading = readSearch(search);
    if (!reading.ok) return setSaid({ text: reading.fault.sentence, fault: true });
    const source = shownSource(lane);
    const hit = source && nextPulse(source, cursors.a, reading.value);
    showFound(hit, `No further pulse like that on ${lane?.name ?? 'this lane'}.`);
  };
  const zoom = (by: number): void => {
    const at = cursors[cursors.active];
    const centre = at >= window.from && at <= window.to ? at : (window.from + window.to) / 2;
    setWindow({ from: centre - (centre - window.from) * by, to: centre + (window.to - centre) * by });
  };
  const whole = (): void => setAsked(undefined);

  const KEYS: Record<string, (event: KeyboardEvent) => void> = {
    ArrowLeft: (event) => {
      const at = cursors[cursors.active];
      const source = shownSource(lane);
      const free = at - (window.to - window.from) / size.width;
      const edge = event.shiftKey ? free : source?.previous(at);
      if (edge !== undefined) goTo(edge);
    },
    ArrowRight: (event) => {
      const at = cursors[cursors.active];
      const source = shownSource(lane);
      const free = at + (window.to - window.from) / size.width;
      const edge = event.shiftKey ? free : source?.next(at);
      if (edge !== undefined) goTo(edge);
    },
    ArrowUp: () => select(Math.max(0, selected - 1)),
    ArrowDown: () => select(Math.min(lanes.length - 1, selected + 1)),
    '+': () => zoom(0.5),
    '=': () => zoom(0.5),
    '-': () => zoom(2),
    PageUp: () => setWindow({ from: 2 * window.from - window.to, to: window.from }),
    PageDown: () => setWindow({ from: window.to, to: 2 * window.to - window.from }),
    Home: whole,
    c: () => setCursors((now) => ({ ...now, active: now.active === 'a' ? 'b' : 'a' })),
    m: () => jumpTo('failure'),
    g: () => jumpTo('glitch'),
  };
  const press = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const act = KEYS[event.key];
    if (!act) return;
    event.preventDefault();
    act(event);
  };

  const drop = (event: DragEvent): void => {
    event.preventDefault();
    event.stopPropagation();
    const file = event.dataTransfer.files[0];
    if (file) editor.open(file);
  };
  const save = (kind: string): void => {
    const until = Math.max(window.to, SHORTEST_S);
    saveTrace({ kind, plan, lanes, lane: lane?.id ?? '', window, size, until, board: board.current })
      .then((fault) => fault !== undefined && report(fault))
      .catch((error: unknown) => report(sentenceOfError(error)));
  };
  const copy = (): void => {
    navigator.clipboard
      .writeText(measureText(lane, cursors))
      .then(() => setSaid({ text: 'copied', fault: false }))
      .catch((error: unknown) => setSaid({ text: sentenceOfError(error), fault: true }));
  };

  const addInterrupts = (): void => {
    const timesS = lane?.captured ? risingEdges(lane.captured) : [];
    if (timesS.length === 0)
      return setSaid({ text: 'This lane has no rising edge after the start.', fault: true });
    change((now) => withInterruptsAt(now, lane?.name ?? '', timesS));
    setSaid({ text: `added: ${timesS.length} events, see Interrupts`, fault: false });
  };

  if (plan.signals.length === 0) {
    return (
      <div className={styles.empty}>
        <h1 className="serif">No signals yet.</h1>
        <p className="soft">
          Each signal of the plan is drawn here, tick by tick; a capture is drawn over it.
        </p>
        <AddSignal wide />
      </div>
    );
  }
  return (
    <div className={styles.trace} onDragOver={(event) => event.preventDefault()} onDrop={drop}>
      <div className={styles.bar}>
        <h1 className="label">Trace</h1>
        <span className="mono" data-testid="window">
          {printSeconds(window.from, 6)} … {printSeconds(window.to, 6)}
        </span>
        <ButtonBase className={styles.tool} onClick={() => zoom(2)} aria-label="Zoom out">
          −
        </ButtonBase>
        <ButtonBase className={styles.tool} onClick={() => zoom(0.5)} aria-label="Zoom in">
          +
        </ButtonBase>
        <ButtonBase className={styles.tool} onClick={whole}>
          show all
        </ButtonBase>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            searchPulse();
          }}
        >
          <TextBox
            className={styles.search ?? ''}
            label="Find a pulse by its length"
            placeholder="pulse shorter than 3 µs"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
        </form>
        <ButtonBase className={styles.tool} onClick={() => jumpTo('failure')}>
          next failure
        </ButtonBase>
        <ButtonBase className={styles.tool} onClick={() => jumpTo('glitch')}>
          next glitch
        </ButtonBase>
        <span className={styles.space} />
        {editor.comparison && (
          <FormControlLabel
            className={styles.onPlanClock ?? ''}
            label="on the plan’s clock"
            control={<Checkbox checked={onPlanClock} onChange={() => setOnPlanClock(!onPlanClock)} />}
          />
        )}
        <CaptureBar editor={editor} />
      </div>
      <div className={styles.stage}>
        <LaneNames lanes={lanes} selected={selected} height={size.height} select={select} />
        <div className={styles.board} ref={stage}>
          <div ref={board}>
            <Lanes
              lanes={lanes}
              selected={selected}
              window={window}
              cursors={cursors}
              width={size.width}
              height={size.height}
              night={night}
              setWindow={setWindow}
              setCursor={setCursor}
              select={select}
              press={press}
            />
          </div>
        </div>
        <LaneChecks lanes={lanes} editor={editor} height={size.height} />
      </div>
      <div className={styles.foot}>
        <div>
          <Readout lane={lane} cursors={cursors} />
          <p className={styles.actions}>
            <ButtonBase className={styles.tool} onClick={copy} title="Copy the measurement">
              copy
            </ButtonBase>
            <ChoiceBox className={styles.save ?? ''} label="Save the trace as" value="" take={save}>
              <option value="">save as …</option>
              <option value="png">PNG, the picture</option>
              <option value="svg">SVG, the picture</option>
              <option value="vcd">VCD, the computed lanes</option>
              <option value="csv">CSV, the computed lanes</option>
              <option value="wav">WAV, the selected lane</option>
            </ChoiceBox>
            <Bookmarks at={cursors[cursors.active]} go={goTo} />
            <LaneLoad lane={lane} fromS={cursors.a} />
            {lane?.captured && (
              <ButtonBase
                className={styles.tool}
                onClick={addInterrupts}
                title="Adds an interrupt to the plan that comes at each rising edge of this lane"
              >
                as interrupts
              </ButtonBase>
            )}
            <span className={styles.said} data-fault={said?.fault} role="status">
              {said?.text}
            </span>
          </p>
        </div>
        <Histogram lane={lane} window={settled} />
        <Findings editor={editor} />
      </div>
    </div>
  );
}
