'use client';

import { useEffect, useState } from 'react';
import type { Infeasibility, Plan, TriedFix } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { searchApart } from '../../worker/core.ts';
import styles from './plan.module.css';

/** A conflict that no allotment can resolve: why, and ways out of it, one click each. */
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
  const [routes, setWays] = useState<TriedFix[]>();
  useEffect(() => {
    const search = searchApart((remote) => remote.fixes(plan, conflict));
    search.result.then(setWays).catch((error: unknown) => report(String(error)));
    return search.stop;
  }, [plan, conflict, report]);
  return (
    <div className={styles.conflict} data-stuck={conflict.signals.join(' ')}>
      <p>{conflict.reason}</p>
      <p className={styles.routes} aria-live="polite">
        {routes ? (
          routes.map((route) => (
            <button key={route.text} type="button" className={styles.route} onClick={() => take(route)}>
              {route.text}
            </button>
          ))
        ) : (
          <span className="soft">trying ways out …</span>
        )}
      </p>
    </div>
  );
}
