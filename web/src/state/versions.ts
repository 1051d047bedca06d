import { useEffect, useState } from 'react';
import type { Plan } from '@herzschlag/core';
import type { StepRow, VersionRow } from './db.ts';
import { earlierSteps } from './plans.ts';
import { useStorage, withDatabase } from './storage.ts';
import { announce, listenToAll } from './tabs.ts';

/** Keeps a plan as it is now under a name. */
export async function keepVersion(plan: string, name: string, state: Plan): Promise<void> {
  await withDatabase((db) => db.versions.add({ plan, name, at: Date.now(), state }));
  announce(plan);
}

/** Forgets a version that was kept. */
export async function forgetVersion({ id, plan }: VersionRow): Promise<void> {
  await withDatabase((db) => db.versions.delete(id));
  announce(plan);
}

/** The named versions of a plan and the steps of its history before now, the newest first. */
export type Past = { versions: VersionRow[]; steps: StepRow[] };

/** What a plan was before; read anew when it changes, while `wanted`. */
export function usePast(plan: string, wanted: boolean, report: (sentence: string) => void): Past {
  const [past, setPast] = useState<Past>({ versions: [], steps: [] });
  const { kind } = useStorage();
  useEffect(() => {
    if (!wanted) return undefined;
    let current = true;
    const read = async (): Promise<Past> => ({
      versions: await withDatabase((db) => db.versions.where('plan').equals(plan).reverse().toArray()),
      steps: await earlierSteps(plan),
    });
    const take = (): void => {
      read().then(
        (found) => {
          if (current) setPast(found);
        },
        (error: unknown) => report(`Earlier versions cannot be read: ${String(error)}`),
      );
    };
    take();
    const end = listenToAll(take);
    return () => {
      current = false;
      end();
    };
  }, [plan, wanted, kind, report]);
  return past;
}
