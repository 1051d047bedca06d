'use client';

import Button from '@mui/material/Button';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { lazy, Suspense, useState } from 'react';
import type { Workspace } from '@herzschlag/core';
import { saveText } from '../../state/file.ts';
import styles from './handoff.module.css';

// The editor is loaded where code is first shown, so that no other view carries it.
const CodeEditor = lazy(() => import('./CodeEditor.tsx'));

/** The id of the panel that the chosen file's tab shows. */
const PANEL_ID = 'code-panel';

const BUILD = 'build';

/** The files of a plan, one of them open, and how they are compiled. */
export function FilePane({
  work,
  pointed,
  reveal,
  colourOf,
  meet,
}: {
  work: Workspace;
  /** The register that is pointed at. */
  pointed: string | undefined;
  reveal: boolean;
  colourOf: (signal: string) => string;
  /** Told of the registers on the line that the pointer or the cursor is at. */
  meet: (registers: readonly string[]) => void;
}) {
  const [open, setOpen] = useState<string>();
  const [copied, setCopied] = useState<string>();
  const build = work.build.join('\n');
  const file = work.files.find(({ name }) => name === open) ?? work.files[0];
  if (!file) return null;
  const shown = open === BUILD ? { name: BUILD, text: build, marks: [] } : file;
  const lines =
    pointed === undefined
      ? NONE
      : shown.marks.filter(({ registers }) => registers.includes(pointed)).map(({ line }) => line);
  const copy = () => {
    navigator.clipboard.writeText(shown.text).then(
      () => setCopied('copied'),
      () => setCopied('the browser did not allow copying'),
    );
  };
  return (
    <>
      <div className={styles.files}>
        <Tabs
          variant="scrollable"
          scrollButtons="auto"
          value={shown.name}
          aria-label="Files"
          selectionFollowsFocus
          onChange={(_, name: string) => {
            setOpen(name);
            setCopied(undefined);
          }}
        >
          {[...work.files.map(({ name }) => name), BUILD].map((name) => (
            <Tab
              key={name}
              value={name}
              id={`file-${name}`}
              aria-controls={PANEL_ID}
              label={<span className="mono">{name}</span>}
            />
          ))}
        </Tabs>
        <span className={styles.space} />
        <span className="soft" aria-live="polite">
          {copied}
        </span>
        <Button color="inherit" className={styles.action} onClick={copy}>
          Copy
        </Button>
        {shown.name !== BUILD && (
          <Button color="inherit" className={styles.action} onClick={() => saveText(shown.name, shown.text)}>
            Save
          </Button>
        )}
      </div>
      <div
        className={styles.code}
        role="tabpanel"
        id={PANEL_ID}
        aria-labelledby={`file-${shown.name}`}
        data-testid="code"
      >
        <Suspense fallback={<pre className="mono">{shown.text}</pre>}>
          <CodeEditor
            name={shown.name}
            text={shown.text}
            marks={shown.marks}
            colourOf={colourOf}
            lines={lines}
            reveal={reveal}
            meet={(line) => meet(shown.marks.find((mark) => mark.line === line)?.registers ?? NONE_NAMED)}
          />
        </Suspense>
      </div>
    </>
  );
}

const NONE: readonly number[] = [];
const NONE_NAMED: readonly string[] = [];
