import { liveQuery } from 'dexie';
import { useEffect, useState } from 'react';
import type { Database, PlanRow } from './db.ts';
import { currentDatabase, useStorage } from './storage.ts';

/** Watches what a query finds, whichever tab changes it; gives a function that ends it. */
function watch<T>(query: (db: Database) => Promise<T>, seen: (found: T) => void): () => void {
  let ended = false;
  let stop: () => void = () => undefined;
  currentDatabase()
    .then((db) => {
      if (ended) return;
      // An error here is met again by the next read or write, which says what became of the storage.
      const subscription = liveQuery(() => query(db)).subscribe({ next: seen, error: () => undefined });
      stop = () => subscription.unsubscribe();
    })
    .catch(() => undefined);
  return () => {
    ended = true;
    stop();
  };
}

/** Watches a stored plan; undefined where it is deleted. */
export function watchPlan(id: string, seen: (row: PlanRow | undefined) => void): () => void {
  return watch((db) => db.plans.get(id), seen);
}

/** All stored plans, the one changed last first, kept up to date; undefined until they are read. */
export function usePlanList(): PlanRow[] | undefined {
  const [rows, setRows] = useState<PlanRow[]>();
  const { kind } = useStorage();
  useEffect(() => watch((db) => db.plans.orderBy('changed').reverse().toArray(), setRows), [kind]);
  return rows;
}
