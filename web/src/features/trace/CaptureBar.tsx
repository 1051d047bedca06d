'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useState } from 'react';
import { printNumber, printPercent } from '@herzschlag/core';
import { FileButton } from '../../components/frame/FileButton.tsx';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { TextBox } from '../../components/fields/TextBox.tsx';
import { Panel } from '../../components/frame/Panel.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import styles from './trace.module.css';
import type { CaptureState } from './useCapture.ts';

/** Where a wire that was captured in volts rises and falls; taken over with Enter or on leaving the field. */
function Thresholds({
  name,
  analog,
  editor,
}: {
  name: string;
  analog: { rise: number; fall: number };
  editor: CaptureState;
}) {
  const set = (key: 'rise' | 'fall', text: string): void => {
    const value = Number(text.replace(',', '.'));
    const next = { rise: analog.rise, fall: analog.fall, [key]: value };
    if (Number.isFinite(value) && next.rise >= next.fall) editor.setThreshold(name, next);
  };
  const field = (key: 'rise' | 'fall', label: string) => (
    <TextBox
      key={`${key} ${analog[key]}`}
      label={`${name}: ${label}`}
      className={styles.threshold ?? ''}
      defaultValue={printNumber(analog[key], 4)}
      onBlur={(event) => set(key, event.target.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
      }}
    />
  );
  return (
    <div className={styles.wire}>
      <span className="mono">{name}</span>
      <span>
        high above {field('rise', 'high above')} low below {field('fall', 'low below')}
      </span>
    </div>
  );
}

function Wires({ editor }: { editor: CaptureState }) {
  const { plan } = usePlanContext();
  const { row, comparison } = editor;
  if (!row) return null;
  const signalOf = (wire: string): string => comparison?.pairs.find((one) => one.wire === wire)?.signal ?? '';
  return (
    <div className={styles.wires}>
      <p className="label">Which wire shows which signal</p>
      {row.capture.wires.slice(0, 200).map((wire) => (
        <label key={wire.name} className={styles.wire}>
          <span className="mono">{wire.name}</span>
          <ChoiceBox
            label={`Signal of ${wire.name}`}
            value={signalOf(wire.name)}
            take={(signal) => editor.setWire(wire.name, signal)}
          >
            <option value="">none</option>
            {plan.signals.map((signal) => (
              <option key={signal.id} value={signal.id}>
                {signal.name}
              </option>
            ))}
          </ChoiceBox>
        </label>
      ))}
      {row.capture.wires.some((wire) => wire.analog) && <p className="label">Thresholds, in volts</p>}
      {row.capture.wires
        .slice(0, 200)
        .flatMap(({ name, analog }) =>
          analog ? [<Thresholds key={name} name={name} analog={analog} editor={editor} />] : [],
        )}
      {(row.capture.notes ?? []).map((note) => (
        <p key={note} role="note" className="soft">
          {note}
        </p>
      ))}
      <Button color="inherit" onClick={editor.forget}>
        Delete the capture
      </Button>
    </div>
  );
}

/** The capture of the plan: opening one, how far it is read, what it is called, and its wires. */
export function CaptureBar({ editor }: { editor: CaptureState }) {
  const [anchor, setAnchor] = useState<HTMLElement>();
  const { row, progress } = editor;
  if (progress !== undefined) {
    return (
      <span className={styles.reading} role="status">
        <LinearProgress
          className={styles.track ?? ''}
          variant="determinate"
          value={progress * 100}
          aria-label="Share of the file that has been read"
        />
        {printPercent(progress, 3)} read
        <ButtonBase onClick={editor.stop}>stop</ButtonBase>
      </span>
    );
  }
  return (
    <>
      {row && (
        <>
          <ButtonBase
            className={styles.tool}
            aria-haspopup="dialog"
            data-testid="capture"
            onClick={(event) => setAnchor(event.currentTarget)}
          >
            {row.name} · {row.capture.wires.length} {row.capture.wires.length === 1 ? 'wire' : 'wires'}
            {row.capture.notes && ' · values left out'}
          </ButtonBase>
          <Panel button={anchor} name="Capture" side="right" close={() => setAnchor(undefined)}>
            <Wires editor={editor} />
          </Panel>
        </>
      )}
      <FileButton color="inherit" accept=".vcd,.csv,.txt,.tsv,.wav" name="Capture file" take={editor.open}>
        {row ? 'Another…' : 'Open a capture…'}
      </FileButton>
    </>
  );
}
