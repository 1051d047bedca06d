'use client';

import Button from '@mui/material/Button';
import type { usePlanList } from '../../state/planList.ts';
import { useStorage } from '../../state/storage.ts';
import { PlanEntry } from './PlanEntry.tsx';
import styles from './start.module.css';
import type { StartActions } from './useStartActions.ts';

/** The plans of this browser, or of this page where it stores nothing; undefined rows are still being read. */
export function StoredPlans({
  rows,
  actions,
}: {
  rows: ReturnType<typeof usePlanList>;
  actions: StartActions;
}) {
  const stored = useStorage().kind === 'browser';
  const some = rows !== undefined && rows.length > 0;
  return (
    <section aria-label="Stored plans">
      <div className={styles.stored}>
        <h2 className="label">
          {stored ? 'Stored in this browser' : 'Kept in this page until it is closed'}
        </h2>
        {stored && actions.lasting === false && some && (
          <p className="soft" data-testid="not-lasting">
            This browser may discard them when space runs short. Keep a backup.
          </p>
        )}
        {some && (
          <Button variant="quiet" onClick={actions.saveAll}>
            Save a backup
          </Button>
        )}
      </div>
      {rows?.length === 0 && (
        <p className={`soft ${styles.none}`}>
          No plan yet. Type above what a pin should do, or open a demo: change a number and watch.
        </p>
      )}
      <ul className={styles.list}>
        {rows?.map((row) => (
          <PlanEntry key={row.id} row={row} remove={() => actions.remove(row.id)} />
        ))}
      </ul>
    </section>
  );
}
