'use client';

import { useEffect, useState } from 'react';
import { type FileChange, type Plan, type PlanChange, printNumber } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { core } from '../../worker/core.ts';
import styles from './change.module.css';

const SIGNS = { gone: '−', new: '+', same: ' ' } as const;

function File({ file }: { file: FileChange }) {
  const { name, gone, came, pieces } = file;
  return (
    <section aria-label={name}>
      <p className={styles.file}>
        <b className="mono">{name}</b>{' '}
        <span className="soft">
          {printNumber(came)} {came === 1 ? 'line comes' : 'lines come'}, {printNumber(gone)}{' '}
          {gone === 1 ? 'goes' : 'go'}
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

/** What a proposal changes: worked out by the worker; undefined until it is there. */
export function useChange(before: Plan, after: Plan | undefined): PlanChange | undefined {
  const { report } = usePlanContext();
  const [found, setFound] = useState<{ after: Plan; change: PlanChange }>();
  useEffect(() => {
    if (!after) return undefined;
    let current = true;
    core()
      .planChange(before, after)
      .then((change) => current && setFound({ after, change }))
      .catch((error: unknown) => report(String(error)));
    return () => {
      current = false;
    };
  }, [before, after, report]);
  return found && found.after === after ? found.change : undefined;
}

/** The lines of the generated code that come and go with a proposal. */
export function CodeChange({ change: { code, noCode } }: { change: PlanChange }) {
  return (
    <div
      className={styles.code}
      data-testid="code-change"
      tabIndex={0}
      role="region"
      aria-label="Code that changes"
    >
      {noCode?.after !== undefined ? (
        <p>There is no code of it: {noCode.after}</p>
      ) : (
        noCode?.before !== undefined && (
          <p className="soft">
            There is no code of the plan as it is, since its settings collide; all of it is new.
          </p>
        )
      )}
      {code.length === 0 && !noCode && <p className="soft">The code stays as it is.</p>}
      {code.map((file) => (
        <File key={file.name} file={file} />
      ))}
    </div>
  );
}
