'use client';

import Button from '@mui/material/Button';
import { useState } from 'react';
import { printPercent } from '@herzschlag/core/quantity/print.ts';
import { FileButton } from '../../frame/FileButton.tsx';
import { Panel } from '../../frame/Panel.tsx';
import { useBench } from '../../frame/PlanContext.ts';
import styles from './trace.module.css';
import type { CaptureDesk } from './useCapture.ts';

function Wires({ desk }: { desk: CaptureDesk }) {
  const { plan } = useBench();
  const { row, comparison } = desk;
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
            onChange={(event) => desk.setWire(wire.name, event.target.value)}
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
      <Button color="inherit" onClick={desk.forget}>
        Remove the capture
      </Button>
    </div>
  );
}

/** The capture of the plan: opening one, how far it is read, what it is called, and its wires. */
export function CaptureBar({ desk }: { desk: CaptureDesk }) {
  const [anchor, setAnchor] = useState<HTMLElement>();
  const { row, progress } = desk;
  if (progress !== undefined) {
    return (
      <span className={styles.reading} role="status">
        <span className={styles.track}>
          <span style={{ width: `${progress * 100}%` }} />
        </span>
        {printPercent(progress, 3)} read
        <button type="button" className="plain" onClick={desk.stop}>
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
            <Wires desk={desk} />
          </Panel>
        </>
      )}
      <FileButton color="inherit" accept=".vcd,.csv,.txt,.tsv,.wav" name="Capture file" take={desk.open}>
        {row ? 'Another…' : 'Open a capture…'}
      </FileButton>
    </>
  );
}
