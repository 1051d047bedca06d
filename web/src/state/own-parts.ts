import { useEffect, useState } from 'react';
import type { Part } from '@herzschlag/core';
import type { PartRow } from './db.ts';
import { useStorage, withDatabase } from './storage.ts';
import { announce, listenToAll } from './tabs.ts';

/** Keeps a part that was read from a file, with its text; one of the same id takes its place. */
export async function keepPart({ id, name, about }: Part, text: string): Promise<void> {
  await withDatabase((db) => db.parts.put({ id, name, about, text, changed: Date.now() }));
  announce(id);
}

/** Takes a part from the list of kept ones; plans that use it have it with them. */
export async function forgetPart(id: string): Promise<void> {
  await withDatabase((db) => db.parts.delete(id));
  announce(id);
}

/** The parts that were loaded from files in this browser, the one loaded last first; none until they are read. */
export function useKeptParts(report: (sentence: string) => void): PartRow[] {
  const [rows, setRows] = useState<PartRow[]>([]);
  const { kind } = useStorage();
  useEffect(() => {
    let current = true;
    const read = (): void => {
      withDatabase((db) => db.parts.orderBy('changed').reverse().toArray()).then(
        (found) => {
          if (current) setRows(found);
        },
        (error: unknown) => report(`The parts from files cannot be listed: ${String(error)}`),
      );
    };
    read();
    const end = listenToAll(read);
    return () => {
      current = false;
      end();
    };
  }, [kind, report]);
  return rows;
}
