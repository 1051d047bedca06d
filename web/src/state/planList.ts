import { useEffect, useState } from 'react';
import type { PlanRow } from './db.ts';
import { useStorage, withDatabase } from './storage.ts';
import { listenToAll } from './tabs.ts';

/** All stored plans, the one changed last first, kept up to date; undefined until they are read. */
export function usePlanList(): PlanRow[] | undefined {
  const [rows, setRows] = useState<PlanRow[]>();
  const { kind } = useStorage();
  useEffect(() => {
    let current = true;
    const read = (): void => {
      withDatabase((db) => db.plans.orderBy('changed').reverse().toArray()).then(
        (found) => current && setRows(found),
        (error: unknown) => {
          // The page says that it stopped, rather than that there is no plan.
          if (current)
            setRows(() => {
              throw error;
            });
        },
      );
    };
    read();
    const end = listenToAll(read);
    return () => {
      current = false;
      end();
    };
  }, [kind]);
  return rows;
}
