'use client';

import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import {
  type AdjustedField,
  type Fault,
  type Plan,
  type PlanSignal,
  type Ranking,
  replacedSignal,
  type Setting,
  type SignalEdit,
  type SignalEvaluation,
} from '@herzschlag/core';
import { wasChecked } from '../../state/stored.ts';
import type { Told } from '../../state/usePlan.ts';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';

type Shown = { plan: Plan; signal: PlanSignal; outcome?: SignalEvaluation };

/** The open signal with what its setting gives, and the ways to change it. Every change is one step of undo. */
export type SignalEditor = {
  /** The plan with the signal in it, which the outcome is of. */
  plan: Plan;
  signal: PlanSignal;
  /** Absent where nothing on the part can make the signal. */
  outcome?: SignalEvaluation;
  /** The target was changed: the setting is looked for anew. `told` gets what is wrong with it, where it is refused. */
  retarget: (next: PlanSignal, told?: Told) => void;
  /** This setting is to be used. */
  choose: (setting: Setting) => void;
  /** One number of the setting is changed by hand. */
  adjust: (field: AdjustedField, value: number) => void;
  /** The setting that is best by a ranking is to be used. */
  takeBest: (ranking: Ranking) => void;
  /** Moves a target to the next value the hardware can make; does nothing where there is none. */
  step: (token: 'frequency' | 'duty', by: number) => void;
};

/**
 * The editor of a signal; undefined until its first outcome has been computed. Changes are worked off one after another,
 * each on top of the one before, so that none is lost however fast they come.
 */
export function useSignalView(signal: PlanSignal): SignalEditor | undefined {
  const { plan, commit, now, report } = usePlanContext();
  const [shown, setShown] = useState<Shown>();
  const done = useRef<Shown>(undefined);
  const queue = useRef<Promise<void>>(Promise.resolve());

  const show = useCallback((next: Shown) => {
    done.current = next;
    setShown(next);
  }, []);

  const enqueue = useCallback(
    (work: () => Promise<void>) => {
      queue.current = queue.current.then(work).catch((error: unknown) => report(sentenceOfError(error)));
    },
    [report],
  );

  useEffect(() => {
    enqueue(async () => {
      if (done.current?.plan === plan || plan !== now()) return;
      const { id } = signal;
      const seen = await ask((engine, key) => engine.edit(key(plan), id, { do: 'show' }));
      if (seen.ok && seen.value) show({ plan, ...seen.value });
    });
  }, [plan, signal, now, enqueue, show]);

  const edit = useCallback(
    (how: SignalEdit, told?: Told) =>
      enqueue(async () => {
        if (!done.current) return;
        const { id } = done.current.signal;
        const base = now();
        const read = await ask((engine, key) => engine.edit(key(base), id, how));
        if (!read.ok) {
          (told ?? ((fault: Fault) => report(fault.plain ?? fault.sentence)))(read.fault);
          return;
        }
        const edited = read.value;
        if (!edited) return;
        const next = wasChecked(replacedSignal(base, edited.signal));
        const changed = await commit(
          (before) => (before === base ? next : replacedSignal(before, edited.signal)),
          told,
        );
        if (changed) show({ plan: changed, ...edited });
      }),
    [enqueue, commit, now, report, show],
  );

  const { id } = signal;
  return useMemo(() => {
    if (!shown || shown.signal.id !== id) return undefined;
    return {
      ...shown,
      retarget: (next, told) => edit({ do: 'retarget', signal: next }, told),
      choose: (setting) => edit({ do: 'choose', setting }),
      adjust: (field, value) => edit({ do: 'adjust', field, value }),
      takeBest: (ranking) => edit({ do: 'best', ranking }),
      step: (token, by) => edit({ do: 'step', token, by }),
    };
  }, [shown, id, edit]);
}
