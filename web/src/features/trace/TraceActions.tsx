'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { sentenceOfError } from '../../worker/useEngine.ts';
import { Bookmarks } from './Bookmarks.tsx';
import { risingEdges, withInterruptsAt } from './captured-interrupts.ts';
import { LaneLoad } from './LaneLoad.tsx';
import { measureText } from './Readout.tsx';
import styles from './trace.module.css';
import type { CursorState } from './useCursors.ts';
import type { TraceLane } from './useLanes.ts';

type Props = { lane: TraceLane | undefined; cursors: CursorState; save: (kind: string) => void };

/** What can be done with the measured lane: copy, save, bookmarks, its load, its edges as interrupts. */
export function TraceActions({ lane, cursors: { cursors, goTo, said, say }, save }: Props) {
  const { change } = usePlanContext();
  const copy = (): void => {
    navigator.clipboard
      .writeText(measureText(lane, cursors))
      .then(() => say({ text: 'copied', fault: false }))
      .catch((error: unknown) => say({ text: sentenceOfError(error), fault: true }));
  };
  const addInterrupts = (): void => {
    const timesS = lane?.captured ? risingEdges(lane.captured) : [];
    if (timesS.length === 0)
      return say({ text: 'This lane has no rising edge after the start.', fault: true });
    change((now) => withInterruptsAt(now, lane?.name ?? '', timesS));
    say({ text: `added: ${timesS.length} events, see Interrupts`, fault: false });
  };
  return (
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
  );
}
