import { liveQuery } from 'dexie';
import { useEffect, useState } from 'react';
import type { PlanRow } from './db.ts';
import { currentDatabase, useStorage } from './storage.ts';

/** All stored plans, the one changed last first, kept up to date; undefined until they are read. */
export function usePlanList(): PlanRow[] | undefined {
  const [rows, setRows] = useState<PlanRow[]>();
  const { kind } = useStorage();
  useEffect(() => {
    let stop: () => void = () => undefined;
    let ended = false;
    currentDatabase()
      .then((db) => {
        if (ended) return;
        const list = liveQuery(() => db.plans.orderBy('changed').reverse().toArray());
        const subscription = list.subscribe({ next: setRows, error: () => setRows([]) });
        stop = () => subscription.unsubscribe();
      })
      .catch(() => setRows([]));
    return () => {
      ended = true;
      stop();
    };
  }, [kind]);
  return rows;
}
