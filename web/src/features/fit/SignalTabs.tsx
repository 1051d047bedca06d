'use client';

import { useEffect, useRef, type KeyboardEvent } from 'react';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { laneColour } from '../../theme/lanes.ts';
import { AddSignal } from './AddSignal.tsx';
import styles from './fit.module.css';
import { VerdictSign, worst } from './verdict.tsx';

/** The plan's signals side by side, each with its verdict; the arrow keys go through them. */
export function SignalTabs() {
  const { plan, outcome, signal, showSignal } = usePlanContext();
  const chosen = useRef<HTMLButtonElement>(null);
  const id = signal?.id;

  useEffect(() => {
    void chosen.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [id]);

  const move = (event: KeyboardEvent) => {
    const by = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
    const at = plan.signals.findIndex((one) => one.id === id);
    const next = plan.signals[at + by];
    if (by === 0 || !next) return;
    event.preventDefault();
    showSignal(next.id);
    const tabs = event.currentTarget.querySelectorAll<HTMLButtonElement>('[role=tab]');
    tabs[at + by]?.focus();
  };

  return (
    <div className={styles.tabs}>
      <div role="tablist" aria-label="Signals" style={{ display: 'contents' }} onKeyDown={move}>
        {plan.signals.map((one, index) => {
          const row = outcome?.rows.find((entry) => entry.signal.id === one.id);
          const selected = one.id === id;
          return (
            <button
              key={one.id}
              ref={selected ? chosen : null}
              type="button"
              role="tab"
              aria-selected={selected}
              tabIndex={selected ? 0 : -1}
              className={`plain ${styles.tab}`}
              onClick={() => showSignal(one.id)}
            >
              <span className={styles.lane} style={{ background: laneColour(index) }} />
              {one.name}
              {row && (
                <VerdictSign verdict={worst(row.outcome?.checks.map((check) => check.verdict) ?? [])} />
              )}
            </button>
          );
        })}
      </div>
      <AddSignal />
    </div>
  );
}
