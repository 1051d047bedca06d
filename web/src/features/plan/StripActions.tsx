'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { copiedSignal, movedSignal, type PlanSignal, withoutSignal } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import styles from './plan.module.css';

/** Copies a signal and gives the copy a place that nothing else holds. */
export function useCopy(id: string): () => void {
  const { change, now, report } = usePlanContext();
  return () => {
    const before = now();
    const copied = copiedSignal(before, id);
    const own = copied?.plan.signals.find((one) => one.id === copied.id);
    if (!own) return;
    ask((engine, key) => engine.place(key(before), own))
      .then((setting) =>
        change((plan) => {
          const again = copiedSignal(plan, id);
          const placed = (one: PlanSignal): PlanSignal =>
            one.id === again?.id && setting ? { ...one, setting } : one;
          return again ? { ...again.plan, signals: again.plan.signals.map(placed) } : plan;
        }),
      )
      .catch((error: unknown) => report(sentenceOfError(error)));
  };
}

/** What can be done with a strip besides opening it, by button and by key. */
export function StripActions({
  id,
  name,
  index,
  count,
}: {
  id: string;
  name: string;
  index: number;
  count: number;
}) {
  const { plan, change } = usePlanContext();
  const copy = useCopy(id);
  const locked = plan.signals[index]?.locked === true;
  const toggleLocked = () =>
    change((now) => ({
      ...now,
      signals: now.signals.map((one) => {
        if (one.id !== id) return one;
        const rest = { ...one };
        delete rest.locked;
        return locked ? rest : { ...rest, locked: true };
      }),
    }));
  return (
    <span className={styles.actions}>
      <ButtonBase
        title="Move up (Alt ↑)"
        aria-label={`Move ${name} up`}
        disabled={index === 0}
        onClick={() => change((now) => movedSignal(now, id, -1))}
      >
        ↑
      </ButtonBase>
      <ButtonBase
        title="Move down (Alt ↓)"
        aria-label={`Move ${name} down`}
        disabled={index === count - 1}
        onClick={() => change((now) => movedSignal(now, id, 1))}
      >
        ↓
      </ButtonBase>
      <ButtonBase
        title={locked ? '“Assign timers” may move it again' : '“Assign timers” does not move it'}
        aria-label={`Lock ${name}`}
        aria-pressed={locked}
        onClick={toggleLocked}
      >
        {locked ? 'locked' : 'lock'}
      </ButtonBase>
      <ButtonBase title="Copy (Ctrl D)" aria-label={`Copy ${name}`} onClick={copy}>
        copy
      </ButtonBase>
      <ButtonBase
        title="Delete (Delete key)"
        aria-label={`Delete ${name}`}
        onClick={() => change((now) => withoutSignal(now, id))}
      >
        delete
      </ButtonBase>
    </span>
  );
}
