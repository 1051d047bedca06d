'use client';

import { type FileChange, printNumber } from '@herzschlag/core';
import styles from './change.module.css';

const SIGNS = { gone: '−', new: '+', same: ' ' } as const;

/** A file whose lines change: those that go and come, with some around them. */
export function ChangedFile({ file }: { file: FileChange }) {
  const { name, gone, came, pieces } = file;
  return (
    <section aria-label={name}>
      <p className={styles.file}>
        <b className="mono">{name}</b>{' '}
        <span className="soft">
          {printNumber(came)} {came === 1 ? 'line' : 'lines'} added, {printNumber(gone)} removed
        </span>
      </p>
      {pieces.map((lines, at) => (
        <pre key={at} className={`mono ${styles.piece}`}>
          {lines.map((line, place) => (
            <span key={place} className={styles[line.kind]}>
              <i aria-hidden="true">{line.at ?? ''}</i>
              <b aria-label={line.kind === 'same' ? undefined : line.kind}>{SIGNS[line.kind]}</b>
              {line.text}
              {'\n'}
            </span>
          ))}
        </pre>
      ))}
    </section>
  );
}
