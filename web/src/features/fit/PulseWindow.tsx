'use client';

import { COLOUR } from '../../theme/colour.ts';
import ButtonBase from '@mui/material/ButtonBase';
import { scaleLinear } from 'd3';
import { memo, useState } from 'react';
import { type Check, type SignalEvaluation, printNumber, printSeconds, worstVerdict } from '@herzschlag/core';
import { bandPath, shownPeriod, wavePath } from '../../components/drawing/wave.ts';
import { marginText } from '../../components/verdict/marginText.ts';
import type { SignalEditor } from './useSignalView.ts';
import { Span } from './Span.tsx';
import { verdictClass, VerdictSign } from '../../components/verdict/VerdictSign.tsx';
import { SavePicture } from '../../components/drawing/SavePicture.tsx';
import styles from './fit.module.css';

const SIZE = { width: 600, height: 158, left: 2, right: 598, high: 22, low: 118, axis: 142 } as const;

/** The window is lower where a span is drawn below it. */
const LOW_SIZE = { ...SIZE, height: 106, low: 66, axis: 90 } as const;

/** Ticks shown on either side of an edge when the window is zoomed to it. */
const ZOOM_TICKS = 8;

function Verdicts({ checks }: { checks: readonly Check[] }) {
  return (
    <>
      {checks.map((check) => (
        <span
          key={`${check.property} ${check.low ?? ''}`}
          className={verdictClass(check.verdict)}
          data-check={check.property}
          data-verdict={check.verdict}
          title={check.note}
        >
          <VerdictSign verdict={check.verdict} /> {check.label ?? check.property}{' '}
          {check.verdict === 'unknown' ? '' : `${check.verdict}, `}
          {marginText(check)}
        </span>
      ))}
    </>
  );
}

type Look = 'periods' | 'edge';

function frameOf(
  look: Look,
  periodS: number,
  idealHigh: number,
  tickS: number,
): { from: number; to: number } {
  if (look === 'edge') return { from: idealHigh - ZOOM_TICKS * tickS, to: idealHigh + ZOOM_TICKS * tickS };
  return { from: 0, to: 2 * periodS };
}

function TickLines({
  from,
  to,
  tickS,
  x,
  low,
}: {
  from: number;
  to: number;
  tickS: number;
  x: (s: number) => number;
  low: number;
}) {
  const first = Math.ceil(from / tickS - 1e-9);
  const count = Math.min(2 * ZOOM_TICKS + 1, Math.max(0, Math.floor(to / tickS + 1e-9) - first + 1));
  return Array.from({ length: count }, (_, at) => (
    <line
      key={at}
      x1={x((first + at) * tickS)}
      x2={x((first + at) * tickS)}
      y1={SIZE.high - 14}
      y2={low + 12}
      stroke={COLOUR.hair}
    />
  ));
}

function figuresText({ wave, duty, frequencyHz, place, steps }: SignalEvaluation): string {
  if (wave.level !== undefined) return `always ${wave.level === 1 ? 'high' : 'low'}`;
  if (place.cause === 'input') {
    return `fastest input: ${printSeconds(wave.periodTicks * wave.tickS)}, ${printNumber(steps)} counts of ${printSeconds(wave.countS)}`;
  }
  const period = 1 / frequencyHz;
  if (place.pin === undefined) {
    return `every ${printSeconds(period)}, the processor busy for ${printSeconds(period * duty, 3)}`;
  }
  return `${printSeconds(period)} = ${printSeconds(period * duty)} high + ${printSeconds(period * (1 - duty))} low`;
}

/** Two periods of the pin over the target, drawn from its rising edge; or its falling edge, tick by tick. */
export const PulseWindow = memo(function PulseWindow({
  editor,
  conflicts,
}: {
  editor: SignalEditor;
  /** Conflicts that the signal is part of. */
  conflicts: number;
}) {
  const [look, setLook] = useState<Look>('periods');
  const { outcome } = editor;
  if (!outcome) {
    return (
      <section aria-label="Pulse window">
        <h2 className="label">Pulse window</h2>
        <p className="soft">No setting makes this signal, so there is no waveform.</p>
      </section>
    );
  }
  const { wave, checks, wanted } = outcome;
  const input = outcome.place.cause === 'input';
  const periodS = shownPeriod(outcome);
  const idealPeriod = wanted.periodS ?? periodS;
  const constant = wave.level !== undefined;
  const shown = constant || wanted.duty === 0 || wanted.duty === 1 ? 'periods' : look;
  const { countS } = wave;
  const { from, to } = frameOf(shown, periodS, idealPeriod * wanted.duty, countS);
  const x = scaleLinear([from, to], [SIZE.left, SIZE.right]);
  const size = outcome.span ? LOW_SIZE : SIZE;
  const level = (high: boolean): number => (high ? size.high : size.low);
  const high = outcome.duty * periodS;
  const verdict = worstVerdict(checks.map((check) => check.verdict));
  const offTicks = (high - idealPeriod * wanted.duty) / wave.tickS;
  return (
    <section aria-label="Pulse window">
      <div className={styles.head}>
        <h2 className="label">Pulse window</h2>
        <Verdicts checks={checks} />
        {conflicts > 0 && (
          <span className={verdictClass('fail')} data-check="conflict" data-verdict="fail">
            <VerdictSign verdict="fail" /> {conflicts === 1 ? 'conflict' : `${conflicts} conflicts`}
          </span>
        )}
        <SavePicture name="Pulse window" />
      </div>
      <svg
        className={styles.plot}
        viewBox={`0 0 ${size.width} ${size.height}`}
        role="img"
        aria-label={`Waveform: ${figuresText(outcome)}`}
        data-testid="pulse-window"
      >
        {shown === 'edge' && <TickLines from={from} to={to} tickS={countS} x={x} low={size.low} />}
        <path
          d={
            outcome.place.pin === undefined || input
              ? ''
              : bandPath({ periodS: idealPeriod, highS: idealPeriod * wanted.duty, from, to, x, level })
          }
          fill="none"
          stroke={verdict === 'fail' ? COLOUR.failBand : COLOUR.passBand}
          strokeWidth={18}
        />
        <path
          d={wavePath({
            periodS,
            highS: constant ? (wave.level === 1 ? periodS : 0) : high,
            from,
            to,
            x,
            level,
          })}
          fill="none"
          stroke={COLOUR.pulse}
          strokeWidth={2}
          strokeLinejoin="miter"
          data-testid="wave"
        />
        {[from, (from + to) / 2, to].map((at, index) => (
          <text
            key={index}
            x={x(at)}
            y={size.axis + 8}
            textAnchor={index === 0 ? 'start' : index === 1 ? 'middle' : 'end'}
          >
            {at === 0 ? '0' : printSeconds(at, shown === 'edge' ? 9 : 6)}
          </text>
        ))}
      </svg>
      {outcome.span && <Span span={outcome.span} />}
      <p className={styles.caption}>
        <span data-testid="figures">{figuresText(outcome)}</span>
        {!constant && !input && outcome.place.pin !== undefined && (
          <>
            {' · '}
            <ButtonBase
              className={styles.filter}
              aria-pressed={shown === 'edge'}
              onClick={() => setLook(look === 'edge' ? 'periods' : 'edge')}
            >
              {shown === 'edge'
                ? `falling edge ${printNumber(offTicks, 4)} ticks of ${printSeconds(wave.tickS)} from the target; show two periods`
                : 'zoom to the falling edge'}
            </ButtonBase>
          </>
        )}
      </p>
    </section>
  );
});
