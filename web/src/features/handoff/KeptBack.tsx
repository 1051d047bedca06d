'use client';

import Button from '@mui/material/Button';
import type { Workspace } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { Conflicts } from '../../components/verdict/Conflicts.tsx';
import styles from './handoff.module.css';

/** What the code leaves out, and why: conflicts with their fixes, signals that fail with the way to them, and what cannot be done at all. */
export function KeptBack({ work }: { work: Workspace }) {
  const { evaluation, showFailure } = usePlanContext();
  const { keptBack, leftOut, fault } = work;
  const inConflict = new Set(evaluation.conflicts.flatMap(({ signals }) => signals));
  const failing = evaluation.failures.filter(({ signal }) => signal !== undefined && !inConflict.has(signal));
  if (keptBack.length === 0 && leftOut.length === 0 && fault === undefined) return null;
  const names = keptBack.map(({ name }) => name).join(', ');
  return (
    <section className={styles.keptBack} aria-label="Kept back" data-testid="kept-back">
      {keptBack.length > 0 && (
        <p>
          <b>
            {work.files.length > 0
              ? `The code below leaves out ${names}.`
              : `No code: ${names} cannot be handed over.`}
          </b>{' '}
          It becomes whole once these pass.
        </p>
      )}
      {fault !== undefined && (
        <p role="alert">
          <b>No code can be generated.</b> {fault}
        </p>
      )}
      <Conflicts />
      {failing.length > 0 && (
        <ul>
          {failing.map((failure) => (
            <li key={`${failure.signal} ${failure.text}`}>
              <b>{failure.name}</b> {failure.text}{' '}
              <Button variant="quiet" onClick={() => showFailure(failure)}>
                see it
              </Button>
            </li>
          ))}
        </ul>
      )}
      {leftOut.length > 0 && (
        <section aria-label="Not in this code" data-testid="left-out">
          <b>Not in this code:</b>
          <ul>
            {leftOut.map((sentence) => (
              <li key={sentence}>{sentence}</li>
            ))}
          </ul>
        </section>
      )}
    </section>
  );
}
