'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { useState } from 'react';
import { scaleOf } from '../../components/drawing/timeScale.ts';
import { shownPeriod } from '../../components/drawing/wave.ts';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { AddSignal } from '../../components/signals/AddSignal.tsx';
import { ReadProgram } from '../../components/signals/ReadProgram.tsx';
import { useEngine } from '../../worker/useEngine.ts';
import { AssignTimers } from './AssignTimers.tsx';
import { Conflicts } from '../../components/verdict/Conflicts.tsx';
import { PinNamesEditor } from './PinNamesEditor.tsx';
import { ShareTick } from './ShareTick.tsx';
import { Strip } from './Strip.tsx';
import { ownSpan } from './StripWave.tsx';
import { TimerMap } from './TimerMap.tsx';
import { WhichPart } from './WhichPart.tsx';
import { PlanWishes } from './PlanWishes.tsx';
import styles from './plan.module.css';

/** Above so many signals the strips are set closer. */
const MANY = 9;

/** The whole plan at a glance: each signal a strip, who holds which timer, and where two are in conflict. */
export function PlanView() {
  const { evaluation, plan, report } = usePlanContext();
  const [common, setCommon] = useState(false);
  const { value: lanes } = useEngine(['waveforms', plan], (engine, key) => engine.waveforms(key(plan)), {
    keep: true,
    report,
  });
  if (plan.signals.length === 0) {
    return (
      <div className={styles.empty}>
        <h1 className="serif">No signals yet.</h1>
        <p className="soft">
          Say what a pin should do; it becomes a strip across this page, with its waveform and its verdict.
        </p>
        <PlanWishes autoFocus />
        <AddSignal wide />
        <ReadProgram />
      </div>
    );
  }
  const shared = scaleOf(
    evaluation.signals.flatMap(({ outcome }) => (outcome ? [shownPeriod(outcome)] : [])),
  );
  return (
    <div className={styles.plan} data-many={plan.signals.length > MANY}>
      <h1 className="hidden">Plan {plan.name}</h1>
      <div className={styles.tools}>
        <p className={`mono ${styles.clock}`} data-testid="clock-line">
          {evaluation.clockLine}
        </p>
        <WhichPart />
        <AssignTimers />
      </div>
      <div className={`label ${styles.head}`}>
        <span />
        <span>Signal</span>
        <span>Where</span>
        <ButtonBase
          className={styles.scale}
          aria-pressed={common}
          title={common ? 'Show each signal over its own time' : 'Show all signals over the same time'}
          onClick={() => setCommon(!common)}
        >
          {common ? 'common time scale' : 'own time scale'}
        </ButtonBase>
        <span className={styles.number}>Actual</span>
        <span className={styles.number}>Error</span>
        <span className={styles.number}>High</span>
        <span>Verdict</span>
      </div>
      {evaluation.signals.map((row, index) => {
        const lane = lanes?.find(({ signal }) => signal === row.signal.id);
        const seconds = common ? shared : ownSpan(row, lane);
        return <Strip key={row.signal.id} row={row} index={index} lane={lane} seconds={seconds} />;
      })}
      <div className={styles.add}>
        <PlanWishes />
        <AddSignal />
        <ReadProgram />
        <PinNamesEditor />
        <ShareTick />
      </div>
      <TimerMap />
      <Conflicts />
    </div>
  );
}
