'use client';

import { useEffect, useState } from 'react';
import type { Plan } from '@herzschlag/core/format/plan.ts';
import type { AllotConflict } from '@herzschlag/core/outcome/conflict.ts';
import type { Relief } from '@herzschlag/core/outcome/relief.ts';
import { useBench } from '../../frame/PlanContext.ts';
import { searchApart } from '../../worker/core.ts';
import styles from './plan.module.css';

/** A conflict that no allotment can resolve: why, and ways out of it, one click each. */
export function Reliefs({
  plan,
  conflict,
  take,
}: {
  plan: Plan;
  conflict: AllotConflict;
  take: (relief: Relief) => void;
}) {
  const { report } = useBench();
  const [ways, setWays] = useState<Relief[]>();
  useEffect(() => {
    const search = searchApart((remote) => remote.reliefs(plan, conflict));
    search.result.then(setWays).catch((error: unknown) => report(String(error)));
    return search.stop;
  }, [plan, conflict, report]);
  return (
    <div className={styles.conflict} data-stuck={conflict.signals.join(' ')}>
      <p>{conflict.reason}</p>
      <p className={styles.ways} aria-live="polite">
        {ways ? (
          ways.map((way) => (
            <button key={way.text} type="button" className={styles.way} onClick={() => take(way)}>
              {way.text}
            </button>
          ))
        ) : (
          <span className="soft">trying ways out …</span>
        )}
      </p>
    </div>
  );
}
