'use client';

import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { unbroken } from '../../components/text/unbroken.ts';
import styles from './fit.module.css';
import { useSurroundings } from './Surroundings.tsx';
import type { SignalEditor } from './useSignalView.ts';

/** The slips that apply, each with the number that proves it; what spoils the target first. */
export function Slips({ editor }: { editor: SignalEditor }) {
  const { evaluation } = usePlanContext();
  const unmet = useSurroundings()?.met === false;
  const slips = editor.outcome?.slips ?? [];
  const conflicts = evaluation.conflicts.filter(({ signals }) => signals.includes(editor.signal.id));
  return (
    <section aria-label="Slips">
      <div className={styles.head}>
        <h2 className="label">Slips</h2>
      </div>
      <div className={styles.scroll} tabIndex={0} role="region" aria-label="List of slips">
        {conflicts.map(({ title, text }) => (
          <p key={title} className={styles.slip} data-warns="true">
            <b>{unbroken(title)}</b> {unbroken(text)}
          </p>
        ))}
        {unmet && (
          <p className={styles.slip} data-warns="true" data-slip="unmet">
            <b>Nothing on this part meets the target.</b> {editor.outcome ? 'The setting is as it was.' : ''}{' '}
            “Why not” gives the reason for each timer.
          </p>
        )}
        {slips.map((slip) => (
          <p key={slip.id} className={styles.slip} data-warns={slip.warns} data-slip={slip.id}>
            <b>{slip.title}</b> {unbroken(slip.text)}
          </p>
        ))}
        {!unmet && slips.length + conflicts.length === 0 && (
          <p className={styles.slip}>None found for this setting.</p>
        )}
      </div>
    </section>
  );
}
