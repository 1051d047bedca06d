'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import type { Plan, PlanSignal } from '@herzschlag/core/format/plan.ts';
import type { SignalView } from '@herzschlag/core/outcome/view.ts';
import type { Setting } from '@herzschlag/core/timer/setting.ts';
import { useBench } from '../../frame/PlanContext.ts';
import { core } from '../../worker/core.ts';

type Shown = { plan: Plan; signal: PlanSignal; view: SignalView };

/** The open signal with its view, and the ways to change it. Every change is one step of undo. */
export type SignalDesk = {
  signal: PlanSignal;
  view: SignalView;
  /** The target was changed: the setting is looked for anew. */
  retarget: (next: PlanSignal) => void;
  /** This setting is to be used. */
  choose: (setting: Setting) => void;
  /** One number of the setting is changed by hand. */
  adjust: (field: 'prescaler' | 'top' | 'compare', value: number) => void;
  /** Moves a target to the next value the hardware can make; does nothing where there is none. */
  step: (token: 'frequency' | 'duty', by: number) => void;
};

function replaced(plan: Plan, signal: PlanSignal): Plan {
  return { ...plan, signals: plan.signals.map((one) => (one.id === signal.id ? signal : one)) };
}

/** The desk of a signal; undefined until its first view has been computed. */
export function useSignalView(signal: PlanSignal): SignalDesk | undefined {
  const { plan, change, report } = useBench();
  const [shown, setShown] = useState<Shown>();
  const done = useRef<Shown>(undefined);
  const latest = useRef(0);

  const show = useCallback((next: Shown) => {
    done.current = next;
    setShown(next);
  }, []);

  const attempt = useCallback(
    (work: (isLatest: () => boolean) => Promise<void>) => {
      latest.current += 1;
      const mine = latest.current;
      work(() => mine === latest.current).catch((error: unknown) => report(String(error)));
    },
    [report],
  );

  useEffect(() => {
    if (done.current?.plan === plan && done.current.signal.id === signal.id) return;
    attempt(async (isLatest) => {
      const view = await core().view(plan, signal, false);
      if (isLatest()) show({ plan, signal, view });
    });
  }, [plan, signal, attempt, show]);

  const commit = useCallback(
    (next: PlanSignal, renew: boolean) =>
      attempt(async (isLatest) => {
        const view = await core().view(replaced(plan, next), next, renew);
        if (!isLatest()) return;
        const settled = view.setting ? { ...next, setting: view.setting } : next;
        const changed = replaced(plan, settled);
        show({ plan: changed, signal: settled, view });
        change(changed);
      }),
    [attempt, plan, change, show],
  );

  if (!shown || shown.signal.id !== signal.id) return undefined;
  const { view } = shown;
  return {
    signal,
    view,
    retarget: (next) => commit(next, true),
    choose: (setting) => commit({ ...signal, setting }, false),
    adjust: (field, value) =>
      attempt(async () => {
        if (view.setting)
          commit(
            { ...signal, setting: await core().adjust(plan, signal, view.setting, field, value) },
            false,
          );
      }),
    step: (token, by) =>
      attempt(async () => {
        const next = view.setting && (await core().step(plan, signal, view.setting, token, by));
        if (next) commit({ ...next.signal, setting: next.setting }, false);
      }),
  };
}
