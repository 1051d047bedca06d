'use client';

import { laneColour } from '../../theme/colour.ts';
import ButtonBase from '@mui/material/ButtonBase';
import LinearProgress from '@mui/material/LinearProgress';
import { useNight } from '../../theme/useNight.ts';
import { useSearchParams } from 'next/navigation';
import { useCallback, useMemo, useState, type KeyboardEvent } from 'react';
import { kindOf, type Plan, printSeconds } from '@herzschlag/core';
import type { Window } from '../../components/drawing/lanes.ts';
import { LONGEST_S, SHORTEST_S } from '../../components/drawing/useTimeZoom.ts';
import { simulatedSource } from '../../components/drawing/simulated.ts';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { useSize } from '../../components/hooks/useSize.ts';
import { MAIN, PIN, ROW, RULER, type Pin } from './draw.ts';
import { withNewTask } from './edits.ts';
import { InterruptTable, type TableActions } from './InterruptTable.tsx';
import styles from './interrupts.module.css';
import { MainLoop } from './MainLoop.tsx';
import { Polling } from './Polling.tsx';
import { Pulses } from './Pulses.tsx';
import { timelineRows, type Picture } from './rows.ts';
import { StringWays } from './StringWays.tsx';
import { Timeline } from './Timeline.tsx';
import { LENGTHS, type LengthName, useSimulation } from './useSimulation.ts';

/** The pin of the first signal of a row whose edges its interrupts make. */
function pinOf(picture: Picture, row: number, signals: Plan['signals']): Pin | undefined {
  const { report, edges, run, cpu } = picture;
  const order = signals.map((one) => one.id);
  const id = report.rows[row]?.signals.find((signal) => edges.has(signal));
  const made = id === undefined ? undefined : edges.get(id);
  if (id === undefined || !made) return undefined;
  const { name = '', pin = '' } = signals.find((one) => one.id === id) ?? {};
  return {
    name: `${name} ${pin}`,
    source: simulatedSource(made, cpu.cpuHz, run.cycles),
    colour: laneColour(order.indexOf(id)),
  };
}

/** The processor over time: who runs, who waits, what is lost, and what certainly can happen. */
export function InterruptsView() {
  const { plan, change, part, report: tell } = usePlanContext();
  const { night } = useNight();
  const asked = useSearchParams();
  const [length, setLength] = useState<LengthName>('1 s');
  const [dragged, setDragged] = useState<(plan: Plan) => Plan>();
  const [hint, setHint] = useState<string>();
  const [stage, size] = useSize();
  const shown = useMemo(() => (dragged ? dragged(plan) : plan), [dragged, plan]);
  const { picture, running } = useSimulation(shown, length, tell, () => setLength('1 s'));
  const order = useMemo(() => plan.signals.map(({ id }) => id), [plan.signals]);
  const data = useMemo(() => picture && timelineRows(picture, order), [picture, order]);
  const [wanted, setWanted] = useState(asked.get('task') ?? asked.get('signal') ?? '');
  const found =
    picture?.report.rows.findIndex(
      ({ id, task, signals }) => id === wanted || task === wanted || signals.includes(wanted),
    ) ?? -1;
  const selected = Math.max(0, found);
  const startS = asked.get('at') === null ? undefined : Number(asked.get('at'));
  const [atS, setAtS] = useState(Number.isFinite(startS) ? startS : undefined);
  const seconds = picture?.report.seconds ?? 1;
  const [own, setOwn] = useState<Window | undefined>(() => around(atS));
  const window = useMemo(() => own ?? { from: -0.02 * seconds, to: 1.02 * seconds }, [own, seconds]);
  const setWindow = useCallback((next: Window) => {
    const span = next.to - next.from;
    if (span >= SHORTEST_S && span <= LONGEST_S) setOwn(next);
  }, []);
  const pin = useMemo(
    () => picture && pinOf(picture, selected, plan.signals),
    [picture, selected, plan.signals],
  );

  const select = (at: number): void => setWanted(picture?.report.rows[at]?.id ?? '');
  const show = (at: number): void => {
    setAtS(at);
    setOwn(around(at, 24 * (picture?.report.rows[selected]?.response.worstS ?? 0)));
  };
  const zoom = (by: number): void => {
    const centre =
      atS !== undefined && atS >= window.from && atS <= window.to ? atS : (window.from + window.to) / 2;
    setWindow({ from: centre - (centre - window.from) * by, to: centre + (window.to - centre) * by });
  };
  const nextLoss = (): void => {
    const all = data?.rows.flatMap(({ losses }) => Array.from(losses, (cycle) => cycle / data.cpuHz)) ?? [];
    const later = all.filter((one) => one > (atS ?? -1) + 1e-12).sort((one, other) => one - other);
    const [next] = later.length > 0 ? later : all.sort((one, other) => one - other);
    if (next === undefined) setHint('No event was lost.');
    else show(next);
  };
  const KEYS: Record<string, () => void> = {
    ArrowUp: () => select(Math.max(0, selected - 1)),
    ArrowDown: () => select(Math.min((picture?.report.rows.length ?? 1) - 1, selected + 1)),
    ArrowLeft: () => setWindow(moved(window, -0.1)),
    ArrowRight: () => setWindow(moved(window, 0.1)),
    PageUp: () => setWindow(moved(window, -1)),
    PageDown: () => setWindow(moved(window, 1)),
    '+': () => zoom(0.5),
    '=': () => zoom(0.5),
    '-': () => zoom(2),
    Home: () => setOwn(undefined),
    w: () => show(picture?.report.rows[selected]?.worstAtS ?? 0),
    l: nextLoss,
  };
  const press = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const act = KEYS[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  };
  const actions: TableActions = {
    change: (edit) => change(edit, (fault) => setHint(fault.plain ?? fault.sentence)),
    preview: (edit) => setDragged(() => edit),
    select,
    show,
    hint: setHint,
  };
  if (!picture || !data) return <div className={styles.view} aria-busy="true" />;
  const { report } = picture;
  const sentence = report.rows[selected]?.deadline?.sentence;
  const failing = report.rows.find(({ deadline }) => deadline?.verdict === 'fail')?.deadline;
  return (
    <div className={styles.view}>
      <div className={styles.bar}>
        <h1 className="label">Interrupts</h1>
        <span className="mono" data-testid="window">
          {printSeconds(window.from, 6)} … {printSeconds(window.to, 6)}
        </span>
        <ButtonBase className={styles.tool} onClick={() => zoom(2)} aria-label="Zoom out">
          −
        </ButtonBase>
        <ButtonBase className={styles.tool} onClick={() => zoom(0.5)} aria-label="Zoom in">
          +
        </ButtonBase>
        <ButtonBase className={styles.tool} onClick={() => setOwn(undefined)}>
          show all
        </ButtonBase>
        <ButtonBase className={styles.tool} onClick={() => show(report.rows[selected]?.worstAtS ?? 0)}>
          worst wait
        </ButtonBase>
        <ButtonBase className={styles.tool} onClick={nextLoss}>
          next loss
        </ButtonBase>
        <span className={styles.space} />
        {running && (
          <>
            <LinearProgress
              className={styles.progress ?? ''}
              variant="determinate"
              value={100 * running.done}
              aria-label="Simulation"
            />
            <ButtonBase className={styles.tool} onClick={running.stop}>
              stop
            </ButtonBase>
          </>
        )}
        <span className="soft">simulated</span>
        <ChoiceBox
          label="Time to simulate"
          className={styles.length ?? ''}
          value={length}
          take={(name) => setLength(name as LengthName)}
        >
          {LENGTHS.map(({ name }) => (
            <option key={name} value={name}>
              {name}
            </option>
          ))}
        </ChoiceBox>
        <span className={styles.rule}>{part.interrupts.rule}</span>
      </div>
      <div className={styles.stage}>
        <div className={styles.names} style={{ paddingTop: RULER }}>
          {pin && (
            <span className={styles.name} style={{ height: PIN }}>
              {pin.name}
            </span>
          )}
          {report.rows.map((row, at) => (
            <ButtonBase
              key={row.id}
              className={styles.name}
              style={{ height: ROW }}
              aria-pressed={at === selected}
              onClick={() => select(at)}
            >
              <i className={styles.mark} style={{ background: data.rows[at]?.colour }} />
              <span>{row.name}</span>
            </ButtonBase>
          ))}
          <span className={styles.name} style={{ height: MAIN }}>
            main loop
          </span>
        </div>
        <div ref={stage} className={styles.board}>
          <Timeline
            data={data}
            window={window}
            width={size.width}
            night={night}
            selected={selected}
            atS={atS}
            pin={pin}
            setWindow={setWindow}
            select={select}
            press={press}
          />
        </div>
      </div>
      <div className={styles.foot}>
        {report.rows.length === 0 ? (
          <p className="soft">
            No signal of this plan needs an interrupt. Add the interrupts of the rest of the program, such as
            a serial receiver, to see who waits for whom.
          </p>
        ) : (
          <InterruptTable
            report={report}
            plan={shown}
            levels={part.interrupts.levels}
            selected={selected}
            actions={actions}
          />
        )}
        <p className={styles.under}>
          <ButtonBase className={styles.tool} onClick={() => actions.change(withNewTask)}>
            add an interrupt
          </ButtonBase>
          <span
            className={styles.said}
            role="status"
            data-fault={hint !== undefined || failing !== undefined}
          >
            {hint ?? failing?.sentence ?? sentence}
          </span>
        </p>
        <div className={styles.band}>
          <MainLoop report={report} plan={shown} actions={actions} />
          <Pulses report={report} plan={shown} selected={report.rows[selected]?.signals ?? []} />
          <Polling polls={report.polls} actions={actions} />
        </div>
        {plan.signals.map(
          (signal) => kindOf(signal).ledBits && <StringWays key={signal.id} signal={signal} plan={shown} />,
        )}
      </div>
    </div>
  );
}

/** A window around a moment, at least 20 µs long. */
function around(at: number | undefined, span = 0): Window | undefined {
  const half = Math.max(span, 2e-5) / 2;
  return at === undefined ? undefined : { from: at - half, to: at + half };
}

function moved({ from, to }: Window, share: number): Window {
  const by = (to - from) * share;
  return { from: from + by, to: to + by };
}
