'use client';

import Button from '@mui/material/Button';
import type { Failure } from '@herzschlag/core';
import Link from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { useCallback, useMemo, useState } from 'react';
import { ErrorBoundary, type FallbackProps } from 'react-error-boundary';
import { savePlanFile, saveText } from '../../../../state/file.ts';
import { usePlan, type FaultyPlan, type OpenPlan } from '../../../../state/usePlan.ts';
import { sentenceOfError, useEngine } from '../../../../worker/useEngine.ts';
import { FitView } from '../../../../features/fit/FitView.tsx';
import { InterruptsView } from '../../../../features/interrupts/InterruptsView.tsx';
import { HandoffView } from '../../../../features/handoff/HandoffView.tsx';
import { TraceView } from '../../../../features/trace/TraceView.tsx';
import { PlanView } from '../../../../features/plan/PlanView.tsx';
import { PlanContextProvider, type PlanContextValue } from '../../../../components/frame/PlanContext.ts';
import { CollisionDialog } from '../../../../components/frame/CollisionDialog.tsx';
import { EngineNotice, Notice, StorageNotice } from '../../../../components/frame/Notices.tsx';
import { Rail } from '../../../../components/frame/Rail.tsx';
import { TopBar } from '../../../../components/frame/TopBar.tsx';
import { useDrop } from '../../../../components/frame/useDrop.ts';
import { ProgramDialog } from '../../../../components/signals/ReadProgram.tsx';
import { useShortcuts } from '../../../../components/frame/useShortcuts.ts';
import type { ViewId } from '../../../../components/frame/views.ts';
import styles from '../../../../components/frame/frame.module.css';

const VIEW_PARTS = {
  plan: PlanView,
  fit: FitView,
  trace: TraceView,
  interrupts: InterruptsView,
  handoff: HandoffView,
} as const;

/** An open plan in its frame; until then, what became of opening it. */
export function Workbench({ planId, view }: { planId: string; view: ViewId }) {
  const opening = usePlan(planId);
  if (opening.state === 'opening') return <div className={styles.middle} aria-busy="true" />;
  if (opening.state === 'missing') {
    return (
      <div className={styles.middle}>
        <h1 className="serif">No plan is stored under this address in this browser.</h1>
        <Link href="/">All plans</Link>
      </div>
    );
  }
  if (opening.state === 'faulty') {
    return (
      <div className={styles.middle}>
        <h1 className="serif">The stored plan cannot be opened.</h1>
        <p>{opening.sentence}</p>
        {opening.last && <LastState last={opening.last} />}
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

/** The last state of a plan's history that opens, for one that does not. */
function LastState({ last }: { last: NonNullable<FaultyPlan['last']> }) {
  const { plan, stepsBack, open } = last;
  const count = plan.signals.length;
  return (
    <>
      <p>
        The previous state {stepsBack === 1 ? 'change' : `${stepsBack} changes`} opens: “{plan.name}” with{' '}
        {count} {count === 1 ? 'signal' : 'signals'}.
      </p>
      <Button variant="contained" onClick={open}>
        Continue from that state
      </Button>
      <Button onClick={() => savePlanFile(plan)}>Save that state to a file</Button>
    </>
  );
}

/** What stands in place of a view that has stopped on an error of ours; the rest of the page goes on. */
function BrokenView({ error, resetErrorBoundary }: FallbackProps) {
  return (
    <div className={styles.broken} role="alert">
      <h1 className="serif">This view stopped because of an error in Herzschlag.</h1>
      <p className="soft">{sentenceOfError(error)}</p>
      <p>The plan is stored, and the other views still work.</p>
      <Button variant="contained" onClick={resetErrorBoundary}>
        Try again
      </Button>
    </div>
  );
}

/** What stands in place of the bar above the views: undo and saving go on. */
function BrokenBar({ error, resetErrorBoundary }: FallbackProps) {
  return (
    <header className={styles.top} role="alert">
      <span>The bar stopped because of an error in Herzschlag: {sentenceOfError(error)}</span>
      <Button color="inherit" onClick={resetErrorBoundary}>
        Try again
      </Button>
    </header>
  );
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
  const { plan, change, commit, now } = open;
  const [problem, setProblem] = useState<string>();
  const signal = plan.signals.find((one) => one.id === wanted) ?? plan.signals[0];
  const { value: evaluation } = useEngine(['evaluate', plan], (engine, key) => engine.evaluate(key(plan)), {
    keep: true,
    report: setProblem,
  });
  const { value: part } = useEngine(
    ['facts', plan.part, plan.ownPart],
    (engine, key) => engine.facts(key(plan)),
    { keep: true, report: setProblem },
  );

  const address = useCallback(
    (to: ViewId, id = signal?.id) => `/plans/${planId}/${to}${id ? `?signal=${encodeURIComponent(id)}` : ''}`,
    [planId, signal?.id],
  );
  const go = useCallback((to: ViewId) => router.push(address(to)), [router, address]);
  const showSignal = useCallback((id: string) => router.push(address('fit', id)), [router, address]);
  const showFailure = useCallback(
    ({ signal: of, task, interrupts, atS }: Failure) => {
      if (!interrupts) return router.push(address('fit', of));
      const moment = atS === undefined ? '' : `&at=${atS}`;
      const what = task === undefined ? '' : `&task=${encodeURIComponent(task)}`;
      return router.push(
        `/plans/${planId}/interrupts?signal=${encodeURIComponent(of ?? '')}${what}${moment}`,
      );
    },
    [router, address, planId],
  );
  useShortcuts(open, go);
  const drop = useDrop(planId, go, setProblem);

  const context = useMemo<PlanContextValue | undefined>(
    () =>
      evaluation &&
      part && {
        planId,
        plan,
        change,
        commit,
        now,
        signal,
        showSignal,
        showFailure,
        report: setProblem,
        evaluation,
        part,
      },
    [planId, plan, change, commit, now, signal, showSignal, showFailure, evaluation, part],
  );
  if (!context) {
    return (
      <div className={styles.middle} aria-busy={problem === undefined}>
        {problem && (
          <>
            <h1 className="serif">This plan cannot be computed.</h1>
            <p>{problem}</p>
            <Button onClick={() => savePlanFile(plan)}>Save the plan to a file</Button>
            {open.undo && <Button onClick={open.undo}>Undo the last change</Button>}
            <Link href="/">All plans</Link>
          </>
        )}
      </div>
    );
  }
  const View = VIEW_PARTS[view];
  const said = trouble ?? problem;
  const dismiss = (): void => {
    setProblem(undefined);
    open.calm();
  };
  return (
    <PlanContextProvider value={context}>
      <div className={styles.frame} {...drop.listeners}>
        <Rail address={address} view={view} />
        <ErrorBoundary FallbackComponent={BrokenBar} resetKeys={[plan]}>
          <TopBar open={open} take={drop.take} />
        </ErrorBoundary>
        <main className={styles.body}>
          <StorageNotice plan={plan} />
          <EngineNotice />
          {open.keep && (
            <Notice
              text="This plan was deleted in another tab. What you see is in this page only."
              action="store it again"
              act={open.keep}
            />
          )}
          {said && <Notice text={said} action="dismiss" act={dismiss} />}
          {drop.done && <Notice text={drop.done} action="dismiss" act={drop.calm} />}
          {open.collision && <CollisionDialog collision={open.collision} change={change} />}
          <ErrorBoundary FallbackComponent={BrokenView} resetKeys={[view, plan]}>
            <View />
          </ErrorBoundary>
        </main>
        {drop.over && (
          <div className={styles.dropping}>
            <p>Drop a plan, an archive, a part, a backup, a capture or a program.</p>
          </div>
        )}
        {drop.program !== undefined && <ProgramDialog text={drop.program} close={drop.endProgram} />}
      </div>
    </PlanContextProvider>
  );
}
