import { useEffect, useState } from 'react';
import type { PartTrial, PlanSignal } from '@herzschlag/core';
import { search } from '../../worker/engine.ts';
import type { PartFacts } from '../../worker/facts.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';

/** How a part did; null where it could not be tried, undefined until it was. */
export type Trial = PartTrial | null | undefined;

type State = { of: readonly PlanSignal[] | undefined; trials: Readonly<Record<string, Trial>> };

const NONE: State['trials'] = {};

/** Steps that the search on each part may take. */
const STEPS = 60;

/** A person types on for about so long, in ms. */
const PAUSE_MS = 500;

/** Tries some signals on all parts, one part after the other, in a worker of its own that ends when they change. */
export function useTrials(
  parts: readonly PartFacts[] | undefined,
  signals: readonly PlanSignal[] | undefined,
  report: (sentence: string) => void,
): Readonly<Record<string, Trial>> {
  const [{ of, trials }, setState] = useState<State>({ of: undefined, trials: {} });
  useEffect(() => {
    if (!parts || !signals) return undefined;
    let stop: (() => void) | undefined;
    const timer = setTimeout(() => {
      const own = search<void>(async (engine) => {
        for (const { id } of parts) {
          const trial = await engine.tryNeeds(signals, id, STEPS);
          setState((before) => ({
            of: signals,
            trials: { ...(before.of === signals ? before.trials : {}), [id]: trial ?? null },
          }));
        }
      });
      stop = own.stop;
      own.result.catch((error: unknown) => report(sentenceOfError(error)));
    }, PAUSE_MS);
    return () => {
      clearTimeout(timer);
      stop?.();
    };
  }, [parts, signals, report]);
  return of === signals ? trials : NONE;
}
