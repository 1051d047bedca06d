'use client';

import Button from '@mui/material/Button';
import { useState } from 'react';
import { writePinNames } from '@herzschlag/core';
import { FileButton } from '../../components/frame/FileButton.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { core } from '../../worker/core.ts';
import { Panel } from '../../components/frame/Panel.tsx';
import styles from './plan.module.css';

/** A table of how the user's board calls the pins: typed, pasted, or loaded from a text file. */
export function PinNamesEditor() {
  const { plan, change, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [text, setText] = useState('');
  const [fault, setFault] = useState<string>();

  const apply = async () => {
    const read = await core().pinNames(plan, text);
    if (!read.ok) return setFault(read.error);
    const { names } = read;
    const pinNames = Object.keys(names).length > 0 ? names : undefined;
    change((now) => ({ ...now, pinNames }));
    setAnchor(undefined);
  };
  const attempt = (work: () => Promise<void>) => {
    work().catch((error: unknown) => report(String(error)));
  };

  return (
    <>
      <button
        type="button"
        className={`plain ${styles.tool}`}
        aria-haspopup="dialog"
        onClick={(event) => {
          setText(writePinNames(plan.pinNames ?? {}));
          setFault(undefined);
          setAnchor(event.currentTarget);
        }}
      >
        pin names of my board
      </button>
      <Panel button={anchor} close={() => setAnchor(undefined)}>
        <form
          className={styles.names}
          onSubmit={(event) => {
            event.preventDefault();
            attempt(apply);
          }}
        >
          <p className="label">What the board calls its pins</p>
          <p className="soft">One to a line; every view then shows both names.</p>
          <textarea
            className="mono"
            aria-label="Pin names, one to a line"
            rows={9}
            value={text}
            placeholder={'PB1 = D9\nPB2 = D10\nPD3 = header pin 12'}
            onChange={(event) => setText(event.target.value)}
          />
          {fault && (
            <p className={styles.fault} role="alert">
              {fault}
            </p>
          )}
          <div className={styles.row}>
            <Button type="submit" variant="contained">
              Use these names
            </Button>
            <FileButton
              color="inherit"
              accept=".txt,.csv,text/plain"
              name="Pin names file"
              take={(file) => attempt(async () => setText(await file.text()))}
            >
              Load a file…
            </FileButton>
          </div>
        </form>
      </Panel>
    </>
  );
}
