'use client';

import type { PlanSignal } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { LoadSection, takesLoad } from '../../components/load/LoadSection.tsx';
import { ReadProgram } from '../../components/signals/ReadProgram.tsx';
import { AddSignal } from '../../components/signals/AddSignal.tsx';
import styles from './fit.module.css';
import { Ladder } from './Ladder.tsx';
import { Landscape } from './Landscape.tsx';
import { PulseWindow } from './PulseWindow.tsx';
import { Refusals } from './Refusals.tsx';
import { Sentence } from './Sentence.tsx';
import { PANEL_ID, SignalTabs } from './SignalTabs.tsx';
import { Slips } from './Slips.tsx';
import { SurroundingsProvider } from './Surroundings.tsx';
import { useSignalView } from './useSignalView.ts';

function SignalPanels({ signal }: { signal: PlanSignal }) {
  const editor = useSignalView(signal);
  const { evaluation, part } = usePlanContext();
  const conflicts = evaluation.signals.find((one) => one.signal.id === signal.id)?.conflicts.length ?? 0;
  if (!editor) return <div aria-busy="true" />;
  return (
    <SurroundingsProvider editor={editor}>
      <Sentence editor={editor} />
      <div className={styles.upper}>
        <Landscape editor={editor} part={part} />
        <Ladder editor={editor} />
      </div>
      <div className={styles.lower}>
        <PulseWindow editor={editor} conflicts={conflicts} />
        {takesLoad(signal) ? (
          <>
            <LoadSection plan={editor.plan} signal={editor.signal} outcome={editor.outcome} />
            <div className={styles.stacked}>
              <Slips editor={editor} />
              <Refusals />
            </div>
          </>
        ) : (
          <>
            <Slips editor={editor} />
            <Refusals />
          </>
        )}
      </div>
    </SurroundingsProvider>
  );
}

/** One signal, everything about it on one screen. */
export function FitView() {
  const { signal } = usePlanContext();
  return (
    <div className={styles.fit}>
      <SignalTabs />
      {signal ? (
        <div role="tabpanel" id={PANEL_ID} aria-labelledby={`tab-${signal.id}`} className={styles.panel}>
          <SignalPanels key={signal.id} signal={signal} />
        </div>
      ) : (
        <div className={styles.empty}>
          <h1 className="serif">What must a pin do?</h1>
          <p className="soft">
            A plan consists of signals: a lamp that blinks, a buzzer that sounds, a light that dims. Add the
            first one to see every way the chip can make it.
          </p>
          <AddSignal wide />
          <ReadProgram />
        </div>
      )}
    </div>
  );
}
