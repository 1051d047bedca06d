'use client';

import { COLOUR } from '../../theme/colour.ts';
import {
  type EvaluatedSignal,
  type EdgeSource,
  passTicks,
  printSeconds,
  type SignalWaveform,
  waveformSource,
} from '@herzschlag/core';
import { rowSvgPaths } from '../../components/drawing/lanes.ts';
import { bandPath, shownPeriod, wavePath } from '../../components/drawing/wave.ts';
import styles from './plan.module.css';

const WAVE = { width: 300, height: 40, high: 8, low: 32 } as const;

/** Periods of a steady signal that its strip shows. */
const PERIODS = 4;

/** How much time a signal's strip shows by itself: a whole sequence, or some periods. */
export function ownSpan({ outcome }: EvaluatedSignal, lane: SignalWaveform | undefined): number | undefined {
  if (!outcome) return undefined;
  if (lane && 'rows' in lane.waveform) return passTicks(lane.waveform) / lane.tickHz;
  return PERIODS * shownPeriod(outcome);
}

/** Exact edges as a line; where they lie closer than pixels, a pale band between its two levels. */
function Course({
  source,
  seconds,
  colour,
}: {
  /** Absent for an input, of which only its rate is known. */
  source: EdgeSource | undefined;
  seconds: number;
  colour: string;
}) {
  if (!source) {
    const { width, high, low } = WAVE;
    return <rect width={width} y={high} height={low - high} fill={colour} opacity={0.3} />;
  }
  const row = { source, colour, top: WAVE.high, height: WAVE.low - WAVE.high };
  return rowSvgPaths(row, { from: 0, to: seconds }, WAVE.width).map((shape, at) =>
    shape.kind === 'busy' ? (
      <rect
        key={at}
        x={shape.x}
        y={WAVE.high}
        width={shape.width}
        height={WAVE.low - WAVE.high}
        fill={colour}
        opacity={0.3}
      />
    ) : (
      <path key={at} d={shape.d} stroke={colour} strokeWidth={1.6} fill="none" />
    ),
  );
}

/** A signal's waveform with its target as a pale band behind it, over a time in seconds that is written beside it. */
export function StripWave({
  row,
  lane,
  seconds,
  colour,
}: {
  row: EvaluatedSignal;
  lane: SignalWaveform | undefined;
  seconds: number | undefined;
  colour: string;
}) {
  const { outcome, verdict } = row;
  if (!outcome || seconds === undefined) return <span className="soft">no waveform</span>;
  const x = (s: number): number => (s / seconds) * WAVE.width;
  const level = (high: boolean): number => (high ? WAVE.high : WAVE.low);
  const { wanted, wave } = outcome;
  const periodS = wanted.periodS ?? shownPeriod(outcome);
  const steady = lane === undefined || !('rows' in lane.waveform);
  const shape = { periodS, highS: wanted.duty * periodS, from: 0, to: seconds, x, level };
  const made = shownPeriod(outcome);
  const drawn = wave.level === undefined ? outcome.duty * made : wave.level * made;
  const sparse = steady && x(made) >= 3;
  return (
    <span className={styles.waveCell}>
      <svg
        viewBox={`0 0 ${WAVE.width} ${WAVE.height}`}
        preserveAspectRatio="none"
        className={styles.wave}
        aria-hidden="true"
      >
        {sparse && outcome.place.pin !== undefined && outcome.place.cause !== 'input' && (
          <path
            d={bandPath(shape)}
            stroke={verdict === 'fail' ? COLOUR.failBand : COLOUR.passBand}
            strokeWidth={9}
            fill="none"
          />
        )}
        {sparse ? (
          <path
            d={wavePath({ ...shape, periodS: made, highS: drawn })}
            stroke={colour}
            strokeWidth={1.6}
            fill="none"
          />
        ) : (
          <Course
            source={lane && waveformSource(lane.waveform, lane.tickHz)}
            seconds={seconds}
            colour={colour}
          />
        )}
      </svg>
      <small className="mono">{printSeconds(seconds, 3)}</small>
    </span>
  );
}
