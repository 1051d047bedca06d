'use client';

import Button from '@mui/material/Button';
import { useState } from 'react';
import { printNumber, printPercent } from '@herzschlag/core';
import { FileButton } from '../../components/frame/FileButton.tsx';
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
    <input
      key={`${key} ${analog[key]}`}
      aria-label={`${name}: ${label}`}
      className={styles.threshold}
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
        high from {field('rise', 'high from')} low from {field('fall', 'low from')}
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
          <select
            aria-label={`Signal of ${wire.name}`}
            value={signalOf(wire.name)}
            onChange={(event) => editor.setWire(wire.name, event.target.value)}
          >
            <option value="">none</option>
            {plan.signals.map((signal) => (
              <option key={signal.id} value={signal.id}>
                {signal.name}
              </option>
            ))}
          </select>
        </label>
      ))}
      {row.capture.wires.some((wire) => wire.analog) && (
        <p className="label">What counts as high, in volts</p>
      )}
      {row.capture.wires
        .slice(0, 200)
        .flatMap(({ name, analog }) =>
          analog ? [<Thresholds key={name} name={name} analog={analog} editor={editor} />] : [],
        )}
      <Button color="inherit" onClick={editor.forget}>
        Remove the capture
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
        <span className={styles.track}>
          <span style={{ width: `${progress * 100}%` }} />
        </span>
        {printPercent(progress, 3)} read
        <button type="button" className="plain" onClick={editor.stop}>
          stop
        </button>
      </span>
    );
  }
  return (
    <>
      {row && (
        <>
          <button
            type="button"
            className={`plain ${styles.tool}`}
            aria-haspopup="dialog"
            data-testid="capture"
            onClick={(event) => setAnchor(event.currentTarget)}
          >
            {row.name} · {row.capture.wires.length} {row.capture.wires.length === 1 ? 'wire' : 'wires'}
          </button>
          <Panel button={anchor} side="right" close={() => setAnchor(undefined)}>
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
