'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import type { Plan, Result } from '@herzschlag/core';
import { ask } from '../worker/engine.ts';
import { findPlan, findStep, moveToStep, reachOf, recordStep } from './plans.ts';

/** A plan as a view sees it while it is open. */
export type OpenPlan = {
  plan: Plan;
  /** Puts an edited plan in force, stores it as one step of undo, and gives it. */
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

/** A step of undo that cannot be read; nothing was changed. */
class StepFault extends Error {}

function troubleText(error: unknown): string {
  if (error instanceof StepFault) return error.message;
  return `This change is not saved: the browser's storage says “${error instanceof Error ? error.message : String(error)}”. Save the plan to a file.`;
}

/** A stored plan, or step of its history, checked by the reader that checks plan files. */
function checked(value: unknown): Promise<Result<Plan>> {
  return ask((engine) => engine.readPlan({ kind: 'stored plan', value }));
}

/** Opens a stored plan, checks it, and stores every change in the order in which it was made. */
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
  /** How many edits were made, so that an undo that was asked for before one does not come after it on the screen. */
  const edits = useRef(0);
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
      const read = row && (await checked(row.plan));
      if (!current) return;
      if (!row || !read) return setOpening({ state: 'missing' });
      if (!read.ok) return setOpening({ state: 'faulty', sentence: read.fault.sentence, stored: row.plan });
      inForce.current = read.value;
      setPlan(read.value);
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
      edits.current += 1;
      inForce.current = next;
      setPlan(next);
      setReach({ undo: true, redo: false });
      enqueue(() => recordStep(id, next));
      return next;
    },
    [enqueue, id, now],
  );

  const move = useCallback(
    (direction: -1 | 1) => {
      const before = edits.current;
      enqueue(async () => {
        const step = await findStep(id, direction);
        if (!step) return;
        const read = await checked(step.state);
        if (!read.ok)
          throw new StepFault(`This step cannot be opened, so nothing was changed: ${read.fault.sentence}`);
        await moveToStep(id, step.at, read.value);
        if (edits.current !== before) return;
        inForce.current = read.value;
        setPlan(read.value);
      });
    },
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
