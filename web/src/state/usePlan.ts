'use client';

import { startTransition, useCallback, useEffect, useRef, useState } from 'react';
import { type Clash, type Fault, mergePlans, type Plan } from '@herzschlag/core';
import { sentenceOfError } from '../worker/useEngine.ts';
import {
  findPlan,
  findStep,
  moveToStep,
  PlanGone,
  RevisionConflict,
  revisionOf,
  storePlan,
} from './plans.ts';
import {
  checked,
  faultOf,
  isChecked,
  lastOpenable,
  openable,
  stored,
  StepFault,
  type InForce,
} from './stored.ts';
import { listen } from './tabs.ts';
import { useQueue } from './useQueue.ts';

/** What an edit makes of a plan; or a whole plan that was made from one, which is merged with the plan in force. */
type Edit = ((plan: Plan) => Plan) | { from: Plan; to: Plan };

/** Told what is wrong with an edit that is refused. */
export type Told = (fault: Fault) => void;

/**
 * Two versions of the plan that differ in the same place: this tab's, which is not stored, and the one that another tab
 * stored. The other one is in force until this tab's is taken.
 */
export type Collision = { mine: Plan; theirs: Plan; clashes: Clash[]; close: () => void };

/** A plan as a view sees it while it is open. */
export type OpenPlan = {
  plan: Plan;
  /**
   * Checks an edited plan as a file is checked, stores it as one step of undo, and puts it in force. Where it is refused
   * `told` gets the reason, or the page says it.
   */
  change: (edit: Edit, told?: Told) => void;
  /** As `change`; gives the plan once it is in force, undefined where it was not taken. */
  commit: (edit: Edit, told?: Told) => Promise<Plan | undefined>;
  /** The plan in force this moment, also before the page shows it. */
  now: () => Plan;
  undo?: () => void;
  redo?: () => void;
  /** Takes away the sentence about what went wrong last. */
  calm: () => void;
  collision?: Collision;
  /** Stores the plan again; present while it is deleted elsewhere. */
  keep?: () => void;
};

/** A stored plan that cannot be opened, and the last state of its history that can be. */
export type FaultyPlan = {
  state: 'faulty';
  sentence: string;
  stored: unknown;
  last?: { plan: Plan; stepsBack: number; open: () => void };
};

/** What became of opening a plan. */
export type Opening =
  | { state: 'opening' }
  | { state: 'missing' }
  | FaultyPlan
  | ({ state: 'open'; trouble?: string } & OpenPlan);

/** The plan after an edit, and what of it another tab has changed since the plan it was made from. */
function applied(edit: Edit, plan: Plan): { plan: Plan; clashes: Clash[] } {
  if (typeof edit === 'function') return { plan: edit(plan), clashes: [] };
  return edit.from === plan ? { plan: edit.to, clashes: [] } : mergePlans(edit.from, edit.to, plan);
}

type Shown = { state: 'opening' } | { state: 'missing' } | { state: 'open' } | FaultyPlan;

function unreadable(error: unknown, stored: unknown): FaultyPlan {
  return { state: 'faulty', sentence: sentenceOfError(error), stored };
}

/**
 * A stored plan, checked. Where there is none, or it cannot be opened, `settle` is told; a faulty one can be taken back to its
 * last good state, after which `again` is called.
 */
async function readStored(
  id: string,
  again: () => void,
  settle: (next: Shown) => void,
): Promise<InForce | undefined> {
  const row = await findPlan(id);
  if (!row) {
    settle({ state: 'missing' });
    return undefined;
  }
  const read = await checked(row.plan);
  if (read.ok) return { plan: read.value, revision: revisionOf(row) };
  const last = await lastOpenable(row);
  const recover = (found: { plan: Plan; at: number }) => (): void => {
    moveToStep(id, found.at, found.plan, revisionOf(row))
      .then(again)
      .catch((error: unknown) => settle(unreadable(error, row.plan)));
  };
  settle({
    state: 'faulty',
    sentence: read.fault.sentence,
    stored: row.plan,
    ...(last ? { last: { plan: last.plan, stepsBack: row.at - last.at, open: recover(last) } } : {}),
  });
  return undefined;
}

/** Opens a stored plan, checks it, and stores every change in the order in which it was made. */
export function usePlan(id: string): Opening {
  const [opening, setOpening] = useState<Shown>({ state: 'opening' });
  const [plan, setPlan] = useState<Plan>();
  const [collision, setCollision] = useState<Omit<Collision, 'close'>>();
  const [gone, setGone] = useState(false);
  const [attempt, setAttempt] = useState(0);
  const inForce = useRef<InForce>(undefined);
  const { enqueue, reach, look, trouble, calm } = useQueue(id);

  const put = useCallback((next: InForce) => {
    inForce.current = next;
    // What a view shows of its own edit comes first on the screen, the page around it a moment later.
    startTransition(() => setPlan(next.plan));
  }, []);

  useEffect(() => {
    let current = true;
    const settle = (next: Shown): void => {
      if (current) setOpening(next);
    };
    const open = async (): Promise<void> => {
      const found = await readStored(id, () => setAttempt((count) => count + 1), settle);
      if (!current || !found) return;
      put(found);
      await look();
      settle({ state: 'open' });
    };
    open().catch((error: unknown) => settle(unreadable(error, undefined)));
    return () => {
      current = false;
    };
  }, [id, attempt, put, look]);

  useEffect(
    () =>
      listen(id, () => {
        void enqueue(async () => {
          if (!inForce.current) return;
          const row = await findPlan(id);
          setGone(!row);
          if (!row || revisionOf(row) <= inForce.current.revision) return;
          put({ plan: await openable(row.plan), revision: revisionOf(row) });
        });
      }),
    [id, enqueue, put],
  );

  const now = useCallback((): Plan => {
    if (!inForce.current) throw new Error('the plan is not open yet');
    return inForce.current.plan;
  }, []);

  const commit = useCallback(
    (edit: Edit, told?: Told): Promise<Plan | undefined> =>
      enqueue(async () => {
        const base = inForce.current;
        if (!base) return undefined;
        const { plan: next, clashes } = applied(edit, base.plan);
        if (clashes.length > 0) {
          setCollision({ mine: next, theirs: base.plan, clashes });
          return undefined;
        }
        if (next === base.plan) return next;
        const fault = isChecked(next) ? undefined : await faultOf(next);
        if (fault) {
          if (told) told(fault);
          else throw new StepFault(fault.plain ?? fault.sentence);
          return undefined;
        }
        try {
          put(await stored(id, base, next));
        } catch (error) {
          if (error instanceof PlanGone) {
            // It is not stored, but what was typed stands until the user keeps the plan or leaves it.
            put({ ...base, plan: next });
            setGone(true);
            return next;
          }
          if (!(error instanceof RevisionConflict)) throw error;
          const theirs = await openable(error.row.plan);
          setCollision({ mine: next, theirs, clashes: mergePlans(base.plan, next, theirs).clashes });
          put({ plan: theirs, revision: revisionOf(error.row) });
          return undefined;
        }
        return inForce.current?.plan;
      }),
    [enqueue, id, put],
  );

  const change = useCallback(
    (edit: Edit, told?: Told): void => {
      void commit(edit, told);
    },
    [commit],
  );

  const move = useCallback(
    (direction: -1 | 1) => {
      void enqueue(async () => {
        const step = await findStep(id, direction);
        if (!step || !inForce.current) return;
        const next = await openable(step.state);
        const row = await moveToStep(id, step.at, next, inForce.current.revision);
        put({ plan: next, revision: revisionOf(row) });
      });
    },
    [enqueue, id, put],
  );

  const keep = useCallback(() => {
    void enqueue(async () => {
      if (!inForce.current) return;
      await storePlan(inForce.current.plan, id);
      put({ plan: inForce.current.plan, revision: 0 });
      setGone(false);
    });
  }, [enqueue, id, put]);

  if (opening.state !== 'open') return opening;
  if (!plan) return { state: 'opening' };
  return {
    state: 'open',
    plan,
    change,
    commit,
    now,
    calm,
    ...(reach.undo ? { undo: () => move(-1) } : {}),
    ...(reach.redo ? { redo: () => move(1) } : {}),
    ...(trouble ? { trouble } : {}),
    ...(collision ? { collision: { ...collision, close: () => setCollision(undefined) } } : {}),
    ...(gone ? { keep } : {}),
  };
}
