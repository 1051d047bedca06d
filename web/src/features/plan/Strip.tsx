'use client';

import { laneColour } from '../../theme/colour.ts';
import ButtonBase from '@mui/material/ButtonBase';
import type { KeyboardEvent } from 'react';
import {
  type EvaluatedSignal,
  failureText,
  movedSignal,
  pinName,
  printHz,
  printPercent,
  printPpm,
  type SignalWaveform,
  targetText,
  withoutSignal,
} from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { verdictClass, VerdictSign } from '../../components/verdict/VerdictSign.tsx';
import { StripActions, useCopy } from './StripActions.tsx';
import { StripWave } from './StripWave.tsx';
import styles from './plan.module.css';

/** Puts the focus on a signal's strip, if it is there. */
function focusStrip(id: string | undefined): void {
  if (id === undefined) return;
  document.querySelector<HTMLElement>(`button[data-signal="${CSS.escape(id)}"]`)?.focus();
}

function figuresOf({ outcome }: EvaluatedSignal): { frequency: string; error: string; duty: string } {
  if (!outcome) return { frequency: '–', error: '–', duty: '–' };
  const { place, frequencyHz, errorPpm, duty } = outcome;
  const input = place.cause === 'input';
  return {
    frequency: input ? `from ${printHz(frequencyHz, 2)}` : printHz(frequencyHz),
    error: errorPpm === undefined ? '–' : printPpm(errorPpm),
    duty: input || place.pin === undefined ? '–' : printPercent(duty, 4),
  };
}

/** One signal across the page: its target, its place, its waveform, the figures that matter, its verdict. */
export function Strip({
  row,
  index,
  lane,
  seconds,
}: {
  row: EvaluatedSignal;
  index: number;
  lane: SignalWaveform | undefined;
  seconds: number | undefined;
}) {
  const { plan, showSignal, change } = usePlanContext();
  const { signal, outcome, verdict } = row;
  const copy = useCopy(signal.id);
  const press = (event: KeyboardEvent) => {
    const by = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
    if (by !== 0) {
      event.preventDefault();
      if (event.altKey) change((now) => movedSignal(now, signal.id, by));
      else focusStrip(plan.signals[index + by]?.id);
    } else if (event.key === 'Delete') {
      focusStrip((plan.signals[index + 1] ?? plan.signals[index - 1])?.id);
      change((now) => withoutSignal(now, signal.id));
    } else if (event.key.toLowerCase() === 'd' && (event.ctrlKey || event.metaKey)) {
      event.preventDefault();
      copy();
    }
  };
  const pin = outcome?.place.pin ?? signal.pin;
  const colour = laneColour(index);
  const { frequency, error, duty } = figuresOf(row);
  const failing = outcome?.checks.find((check) => check.verdict !== 'pass');
  return (
    <div className={styles.holder}>
      <ButtonBase
        className={styles.strip}
        onClick={() => showSignal(signal.id)}
        onKeyDown={press}
        data-signal={signal.id}
      >
        <span className={styles.lane} style={{ background: colour }} />
        <span className={styles.what}>
          <b className="serif">{signal.name}</b>{' '}
          <span className="mono soft">{pin === undefined ? 'no pin' : pinName(plan, pin)}</span>
          <span className={`soft ${styles.target}`} title={targetText(signal)}>
            {targetText(signal)}
          </span>
        </span>
        <span className={`mono ${row.conflicts.length > 0 ? styles.conflicting : ''}`}>
          {signal.locked && <span title="locked: “Assign timers” does not move it">∎ </span>}
          {outcome ? [outcome.place.timer, outcome.place.means].filter(Boolean).join(' · ') : '–'}
        </span>
        <StripWave row={row} lane={lane} seconds={seconds} colour={colour} />
        <span className={`mono ${styles.number}`}>{frequency}</span>
        <span className={`mono ${styles.number}`}>{error}</span>
        <span className={`mono ${styles.number}`}>{duty}</span>
        <span className={`${styles.verdict} ${verdictClass(verdict)}`}>
          <VerdictSign verdict={verdict} /> {verdict}
        </span>
        {failing && (
          <span className={styles.reason} title={failureText(failing)}>
            {failureText(failing)}
          </span>
        )}
      </ButtonBase>
      <StripActions id={signal.id} name={signal.name} index={index} count={plan.signals.length} />
    </div>
  );
}
