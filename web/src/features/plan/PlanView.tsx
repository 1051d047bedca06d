'use client';

import type { KeyboardEvent } from 'react';
import { type EvaluatedSignal, type PlanSignal, copiedSignal, laneColour, meansOf, movedSignal, pinName, printHz, printPercent, printPpm, sentenceOf, timerIdOf, withoutSignal } from '@herzschlag/core';
import { core } from '../../worker/core.ts';
import { bandPath, shownPeriod, wavePath } from '../../components/drawing/wave.ts';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { AddSignal } from '../fit/AddSignal.tsx';
import { VerdictSign, worst } from '../fit/verdict.tsx';
import { AssignTimers } from './AssignTimers.tsx';
import { Conflicts } from './Conflicts.tsx';
import { TimerMap } from './TimerMap.tsx';
import { PinNamesEditor } from './PinNamesEditor.tsx';
import { WishField } from './WishField.tsx';
import { ShareTick } from './ShareTick.tsx';
import { WhichPart } from './WhichPart.tsx';
import { scaleOf, timeText } from './timeScale.ts';
import styles from './plan.module.css';

const WAVE = { width: 320, height: 40, high: 8, low: 32 } as const;

function StripWave({ row, seconds, colour }: { row: EvaluatedSignal; seconds: number; colour: string }) {
  const { outcome } = row;
  if (!outcome) return <span className="soft">no waveform</span>;
  const periodS = shownPeriod(outcome);
  const x = (s: number): number => (s / seconds) * WAVE.width;
  const level = (high: boolean): number => (high ? WAVE.high : WAVE.low);
  if (x(periodS) < 3) {
    return (
      <svg viewBox={`0 0 ${WAVE.width} ${WAVE.height}`} className={styles.wave} aria-hidden="true">
        <rect
          x={0}
          width={WAVE.width}
          y={WAVE.high}
          height={WAVE.low - WAVE.high}
          fill={colour}
          opacity={0.28}
        />
        <path
          d={`M0,${WAVE.high}H${WAVE.width}M0,${WAVE.low}H${WAVE.width}`}
          stroke={colour}
          fill="none"
          strokeWidth={1.4}
        />
      </svg>
    );
  }
  const shape = { periodS, highS: outcome.duty * periodS, from: 0, to: seconds, x, level };
  const fails = worst(outcome.checks.map((check) => check.verdict)) === 'fail';
  return (
    <svg viewBox={`0 0 ${WAVE.width} ${WAVE.height}`} className={styles.wave} aria-hidden="true">
      <path
        d={bandPath(shape)}
        stroke={fails ? 'var(--fail-band)' : 'var(--pass-band)'}
        strokeWidth={9}
        fill="none"
      />
      <path d={wavePath(shape)} stroke={colour} strokeWidth={1.6} fill="none" />
    </svg>
  );
}

/** Copies a signal and places the copy where nothing else is. */
function useCopy(id: string): () => void {
  const { change, now, report } = usePlanContext();
  return () => {
    const copied = copiedSignal(now(), id);
    const own = copied?.plan.signals.find((one) => one.id === copied.id);
    if (!copied || !own) return;
    core()
      .best(copied.plan, own, 'cpu')
      .then((setting) =>
        change((before) => {
          const again = copiedSignal(before, id);
          const placed = (one: PlanSignal): PlanSignal =>
            one.id === again?.id && setting ? { ...one, setting } : one;
          return again ? { ...again.plan, signals: again.plan.signals.map(placed) } : before;
        }),
      )
      .catch((error: unknown) => report(String(error)));
  };
}

/** What a strip can be asked for besides opening it, by button and by key. */
function Acts({ id, name, index, count }: { id: string; name: string; index: number; count: number }) {
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
    <span className={styles.acts}>
      <button
        type="button"
        title="Up (Alt ↑)"
        aria-label={`Move ${name} up`}
        disabled={index === 0}
        onClick={() => change((now) => movedSignal(now, id, -1))}
      >
        ↑
      </button>
      <button
        type="button"
        title="Down (Alt ↓)"
        aria-label={`Move ${name} down`}
        disabled={index === count - 1}
        onClick={() => change((now) => movedSignal(now, id, 1))}
      >
        ↓
      </button>
      <button
        type="button"
        title={locked ? 'Free to be moved by “Allot all”' : 'Stays as it is when all are allotted'}
        aria-label={`${name} stays as it is`}
        aria-pressed={locked}
        onClick={toggleLocked}
      >
        hold
      </button>
      <button type="button" title="A copy (Ctrl D)" aria-label={`Copy ${name}`} onClick={copy}>
        copy
      </button>
      <button
        type="button"
        title="Remove (Delete)"
        aria-label={`Remove ${name}`}
        onClick={() => change((now) => withoutSignal(now, id))}
      >
        remove
      </button>
    </span>
  );
}

function Strip({ row, index, seconds }: { row: EvaluatedSignal; index: number; seconds: number }) {
  const { part, plan, showSignal, change } = usePlanContext();
  const { signal, outcome } = row;
  const copy = useCopy(signal.id);
  const clashes =
    usePlanContext().outcome?.conflicts.some(({ signals }) => signals.includes(signal.id)) ?? false;
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
  const pin = outcome?.setting.pin ?? signal.pin;
  const input = outcome?.setting.drive === 'capture';
  const colour = laneColour(index);
  const verdict = worst(outcome?.checks.map((check) => check.verdict) ?? []);
  const timer = part.timers.find((one) => one.id === (outcome ? timerIdOf(outcome.setting) : ''))?.name;
  const pieces = sentenceOf(signal);
  const pinAt = pieces.findIndex((piece) => 'token' in piece && piece.token === 'pin');
  const target = pieces
    .slice(Math.max(pinAt, 0) + 1)
    .map((piece) => piece.text)
    .join('')
    .replace(/( of the time)?\.$/, '')
    .trim();
  return (
    <div className={styles.holder}>
      <button
        type="button"
        className={`plain ${styles.strip}`}
        onClick={() => showSignal(signal.id)}
        onKeyDown={press}
        data-signal={signal.id}
      >
        <span className={styles.lane} style={{ background: colour }} />
        <span className={styles.what}>
          <b className="serif">{signal.name}</b>{' '}
          <span className="mono soft">{pin === undefined ? 'no pin' : pinName(plan, pin)}</span>
          <span className={`soft ${styles.target}`}>{target}</span>
        </span>
        <span className={`mono ${clashes ? styles.fail : ''}`}>
          {signal.locked && <span title="stays as it is">∎ </span>}
          {outcome ? [timer, meansOf(outcome.setting)].filter(Boolean).join(' · ') : '–'}
        </span>
        <StripWave row={row} seconds={seconds} colour={colour} />
        <span className={`mono ${styles.number}`}>
          {outcome ? (input ? `from ${printHz(outcome.frequencyHz, 2)}` : printHz(outcome.frequencyHz)) : '–'}
        </span>
        <span className={`mono ${styles.number}`}>
          {outcome?.errorPpm === undefined ? '–' : printPpm(outcome.errorPpm)}
        </span>
        <span className={`mono ${styles.number}`}>
          {outcome && !input && outcome.setting.pin !== undefined ? printPercent(outcome.duty, 4) : '–'}
        </span>
        <span className={styles[verdict]}>
          <VerdictSign verdict={verdict} /> {verdict}
        </span>
      </button>
      <Acts id={signal.id} name={signal.name} index={index} count={plan.signals.length} />
    </div>
  );
}

/** Puts the focus on a signal's strip, if it is there. */
function focusStrip(id: string | undefined): void {
  if (id === undefined) return;
  document.querySelector<HTMLElement>(`button[data-signal="${CSS.escape(id)}"]`)?.focus();
}

/** Above so many signals the strips are set closer. */
const MANY = 9;

/** The whole plan at a glance: each signal a strip on one time scale, who holds which timer, and where two collide. */
export function PlanView() {
  const { outcome, plan } = usePlanContext();
  if (!outcome) return null;
  if (plan.signals.length === 0) {
    return (
      <div className={styles.empty}>
        <h1 className="serif">Nothing to do yet.</h1>
        <p className="soft">
          Say what a pin should do; it becomes a strip across this page, with its waveform and its verdict.
        </p>
        <WishField />
        <AddSignal wide />
      </div>
    );
  }
  const seconds = scaleOf(outcome.rows.flatMap((row) => (row.outcome ? [shownPeriod(row.outcome)] : [])));
  return (
    <div className={styles.plan} data-many={plan.signals.length > MANY}>
      <div className={styles.tools}>
        <p className={`mono ${styles.clock}`} data-testid="clock-line">
          {outcome.clockLine}
        </p>
        <WhichPart />
        <AssignTimers />
      </div>
      <div className={`label ${styles.head}`} aria-hidden="true">
        <span />
        <span>Signal</span>
        <span>Where</span>
        <span>{timeText(seconds)}</span>
        <span className={styles.number}>Really</span>
        <span className={styles.number}>Error</span>
        <span className={styles.number}>High</span>
        <span>Verdict</span>
      </div>
      {outcome.rows.map((row, index) => (
        <Strip key={row.signal.id} row={row} index={index} seconds={seconds} />
      ))}
      <div className={styles.add}>
        <WishField />
        <AddSignal />
        <PinNamesEditor />
        <ShareTick />
      </div>
      <TimerMap />
      <Conflicts />
    </div>
  );
}
