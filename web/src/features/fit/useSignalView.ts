'use client';

import { useCallback, useDeferredValue, useEffect, useRef, useState, startTransition } from 'react';
import {
  type AdjustedField,
  type Plan,
  type PlanSignal,
  type Ranking,
  replacedSignal,
  type Setting,
  type SignalEdit,
  type SignalEvaluation,
  type Surroundings,
} from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { useStill } from '../../components/hooks/useStill.ts';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError, useEngine } from '../../worker/useEngine.ts';

type Shown = { plan: Plan; signal: PlanSignal; outcome?: SignalEvaluation };

/** The open signal with what its setting gives, and the ways to change it. Every change is one step of undo. */
export type SignalEditor = {
  signal: PlanSignal;
  /** Absent where nothing on the part can make the signal. */
  outcome?: SignalEvaluation;
  /** They follow the outcome a moment later; until then those before stand. */
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

/** What follows the outcome of a signal: its landscape and the reasons of what cannot serve it. */
function useSurroundings(shown: Shown | undefined): Surroundings | undefined {
  const { report } = usePlanContext();
  const painted = useStill(shown, AFTER_PAINT_MS);
  const { value } = useEngine(
    ['surroundings', painted?.plan, painted?.signal],
    async (engine, key) => {
      if (!painted) throw new Error('no signal is shown yet');
      return engine.surroundings(key(painted.plan), painted.signal);
    },
    { enabled: painted !== undefined, keep: true, report },
  );
  return useDeferredValue(value);
}

/**
 * The editor of a signal; undefined until its first outcome has been computed. Changes are worked off one after another,
 * each on top of the one before, so that none is lost however fast they come.
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
      queue.current = queue.current.then(work).catch((error: unknown) => report(sentenceOfError(error)));
    },
    [report],
  );

  useEffect(() => {
    enqueue(async () => {
      if (done.current?.plan === plan || plan !== now()) return;
      const { id } = signal;
      const seen = await ask((engine, key) => engine.edit(key(plan), id, { do: 'show' }));
      if (seen) show({ plan, ...seen });
    });
  }, [plan, signal, now, enqueue, show]);

  const edit = useCallback(
    (how: SignalEdit) =>
      enqueue(async () => {
        if (!done.current) return;
        const { id } = done.current.signal;
        const edited = await ask((engine, key) => engine.edit(key(now()), id, how));
        if (!edited) return;
        show({ plan: replacedSignal(now(), edited.signal), ...edited });
        startTransition(() => {
          const changed = change((before) => replacedSignal(before, edited.signal));
          if (done.current) done.current = { ...done.current, plan: changed };
        });
      }),
    [enqueue, change, now, show],
  );

  if (!shown || shown.signal.id !== signal.id) return undefined;
  return {
    signal: shown.signal,
    ...(shown.outcome ? { outcome: shown.outcome } : {}),
    ...(around ? { around } : {}),
    retarget: (next) => edit({ do: 'retarget', signal: next }),
    choose: (setting) => edit({ do: 'choose', setting }),
    adjust: (field, value) => edit({ do: 'adjust', field, value }),
    takeBest: (ranking) => edit({ do: 'best', ranking }),
    step: (token, by) => edit({ do: 'step', token, by }),
  };
}
