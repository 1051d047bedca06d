'use client';

import Button from '@mui/material/Button';
import type { Infeasibility, Plan, TriedFix } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { useSearch } from '../../worker/useEngine.ts';
import { unbroken } from '../../components/text/unbroken.ts';
import styles from './plan.module.css';

/** A conflict that no assignment can resolve: why, and its fixes, one click each. */
export function Fixes({
  plan,
  conflict,
  take,
}: {
  plan: Plan;
  conflict: Infeasibility;
  take: (fix: TriedFix) => void;
}) {
  const { report } = usePlanContext();
  const { value: fixes } = useSearch(
    ['fixes', plan, conflict],
    (engine, key) => engine.infeasibleFixes(key(plan), conflict),
    { report },
  );
  return (
    <div className={styles.conflict} data-infeasible={conflict.signals.join(' ')}>
      <p>{unbroken(conflict.reason)}</p>
      <p className={styles.fixes} aria-live="polite">
        {fixes ? (
          fixes.map((fix) => (
            <Button key={fix.text} variant="quiet" onClick={() => take(fix)}>
              {fix.text}
            </Button>
          ))
        ) : (
          <span className="soft">trying fixes …</span>
        )}
      </p>
    </div>
  );
}
