'use client';

import type { Plan, PlanChange } from '@herzschlag/core';
import { ChangedFile } from '../../components/change/ChangedFile.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { useEngine } from '../../worker/useEngine.ts';
import styles from '../../components/change/change.module.css';

/** What a proposal changes: worked out by the worker; undefined until it is there. */
export function useChange(before: Plan, after: Plan | undefined): PlanChange | undefined {
  const { report } = usePlanContext();
  const { value, current } = useEngine(
    ['change', before, after],
    async (engine, key) => {
      if (!after) throw new Error('there is no plan to compare with');
      return engine.change(key(before), key(after));
    },
    { enabled: after !== undefined, report },
  );
  return after && current ? value : undefined;
}

/** The lines of the generated code that a proposal adds and removes. */
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
        <p>No code can be generated for it: {noCode.after}</p>
      ) : (
        noCode?.before !== undefined && (
          <p className="soft">The plan has conflicts, so there is no code for it yet; all of this is new.</p>
        )
      )}
      {code.length === 0 && !noCode && <p className="soft">The code does not change.</p>}
      {code.map((file) => (
        <ChangedFile key={file.name} file={file} />
      ))}
    </div>
  );
}
