'use client';

import { useEffect, useState } from 'react';
import type { Plan } from '@herzschlag/core/format/plan.ts';
import type { WayOut } from '@herzschlag/core/outcome/collisions.ts';
import { useBench } from '../../frame/PlanContext.ts';
import { searchApart } from '../../worker/core.ts';
import styles from './plan.module.css';

/** So many collisions are shown with their ways out; “Allot all” is the way out of more. */
const SHOWN = 6;

/** What collides, each with its sentence and the ways out of it, one click each. */
export function Collisions() {
  const { outcome, plan, change, report } = useBench();
  const [found, setFound] = useState<{ plan: Plan; ways: WayOut[][] }>();
  const some = (outcome?.conflicts.length ?? 0) > 0;
  useEffect(() => {
    if (!some) return undefined;
    let current = true;
    const search = searchApart((remote) => remote.waysOut(plan, SHOWN));
    search.result
      .then((ways) => current && setFound({ plan, ways }))
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
          <p className={styles.ways}>
            {found?.plan === plan ? (
              (found.ways[at] ?? []).map((way) => (
                <button
                  key={way.text}
                  type="button"
                  className={styles.way}
                  onClick={() => change(() => way.plan)}
                >
                  {way.text}
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
