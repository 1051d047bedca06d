'use client';

import { useCallback, useRef, useState } from 'react';
import { reachOf, RevisionConflict } from './plans.ts';
import { StepFault } from './stored.ts';

function troubleText(error: unknown): string {
  if (error instanceof StepFault) return error.message;
  if (error instanceof RevisionConflict) return 'The plan was changed in another tab; nothing was undone.';
  return `This change is not saved: ${error instanceof Error ? error.message : String(error)} Save the plan to a file.`;
}

/** Work on one stored plan, in the order in which it was asked for. */
export type Queue = {
  /** Does work after what was asked for before it; gives undefined where it failed, which the page then says. */
  enqueue: <T>(work: () => Promise<T>) => Promise<T | undefined>;
  /** Which ways of undo and redo there are. */
  reach: { undo: boolean; redo: boolean };
  /** Looks again which ways there are. */
  look: () => Promise<void>;
  /** What went wrong last. */
  trouble: string | undefined;
  calm: () => void;
};

/** The queue of a plan that is open. */
export function useQueue(id: string): Queue {
  const [reach, setReach] = useState({ undo: false, redo: false });
  const [trouble, setTrouble] = useState<string>();
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const look = useCallback(async () => setReach(await reachOf(id)), [id]);
  const enqueue = useCallback(
    <T>(work: () => Promise<T>): Promise<T | undefined> => {
      const done = last.current.then(async () => {
        try {
          const result = await work();
          look().catch((error: unknown) => setTrouble(troubleText(error)));
          setTrouble(undefined);
          return result;
        } catch (error) {
          setTrouble(troubleText(error));
          return undefined;
        }
      });
      last.current = done;
      return done;
    },
    [look],
  );
  const calm = useCallback(() => setTrouble(undefined), []);
  return { enqueue, reach, look, trouble, calm };
}
