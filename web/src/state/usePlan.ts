'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import type { Plan } from '@herzschlag/core';
import { core } from '../worker/core.ts';
import { findPlan, moveStep, reachOf, recordStep } from './plans.ts';

/** A plan as a view sees it while it is open. */
export type OpenPlan = {
  plan: Plan;
  /** Puts an edited plan in force, keeps it as one step of undo, and gives it. */
  change: (edit: (plan: Plan) => Plan) => Plan;
  /** The plan in force this moment, also before the page shows it. */
  now: () => Plan;
  undo?: () => void;
  redo?: () => void;
};

/** What became of opening a plan. */
export type Opening =
  | { state: 'opening' }
  | { state: 'missing' }
  | { state: 'faulty'; sentence: string; stored: unknown }
  | ({ state: 'open'; trouble?: string } & OpenPlan);

function troubleText(error: unknown): string {
  return `This change is not kept: the browser's storage says “${error instanceof Error ? error.message : String(error)}”. Save the plan to a file.`;
}

/** Opens a kept plan, checks it, and keeps every change in the order in which it was made. */
export function usePlan(id: string): Opening {
  const [opening, setOpening] = useState<
    | { state: 'opening' | 'missing' }
    | { state: 'faulty'; sentence: string; stored: unknown }
    | { state: 'open' }
  >({ state: 'opening' });
  const [plan, setPlan] = useState<Plan>();
  const [reach, setReach] = useState({ undo: false, redo: false });
  const [trouble, setTrouble] = useState<string>();
  const inForce = useRef<Plan>(undefined);
  const queue = useRef<Promise<void>>(Promise.resolve());

  const enqueue = useCallback(
    (work: () => Promise<void>) => {
      queue.current = queue.current.then(async () => {
        try {
          await work();
          setReach(await reachOf(id));
          setTrouble(undefined);
        } catch (error) {
          setTrouble(troubleText(error));
        }
      });
    },
    [id],
  );

  useEffect(() => {
    let current = true;
    const open = async () => {
      const row = await findPlan(id);
      const read = row && (await core().check(row.plan));
      if (!current) return;
      if (!row || !read) return setOpening({ state: 'missing' });
      if (!read.ok) return setOpening({ state: 'faulty', sentence: read.fault.sentence, stored: row.plan });
      inForce.current = read.plan;
      setPlan(read.plan);
      setReach(await reachOf(id));
      setOpening({ state: 'open' });
    };
    open().catch((error: unknown) => {
      if (current)
        setOpening({
          state: 'faulty',
          sentence: `The browser's storage cannot be read: ${String(error)}`,
          stored: undefined,
        });
    });
    return () => {
      current = false;
    };
  }, [id]);

  const now = useCallback((): Plan => {
    if (!inForce.current) throw new Error('the plan is not open yet');
    return inForce.current;
  }, []);

  const change = useCallback(
    (edit: (plan: Plan) => Plan): Plan => {
      const next = edit(now());
      inForce.current = next;
      setPlan(next);
      setReach({ undo: true, redo: false });
      enqueue(() => recordStep(id, next));
      return next;
    },
    [enqueue, id, now],
  );

  const move = useCallback(
    (direction: -1 | 1) =>
      enqueue(async () => {
        const next = await moveStep(id, direction);
        if (!next) return;
        inForce.current = next;
        setPlan(next);
      }),
    [enqueue, id],
  );

  if (opening.state !== 'open' || !plan) return opening.state === 'open' ? { state: 'opening' } : opening;
  return {
    state: 'open',
    plan,
    change,
    now,
    ...(reach.undo ? { undo: () => move(-1) } : {}),
    ...(reach.redo ? { redo: () => move(1) } : {}),
    ...(trouble ? { trouble } : {}),
  };
}
