'use client';

import { createContext, useContext } from 'react';
import type { Plan, PlanSignal } from '@herzschlag/core/format/plan.ts';
import type { PlanOutcome } from '@herzschlag/core/outcome/outcome.ts';
import type { OpenPlan } from '../store/usePlan.ts';
import type { PartFacts } from '../worker/facts.ts';

/** What every view of an open plan works with. */
export type Bench = {
  planId: string;
  plan: Plan;
  part: PartFacts;
  change: OpenPlan['change'];
  now: OpenPlan['now'];
  /** The outcome of the whole plan; it follows a change a moment later. */
  outcome?: PlanOutcome;
  /** The signal the Fit view shows. */
  signal: PlanSignal | undefined;
  showSignal: (id: string) => void;
  /** Says something went wrong, in the page. */
  report: (sentence: string | undefined) => void;
};

const BenchContext = createContext<Bench | undefined>(undefined);

/** Gives the views below it the open plan. */
export const BenchProvider = BenchContext.Provider;

/** The open plan. */
export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error('useBench outside an open plan');
  return bench;
}
