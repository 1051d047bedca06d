'use client';

import { printPpm, printSeconds } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { verdictClass } from '../../components/verdict/VerdictSign.tsx';
import { unbroken } from '../../components/text/unbroken.ts';
import styles from './trace.module.css';
import type { CaptureState } from './useCapture.ts';

/** What the capture says as a whole: its clock against the plan's, and each signal's own error with its slip. */
export function Findings({ editor }: { editor: CaptureState }) {
  const { plan } = usePlanContext();
  const { comparison, fault, row } = editor;
  if (fault) {
    return (
      <section aria-label="Capture" className={styles.findings}>
        <p className={styles.fault} role="alert">
          {fault}
        </p>
        <p className="soft">The plan and its capture are unchanged.</p>
      </section>
    );
  }
  if (!row || !comparison) {
    return (
      <section aria-label="Capture" className={styles.findings}>
        <p className="soft">
          Drop a capture here: a VCD or CSV file from a logic analyser or oscilloscope, or a WAV recording. It
          is drawn over the computed lanes and compared with the targets.
        </p>
      </section>
    );
  }
  return (
    <section aria-label="Capture" className={styles.findings}>
      <p className="serif" data-testid="ratio">
        {unbroken(comparison.sentence)}
      </p>
      <ul>
        {comparison.pairs.map((pair) => (
          <li key={pair.wire} data-warns={pair.slip !== undefined}>
            <b>{plan.signals.find((signal) => signal.id === pair.signal)?.name}</b>{' '}
            {pair.ownPpm === undefined
              ? 'was captured for too short a time'
              : `${printPpm(Math.round(pair.ownPpm * 10) / 10)} on its own`}
            {pair.jitterS === undefined ? '' : `, edges within ±${printSeconds(pair.jitterS, 3)}`}
            {pair.slip && (
              <span className={verdictClass('fail')} data-slip={pair.slip.id}>
                {' '}
                {pair.slip.title} {unbroken(pair.slip.text)}
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
