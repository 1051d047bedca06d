'use client';

import Button from '@mui/material/Button';
import { useEffect, useState } from 'react';
import type { Fix, Plan } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { search } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import { unbroken } from '../../components/text/unbroken.ts';
import styles from './plan.module.css';

/** Conflicts that are shown with their fixes; “Assign timers” resolves more of them at once. */
const SHOWN = 6;

/** The conflicts of the plan, each with its sentence and its fixes, one click each. */
export function Conflicts() {
  const { evaluation, plan, change, report } = usePlanContext();
  const [found, setFound] = useState<{ plan: Plan; fixes: Fix[][] }>();
  const { conflicts } = evaluation;
  const some = conflicts.length > 0;
  useEffect(() => {
    if (!some) return undefined;
    let current = true;
    const own = search((engine, key) => engine.conflictFixes(key(plan), SHOWN));
    own.result
      .then((fixes) => current && setFound({ plan, fixes }))
      .catch((error: unknown) => report(sentenceOfError(error)));
    return () => {
      current = false;
      own.stop();
    };
  }, [plan, some, report]);
  if (!some) return null;
  return (
    <section aria-label="Conflicts" className={styles.conflicts}>
      {conflicts.slice(0, SHOWN).map(({ title, text, signals }, at) => (
        <div key={signals.join()} className={styles.conflict} data-conflict={signals.join(' ')}>
          <p>
            <b>{title}</b> {unbroken(text)}
          </p>
          <p className={styles.fixes}>
            {found?.plan === plan ? (
              (found.fixes[at] ?? []).map((fix) => (
                <Button key={fix.text} variant="quiet" onClick={() => change({ from: plan, to: fix.plan })}>
                  {fix.text}
                </Button>
              ))
            ) : (
              <span className="soft">searching for fixes …</span>
            )}
          </p>
        </div>
      ))}
      {conflicts.length > SHOWN && (
        <p className="soft">
          and {conflicts.length - SHOWN} more; “Assign timers” can resolve all of them at once.
        </p>
      )}
    </section>
  );
}
