'use client';

import type { Refusal } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { unbroken } from '../../components/text/unbroken.ts';
import styles from './fit.module.css';
import { useSurroundings } from './Surroundings.tsx';

/** One entry for each reason: a timer that cannot at all, else the modes that cannot, those with one reason together. */
function grouped(
  refused: readonly Refusal[],
): { key: string; timer: string; modes: string[]; reason: string }[] {
  const whole = new Set(refused.filter((one) => one.mode === undefined).map((one) => one.timer));
  const groups = new Map<string, { key: string; timer: string; modes: string[]; reason: string }>();
  for (const { timer, mode, reason } of refused) {
    if (mode !== undefined && whole.has(timer)) continue;
    const key = `${timer} ${reason}`;
    const group = groups.get(key) ?? { key, timer, modes: [], reason };
    if (mode !== undefined) group.modes.push(mode);
    groups.set(key, group);
  }
  return [...groups.values()].sort((one, other) => one.modes.length - other.modes.length);
}

/** Why the other timers, and the other modes of a timer that can, cannot serve the signal. */
export function Refusals() {
  const around = useSurroundings();
  const { part } = usePlanContext();
  const name = (id: string): string => part.timers.find((timer) => timer.id === id)?.name ?? id;
  const groups = grouped(around?.refused ?? []);
  return (
    <section aria-label="Why not">
      <div className={styles.head}>
        <h2 className="label">Why not</h2>
      </div>
      <div className={styles.scroll} tabIndex={0} role="region" aria-label="Reasons" data-testid="reasons">
        {groups.map(({ key, timer, modes, reason }) => (
          <p key={key} className={styles.slip}>
            <b>
              {name(timer)}
              {modes.length > 0 && ` ${modes.join(', ')}`}.
            </b>{' '}
            {unbroken(reason)}
          </p>
        ))}
        {around && groups.length === 0 && (
          <p className={styles.slip}>Every timer and every mode can make this signal.</p>
        )}
      </div>
    </section>
  );
}
