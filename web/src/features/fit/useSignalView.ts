'use client';

import { startTransition, useCallback, useEffect, useRef, useState } from 'react';
import type { AdjustedField, Plan, PlanSignal, Ranking, Setting, SignalView, Surroundings } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { core } from '../../worker/core.ts';

type Shown = { plan: Plan; signal: PlanSignal; view: SignalView };

/** The open signal with its view, and the ways to change it. Every change is one step of undo. */
export type SignalEditor = {
  signal: PlanSignal;
  view: SignalView;
  /** They follow the view a moment later; until then those before stand. */
  around?: Surroundings;
  /** The target was changed: the setting is looked for anew. */
  retarget: (next: PlanSignal) => void;
  /** This setting is to be used. */
  choose: (setting: Setting) => void;
  /** One number of the setting is changed by hand. */
  adjust: (field: AdjustedField, value: number) => void;
  /** The setting that is best by a ranking is to be used. */
  takeBest: (ranking: Ranking) => void;
  /** Moves a target to the next value the hardware can make; does nothing where there is none. */
  step: (token: 'frequency' | 'duty', by: number) => void;
};

/** The surroundings are asked for once the waveform is on the screen: two frames after it was committed. */
const AFTER_PAINT_MS = 34;

function replaced(plan: Plan, signal: PlanSignal): Plan {
  return { ...plan, signals: plan.signals.map((one) => (one.id === signal.id ? signal : one)) };
}

/** What follows the view of a signal: its landscape and the reasons of what cannot serve it. */
function useSurroundings(shown: Shown | undefined): Surroundings | undefined {
  const { report } = usePlanContext();
  const [around, setAround] = useState<Surroundings>();
  useEffect(() => {
    if (!shown) return undefined;
    let current = true;
    const later = setTimeout(() => {
      core()
        .surroundings(shown.plan, shown.signal)
        .then((next) => current && startTransition(() => setAround(next)))
        .catch((error: unknown) => report(String(error)));
    }, AFTER_PAINT_MS);
    return () => {
      current = false;
      clearTimeout(later);
    };
  }, [shown, report]);
  return around;
}

/**
 * The desk of a signal; undefined until its first view has been computed. Changes are worked off one after another, each
 * on top of the one before, so that none is lost however fast they come.
 */
export function useSignalView(signal: PlanSignal): SignalEditor | undefined {
  const { plan, change, now, report } = usePlanContext();
  const [shown, setShown] = useState<Shown>();
  const around = useSurroundings(shown);
  const done = useRef<Shown>(undefined);
  const queue = useRef<Promise<void>>(Promise.resolve());

  const show = useCallback((next: Shown) => {
    done.current = next;
    setShown(next);
  }, []);

  const enqueue = useCallback(
    (work: () => Promise<void>) => {
      queue.current = queue.current.then(work).catch((error: unknown) => report(String(error)));
    },
    [report],
  );

  useEffect(() => {
    enqueue(async () => {
      if (done.current?.plan === plan || plan !== now()) return;
      show({ plan, signal, view: await core().view(plan, signal, false) });
    });
  }, [plan, signal, now, enqueue, show]);

  const commit = useCallback(
    (edit: (shown: Shown) => Promise<PlanSignal | undefined>, renew: boolean) =>
      enqueue(async () => {
        const next = done.current && (await edit(done.current));
        if (!next) return;
        const view = await core().view(replaced(now(), next), next, renew);
        const settled = view.setting ? { ...next, setting: view.setting } : next;
        show({ plan: replaced(now(), settled), signal: settled, view });
        startTransition(() => {
          const changed = change((before) => replaced(before, settled));
          if (done.current) done.current = { ...done.current, plan: changed };
        });
      }),
    [enqueue, change, now, show],
  );

  if (!shown || shown.signal.id !== signal.id) return undefined;
  return {
    signal: shown.signal,
    view: shown.view,
    ...(around ? { around } : {}),
    retarget: (next) => commit(() => Promise.resolve(next), true),
    choose: (setting) => commit((before) => Promise.resolve({ ...before.signal, setting }), false),
    adjust: (field, value) =>
      commit(async ({ plan: before, signal: one, view }) => {
        if (!view.setting) return undefined;
        return { ...one, setting: await core().adjust(before, one, view.setting, field, value) };
      }, false),
    takeBest: (ranking) =>
      commit(async ({ plan: before, signal: one }) => {
        const setting = await core().best(before, one, ranking);
        return setting && { ...one, setting };
      }, false),
    step: (token, by) =>
      commit(async ({ plan: before, signal: one, view }) => {
        const next = view.setting && (await core().step(before, one, view.setting, token, by));
        return next && { ...next.signal, setting: next.setting };
      }, false),
  };
}
