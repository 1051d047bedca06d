'use client';

import { pinName } from '@herzschlag/core/format/pin-names.ts';
import type { PlanRow } from '@herzschlag/core/outcome/outcome.ts';
import { printHz, printNumber, printPercent, printPpm } from '@herzschlag/core/quantity/print.ts';
import { sentenceOf } from '@herzschlag/core/target/sentence.ts';
import { bandPath, shownPeriod, wavePath } from '../../drawing/wave.ts';
import { meansOf, timerIdOf } from '@herzschlag/core/timer/words.ts';
import { useBench } from '../../frame/PlanContext.ts';
import { laneColour } from '../../theme/lanes.ts';
import { AddSignal } from '../fit/AddSignal.tsx';
import { VerdictSign, worst } from '../fit/verdict.tsx';
import { PinNamesEditor } from './PinNamesEditor.tsx';
import { ShareTick } from './ShareTick.tsx';
import styles from './plan.module.css';
import { scaleOf, timeText } from './timeScale.ts';

const WAVE = { width: 320, height: 40, high: 8, low: 32 } as const;

function StripWave({ row, seconds, colour }: { row: PlanRow; seconds: number; colour: string }) {
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
  const misses = worst(outcome.checks.map((check) => check.verdict)) === 'misses';
  return (
    <svg viewBox={`0 0 ${WAVE.width} ${WAVE.height}`} className={styles.wave} aria-hidden="true">
      <path
        d={bandPath(shape)}
        stroke={misses ? 'var(--misses-band)' : 'var(--holds-band)'}
        strokeWidth={9}
        fill="none"
      />
      <path d={wavePath(shape)} stroke={colour} strokeWidth={1.6} fill="none" />
    </svg>
  );
}

function Strip({ row, index, seconds }: { row: PlanRow; index: number; seconds: number }) {
  const { part, plan, showSignal } = useBench();
  const { signal, outcome } = row;
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
    <button
      type="button"
      className={`plain ${styles.strip}`}
      onClick={() => showSignal(signal.id)}
      data-signal={signal.id}
    >
      <span className={styles.lane} style={{ background: colour }} />
      <span className={styles.what}>
        <b className="serif">{signal.name}</b>{' '}
        <span className="mono soft">{pin === undefined ? 'no pin' : pinName(plan, pin)}</span>
        <span className={`soft ${styles.target}`}>{target}</span>
      </span>
      <span className="mono">
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
  );
}

/** The whole plan at a glance: each signal a strip on one time scale, and where two of them collide. */
export function PlanView() {
  const { outcome, plan } = useBench();
  if (!outcome) return null;
  if (plan.signals.length === 0) {
    return (
      <div className={styles.empty}>
        <h1 className="serif">Nothing to do yet.</h1>
        <p className="soft">
          Each signal of the plan will be a strip across this page, with its waveform and its verdict.
        </p>
        <AddSignal wide />
      </div>
    );
  }
  const seconds = scaleOf(outcome.rows.flatMap((row) => (row.outcome ? [shownPeriod(row.outcome)] : [])));
  return (
    <div className={styles.plan}>
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
        <AddSignal />
        <PinNamesEditor />
        <ShareTick />
      </div>
      {outcome.conflicts.length > 0 && (
        <section aria-label="Conflicts" className={styles.conflicts}>
          <h2 className="label">What collides</h2>
          {outcome.conflicts.map(({ sentence }) => (
            <p key={sentence} className={styles.conflict}>
              <b>One register, two values.</b> {sentence}
            </p>
          ))}
        </section>
      )}
      <p className={`soft ${styles.sum}`}>
        {printNumber(outcome.rows.length)} signals. A click on a strip opens it in Fit.
      </p>
    </div>
  );
}
