'use client';

import Button from '@mui/material/Button';
import Link from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { startTransition, useCallback, useEffect, useMemo, useState } from 'react';
import type { Evaluation } from '@herzschlag/core';
import { saveText } from '../../state/file.ts';
import { usePlan, type OpenPlan } from '../../state/usePlan.ts';
import { core } from '../../worker/core.ts';
import type { PartFacts } from '../../worker/facts.ts';
import { FitView } from '../../features/fit/FitView.tsx';
import { HandoffView } from '../../features/handoff/HandoffView.tsx';
import { TraceView } from '../../features/trace/TraceView.tsx';
import { PlanView } from '../../features/plan/PlanView.tsx';
import { PlanContextProvider, type PlanContextValue } from './PlanContext.ts';
import { Rail } from './Rail.tsx';
import { TopBar } from './TopBar.tsx';
import { useShortcuts } from './useShortcuts.ts';
import type { ViewId } from './views.ts';
import styles from './frame.module.css';

const VIEW_PARTS = { plan: PlanView, fit: FitView, trace: TraceView, handoff: HandoffView } as const;

/** An open plan in its frame; until it is open, what became of opening it. */
export function Workbench({ planId, view }: { planId: string; view: ViewId }) {
  const opening = usePlan(planId);
  if (opening.state === 'opening') return <div className={styles.middle} aria-busy="true" />;
  if (opening.state === 'missing') {
    return (
      <div className={styles.middle}>
        <h1 className="serif">This browser keeps no plan under this address.</h1>
        <Link href="/">All plans</Link>
      </div>
    );
  }
  if (opening.state === 'faulty') {
    return (
      <div className={styles.middle}>
        <h1 className="serif">The stored plan cannot be opened.</h1>
        <p>{opening.sentence}</p>
        {opening.stored !== undefined && (
          <Button
            onClick={() =>
              saveText('stored-plan.json', JSON.stringify(opening.stored, null, 2), 'application/json')
            }
          >
            Save what is stored
          </Button>
        )}
        <Link href="/">All plans</Link>
      </div>
    );
  }
  return <Opened planId={planId} view={view} open={opening} trouble={opening.trouble} />;
}

function Opened({
  planId,
  view,
  open,
  trouble,
}: {
  planId: string;
  view: ViewId;
  open: OpenPlan;
  trouble: string | undefined;
}) {
  const router = useRouter();
  const wanted = useSearchParams().get('signal');
  const { plan, change, now } = open;
  const [part, setPart] = useState<PartFacts>();
  const [outcome, setOutcome] = useState<Evaluation & { clock: string }>();
  const [problem, setProblem] = useState<string>();
  const signal = plan.signals.find((one) => one.id === wanted) ?? plan.signals[0];

  useEffect(() => {
    let current = true;
    const read = async () => {
      const [facts, result] = await Promise.all([core().partOf(plan), core().outcome(plan)]);
      if (!current) return;
      startTransition(() => {
        setPart(facts);
        setOutcome(result);
      });
    };
    read().catch((error: unknown) => current && setProblem(String(error)));
    return () => {
      current = false;
    };
  }, [plan]);

  const address = useCallback(
    (to: ViewId, id = signal?.id) => `/plans/${planId}/${to}${id ? `?signal=${encodeURIComponent(id)}` : ''}`,
    [planId, signal?.id],
  );
  const go = useCallback((to: ViewId) => router.push(address(to)), [router, address]);
  const showSignal = useCallback((id: string) => router.push(address('fit', id)), [router, address]);
  useShortcuts(open, go);

  const context = useMemo<PlanContextValue | undefined>(
    () =>
      part && {
        planId,
        plan,
        part,
        change,
        now,
        signal,
        showSignal,
        report: setProblem,
        ...(outcome ? { outcome } : {}),
      },
    [planId, plan, part, change, now, signal, showSignal, outcome],
  );
  if (!context || !outcome) return <div className={styles.middle}>{problem}</div>;
  const View = VIEW_PARTS[view];
  const said = trouble ?? problem;
  return (
    <PlanContextProvider value={context}>
      <div className={styles.frame}>
        <Rail address={address} view={view} />
        <TopBar open={open} clock={outcome.clock} />
        <main className={styles.body}>
          {said && (
            <p className={styles.trouble} role="alert">
              {said}
              <button type="button" className="plain" onClick={() => setProblem(undefined)}>
                dismiss
              </button>
            </p>
          )}
          <View />
        </main>
      </div>
    </PlanContextProvider>
  );
}
