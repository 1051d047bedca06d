'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { writePinNames } from '@herzschlag/core';
import { FileButton } from '../../components/frame/FileButton.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { TextLines } from '../../components/fields/TextBox.tsx';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import { Panel } from '../../components/frame/Panel.tsx';
import styles from './plan.module.css';

/** A table of how the user's board calls the pins: typed, pasted, or loaded from a text file. */
export function PinNamesEditor() {
  const { plan, change, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [text, setText] = useState('');
  const [fault, setFault] = useState<string>();

  const apply = async () => {
    const read = await ask((engine, key) => engine.readPinNames(key(plan), text));
    if (!read.ok) return setFault(read.fault.sentence);
    const names = read.value;
    const pinNames = Object.keys(names).length > 0 ? names : undefined;
    change((now) => ({ ...now, pinNames }));
    setAnchor(undefined);
  };
  const attempt = (work: () => Promise<void>) => {
    work().catch((error: unknown) => report(sentenceOfError(error)));
  };

  return (
    <>
      <ButtonBase
        className={styles.tool}
        aria-haspopup="dialog"
        onClick={(event) => {
          setText(writePinNames(plan.pinNames ?? {}));
          setFault(undefined);
          setAnchor(event.currentTarget);
        }}
      >
        pin names …
      </ButtonBase>
      <Panel button={anchor} name="Pin names" close={() => setAnchor(undefined)}>
        <form
          className={styles.names}
          onSubmit={(event) => {
            event.preventDefault();
            attempt(apply);
          }}
        >
          <p className="label">Names of the board’s pins</p>
          <p className="soft">One per line; every view then shows both names.</p>
          <TextLines
            className={`mono ${styles.lines}`}
            label="Pin names, one per line"
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
