'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { answers } from '@herzschlag/core';
import { FileButton } from '../../components/frame/FileButton.tsx';
import type { PartFacts } from '../../worker/facts.ts';
import { TextBox } from '../../components/fields/TextBox.tsx';
import { useEngine } from '../../worker/useEngine.ts';
import { Panel } from '../../components/frame/Panel.tsx';
import styles from './start.module.css';

/** How far a part's register data was compared with an independent source. */
function trustOf({ verified, unverified }: PartFacts): string {
  if (verified) return '✓ verified';
  return unverified.includes('*') ? '– from the datasheet only' : '– partly verified';
}

/** A button that lets a person choose a part, by name or by what it must be able to do. */
export function PartPicker({
  take,
  takeFile,
  report,
}: {
  take: (part: PartFacts) => void;
  takeFile: (file: File) => void;
  report: (sentence: string) => void;
}) {
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [query, setQuery] = useState('');
  const { value: parts } = useEngine(['parts'], (engine) => engine.parts(), {
    enabled: anchor !== undefined,
    report,
  });
  const found = parts?.filter((part) => answers(part, query)) ?? [];

  const open = (button: HTMLElement) => {
    setAnchor(button);
    setQuery('');
  };

  return (
    <>
      <Button variant="contained" onClick={(event) => open(event.currentTarget)}>
        New plan
      </Button>
      <Panel button={anchor} name="Parts" close={() => setAnchor(undefined)} side="right">
        <form
          className={styles.picker}
          onSubmit={(event) => {
            event.preventDefault();
            const [first] = found;
            if (first) take(first);
          }}
        >
          <TextBox
            autoFocus
            className={styles.query ?? ''}
            label="Part, or what it must be able to do"
            placeholder="a name, or: 32-bit timer, fractional divider, 16 channels"
            value={query}
            onChange={(event) => setQuery(event.target.value)}
          />
          <ul className={styles.parts}>
            {found.map((part) => (
              <li key={part.id}>
                <ButtonBase data-part={part.id} onClick={() => take(part)}>
                  <b className="serif">{part.name}</b>
                  <span className={part.verified ? styles.verified : styles.partly}>{trustOf(part)}</span>
                  <span className="soft">{part.about}</span>
                  {part.leftOut.length > 0 && (
                    <span className={styles.leftOut}>not covered: {part.leftOut.join('; ')}</span>
                  )}
                </ButtonBase>
              </li>
            ))}
            {parts && found.length === 0 && <li className="soft">No part has all of that.</li>}
          </ul>
          <div className={styles.own}>
            <FileButton
              color="inherit"
              accept=".json,application/json"
              name="Part file"
              take={(file) => {
                setAnchor(undefined);
                takeFile(file);
              }}
            >
              Load a part file…
            </FileButton>
            <span className="soft">for a chip that is not in the list</span>
          </div>
        </form>
      </Panel>
    </>
  );
}
