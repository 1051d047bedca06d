'use client';

import Button from '@mui/material/Button';
import { useState } from 'react';
import { answers } from '@herzschlag/core';
import { FileButton } from '../../components/frame/FileButton.tsx';
import type { PartFacts } from '../../worker/facts.ts';
import { core } from '../../worker/core.ts';
import { Panel } from '../../components/frame/Panel.tsx';
import styles from './start.module.css';

/** How far a part's register data was held against an independent source. */
function trustOf({ verified, unverified }: PartFacts): string {
  if (verified) return '✓ verified';
  return unverified.includes('*') ? '– from the datasheet alone' : '– verified in part';
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
  const [parts, setParts] = useState<PartFacts[]>();
  const [query, setQuery] = useState('');
  const found = parts?.filter((part) => answers(part, query)) ?? [];

  const open = (button: HTMLElement) => {
    setAnchor(button);
    setQuery('');
    core()
      .parts()
      .then(setParts)
      .catch((error: unknown) => report(String(error)));
  };

  return (
    <>
      <Button variant="contained" onClick={(event) => open(event.currentTarget)}>
        New plan
      </Button>
      <Panel button={anchor} close={() => setAnchor(undefined)} side="right">
        <form
          className={styles.picker}
          onSubmit={(event) => {
            event.preventDefault();
            const [first] = found;
            if (first) take(first);
          }}
        >
          <input
            autoFocus
            aria-label="Part, or what it must be able to do"
            placeholder="a name, or: 32-bit timer, fractional divider, 16 channels"
            value={query}
            onChange={(event) => setQuery(event.target.value)}
          />
          <ul className={styles.parts}>
            {found.map((part) => (
              <li key={part.id}>
                <button type="button" className="plain" data-part={part.id} onClick={() => take(part)}>
                  <b className="serif">{part.name}</b>
                  <span className={part.verified ? styles.verified : styles.partly}>{trustOf(part)}</span>
                  <span className="soft">{part.about}</span>
                </button>
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
