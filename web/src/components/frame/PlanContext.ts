'use client';

import { createContext, useContext } from 'react';
import type { Evaluation, Failure, Plan, PlanSignal } from '@herzschlag/core';
import type { OpenPlan } from '../../state/usePlan.ts';
import type { PartFacts } from '../../worker/facts.ts';

/** What every view of an open plan works with. */
export type PlanContextValue = {
  planId: string;
  plan: Plan;
  part: PartFacts;
  change: OpenPlan['change'];
  commit: OpenPlan['commit'];
  now: OpenPlan['now'];
  /** The evaluation of the whole plan; it follows a change a moment later. */
  evaluation: Evaluation;
  /** The signal the Fit view shows. */
  signal: PlanSignal | undefined;
  showSignal: (id: string) => void;
  /** Opens what a failure is about: its signal, or the moment in the Interrupts view. */
  showFailure: (failure: Failure) => void;
  /** Says something went wrong, in the page. */
  report: (sentence: string | undefined) => void;
};

const PlanContext = createContext<PlanContextValue | undefined>(undefined);

/** Gives the views below it the open plan. */
export const PlanContextProvider = PlanContext.Provider;

/** The open plan. */
export function usePlanContext(): PlanContextValue {
  const context = useContext(PlanContext);
  if (!context) throw new Error('usePlanContext outside an open plan');
  return context;
}
