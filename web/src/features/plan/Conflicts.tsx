'use client';

import { useEffect, useState } from 'react';
import type { Fix, Plan } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { searchApart } from '../../worker/core.ts';
import styles from './plan.module.css';

/** So many collisions are shown with their ways out; “Allot all” is the way out of more. */
const SHOWN = 6;

/** What collides, each with its sentence and the ways out of it, one click each. */
export function Conflicts() {
  const { outcome, plan, change, report } = usePlanContext();
  const [found, setFound] = useState<{ plan: Plan; routes: Fix[][] }>();
  const some = (outcome?.conflicts.length ?? 0) > 0;
  useEffect(() => {
    if (!some) return undefined;
    let current = true;
    const search = searchApart((remote) => remote.fixesFor(plan, SHOWN));
    search.result
      .then((routes) => current && setFound({ plan, routes }))
      .catch((error: unknown) => report(String(error)));
    return () => {
      current = false;
      search.stop();
    };
  }, [plan, some, report]);
  if (!outcome || !some) return null;
  return (
    <section aria-label="Conflicts" className={styles.conflicts}>
      {outcome.conflicts.slice(0, SHOWN).map(({ title, text, signals }, at) => (
        <div key={signals.join()} className={styles.conflict} data-conflict={signals.join(' ')}>
          <p>
            <b>{title}</b> {text}
          </p>
          <p className={styles.routes}>
            {found?.plan === plan ? (
              (found.routes[at] ?? []).map((route) => (
                <button
                  key={route.text}
                  type="button"
                  className={styles.route}
                  onClick={() => change(() => route.plan)}
                >
                  {route.text}
                </button>
              ))
            ) : (
              <span className="soft">looking for ways out …</span>
            )}
          </p>
        </div>
      ))}
      {outcome.conflicts.length > SHOWN && (
        <p className="soft">
          and {outcome.conflicts.length - SHOWN} more; “Allot all” looks for a way out of them all.
        </p>
      )}
    </section>
  );
}
