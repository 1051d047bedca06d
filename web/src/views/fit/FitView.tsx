'use client';

import type { PlanSignal } from '@herzschlag/core/format/plan.ts';
import { useBench } from '../../frame/PlanContext.ts';
import { AddSignal } from './AddSignal.tsx';
import styles from './fit.module.css';
import { Ladder } from './Ladder.tsx';
import { Landscape } from './Landscape.tsx';
import { PulseWindow } from './PulseWindow.tsx';
import { Reasons } from './Reasons.tsx';
import { Sentence } from './Sentence.tsx';
import { SignalTabs } from './SignalTabs.tsx';
import { Slips } from './Slips.tsx';
import { useSignalView } from './useSignalView.ts';

function Desk({ signal }: { signal: PlanSignal }) {
  const desk = useSignalView(signal);
  if (!desk) return <div aria-busy="true" />;
  return (
    <>
      <Sentence desk={desk} />
      <div className={styles.upper}>
        <Landscape desk={desk} />
        <Ladder desk={desk} />
      </div>
      <div className={styles.lower}>
        <PulseWindow desk={desk} />
        <Slips desk={desk} />
        <Reasons desk={desk} />
      </div>
    </>
  );
}

/** One signal, everything about it on one screen. */
export function FitView() {
  const { signal } = useBench();
  return (
    <div className={styles.fit}>
      <SignalTabs />
      {signal ? (
        <Desk key={signal.id} signal={signal} />
      ) : (
        <div className={styles.empty}>
          <h1 className="serif">What must a pin do?</h1>
          <p className="soft">
            A plan holds signals: a lamp that blinks, a buzzer that sounds, a light that dims. Add the first
            one; every way the chip can do it appears at once.
          </p>
          <AddSignal wide />
        </div>
      )}
    </div>
  );
}
