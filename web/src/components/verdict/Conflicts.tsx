'use client';

import Button from '@mui/material/Button';
import { usePlanContext } from '../frame/PlanContext.ts';
import { useSearch } from '../../worker/useEngine.ts';
import { unbroken } from '../text/unbroken.ts';
import styles from './conflicts.module.css';

/** Conflicts that are shown with their fixes; “Assign timers” resolves more of them at once. */
const SHOWN = 6;

/** The conflicts of the plan, each with its sentence and its fixes, one click each. */
export function Conflicts() {
  const { evaluation, plan, change, report } = usePlanContext();
  const { conflicts } = evaluation;
  const { value: fixes } = useSearch(
    ['conflict fixes', plan],
    (engine, key, wanted) => engine.conflictFixes(key(plan), SHOWN, wanted),
    { asks: true, enabled: conflicts.length > 0, report },
  );
  if (conflicts.length === 0) return null;
  return (
    <section aria-label="Conflicts" className={styles.conflicts}>
      {conflicts.slice(0, SHOWN).map(({ title, text, signals }, at) => (
        <div key={signals.join()} className={styles.conflict} data-conflict={signals.join(' ')}>
          <p>
            <b>{title}</b> {unbroken(text)}
          </p>
          <p className={styles.fixes}>
            {fixes ? (
              (fixes[at] ?? []).map((fix) => (
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
