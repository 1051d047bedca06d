'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import { useState, type ReactNode } from 'react';
import { printSeconds } from '@herzschlag/core';
import type { TimeWindow } from '../../components/drawing/useTimeWindow.ts';
import { TextBox } from '../../components/fields/TextBox.tsx';
import { CaptureBar } from './CaptureBar.tsx';
import styles from './trace.module.css';
import type { CaptureState } from './useCapture.ts';
import type { CursorState } from './useCursors.ts';

function Tool({ act, label, children }: { act: () => void; label?: string; children: ReactNode }) {
  return (
    <ButtonBase className={styles.tool} onClick={act} aria-label={label}>
      {children}
    </ButtonBase>
  );
}

/** A pulse that is looked for by its length. */
function PulseSearch({ search }: { search: (text: string) => void }) {
  const [text, setText] = useState('');
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        search(text);
      }}
    >
      <TextBox
        className={styles.search ?? ''}
        label="Find a pulse by its length"
        placeholder="pulse shorter than 3 µs"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
    </form>
  );
}

type Props = {
  view: TimeWindow;
  cursors: CursorState;
  editor: CaptureState;
  onPlanClock: boolean;
  setOnPlanClock: (on: boolean) => void;
};

/** Above the lanes: what is shown, what can be looked for, and the capture. */
export function TraceBar({ view, cursors, editor, onPlanClock, setOnPlanClock }: Props) {
  const at = cursors.cursors[cursors.cursors.active];
  return (
    <div className={styles.bar}>
      <h1 className="label">Trace</h1>
      <span className="mono" data-testid="window">
        {printSeconds(view.window.from, 6)} … {printSeconds(view.window.to, 6)}
      </span>
      <Tool act={() => view.zoom(2, at)} label="Zoom out">
        −
      </Tool>
      <Tool act={() => view.zoom(0.5, at)} label="Zoom in">
        +
      </Tool>
      <Tool act={view.showAll}>show all</Tool>
      <PulseSearch search={cursors.search} />
      <Tool act={() => cursors.jumpTo('failure')}>next failure</Tool>
      <Tool act={() => cursors.jumpTo('glitch')}>next glitch</Tool>
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
  );
}
