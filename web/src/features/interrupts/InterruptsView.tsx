'use client';

import { useMemo, useState } from 'react';
import type { Plan } from '@herzschlag/core';
import { simulatedSource } from '../../components/drawing/simulated.ts';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { press, type Keys } from '../../components/hooks/keys.ts';
import { useSize } from '../../components/hooks/useSize.ts';
import { laneColour } from '../../theme/colour.ts';
import { useNight } from '../../theme/useNight.ts';
import type { Pin } from './draw.ts';
import type { TableActions } from './InterruptTable.tsx';
import { SavePicture } from '../../components/drawing/SavePicture.tsx';
import { resolved } from '../../theme/colour.ts';
import { timelineSvg } from './picture.ts';
import styles from './interrupts.module.css';
import { InterruptsBar } from './InterruptsBar.tsx';
import { InterruptsFoot } from './InterruptsFoot.tsx';
import { timelineRows, type Picture } from './rows.ts';
import { Timeline } from './Timeline.tsx';
import { TimelineNames } from './TimelineNames.tsx';
import { useShown, type ShownTimeline } from './useShown.ts';
import { type LengthName, useSimulation } from './useSimulation.ts';

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

/** What keys do on the timeline of so many rows; `worst` and `nextLoss` show what they are called. */
function keysOf(
  { selected, select, atS, view }: ShownTimeline,
  rows: number,
  { worst, nextLoss }: { worst: () => void; nextLoss: () => void },
): Keys {
  return {
    ArrowUp: () => select(Math.max(0, selected - 1)),
    ArrowDown: () => select(Math.min(Math.max(rows, 1) - 1, selected + 1)),
    ArrowLeft: () => view.shift(-0.1),
    ArrowRight: () => view.shift(0.1),
    PageUp: () => view.shift(-1),
    PageDown: () => view.shift(1),
    '+': () => view.zoom(0.5, atS),
    '=': () => view.zoom(0.5, atS),
    '-': () => view.zoom(2, atS),
    Home: view.showAll,
    w: worst,
    l: nextLoss,
  };
}

/** The processor over time: who runs, who waits, what is lost, and what certainly can happen. */
export function InterruptsView() {
  const { plan, change, part, report: tell } = usePlanContext();
  const { night } = useNight();
  const [length, setLength] = useState<LengthName>('1 s');
  const [dragged, setDragged] = useState<(plan: Plan) => Plan>();
  const [hint, setHint] = useState<string>();
  const [stage, size] = useSize();
  const drawn = useMemo(() => (dragged ? dragged(plan) : plan), [dragged, plan]);
  const { picture, running } = useSimulation(drawn, length, tell, () => setLength('1 s'));
  const order = useMemo(() => plan.signals.map(({ id }) => id), [plan.signals]);
  const data = useMemo(() => picture && timelineRows(picture, order), [picture, order]);
  const shown = useShown(picture, data);
  const { selected, select, atS, show, view } = shown;
  const pin = useMemo(
    () => picture && pinOf(picture, selected, plan.signals),
    [picture, selected, plan.signals],
  );
  if (!picture || !data) return <div className={styles.view} aria-busy="true" />;

  const { report } = picture;
  const worst = (): void => show(report.rows[selected]?.worstAtS ?? 0);
  const nextLoss = (): void => {
    if (!shown.nextLoss()) setHint('No event was lost.');
  };
  const keys = keysOf(shown, report.rows.length, { worst, nextLoss });
  const drawing = (): string => {
    const names = report.rows.map(({ name }) => name);
    const of = { selected, atS, pin };
    return timelineSvg(data, names, view.window, size.width, of, (name) => resolved(document.body, name));
  };
  const actions: TableActions = {
    change: (edit) => change(edit, (fault) => setHint(fault.plain ?? fault.sentence)),
    preview: (edit) => setDragged(() => edit),
    select,
    show,
    hint: setHint,
  };
  return (
    <div className={styles.view}>
      <InterruptsBar
        {...{ view, atS, worst, nextLoss, running, length, setLength }}
        rule={part.interrupts.rule}
      >
        <SavePicture name="Interrupts" svg={drawing} />
      </InterruptsBar>
      <div className={styles.stage}>
        <TimelineNames rows={report.rows} {...{ data, pin, selected, select }} />
        <div ref={stage} className={styles.board}>
          <Timeline
            {...{ data, night, selected, atS, pin, select }}
            window={view.window}
            width={size.width}
            setWindow={view.set}
            press={(event) => press(keys, event)}
          />
        </div>
      </div>
      <InterruptsFoot {...{ report, selected, actions, hint }} plan={drawn} />
    </div>
  );
}
