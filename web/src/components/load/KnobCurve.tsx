'use client';

import { COLOUR } from '../../theme/colour.ts';
import { axisBottom, axisLeft, line, scaleLinear } from 'd3';
import { useMemo } from 'react';
import {
  highestReading,
  type Knob,
  type KnobReport,
  knobText,
  printNumber,
  printPercent,
} from '@herzschlag/core';
import { Axis } from '../drawing/Axis.tsx';
import styles from './load.module.css';

const SIZE = { width: 540, height: 230, left: 66, right: 12, top: 12, bottom: 24 };

/** Points of a curve that are drawn. */
const DRAWN = 1080;

/** A curve over readings: what the knob asks for, what the firmware makes of it, and where that goes wrong. */
export function KnobCurve({ knob, report, reading }: { knob: Knob; report: KnobReport; reading: number }) {
  const { width, height, left, right, top, bottom } = SIZE;
  const { readings, made, wanted, overflowAt, zeroAt, beyondAt } = report;
  const highest = highestReading(knob);
  const ends = [knob.from, knob.to];
  const [least, most] = [Math.min(...ends), Math.max(...ends)];
  const x = useMemo(() => scaleLinear([0, highest], [left, width - right]), [highest, left, width, right]);
  const y = useMemo(
    () => scaleLinear([least, most], [height - bottom, top]).nice(),
    [least, most, height, bottom, top],
  );
  const across = useMemo(
    () =>
      axisBottom<number>(x)
        .ticks(6)
        .tickSize(4)
        .tickFormat((value) => printNumber(value)),
    [x],
  );
  const up = useMemo(
    () =>
      axisLeft<number>(y)
        .ticks(5)
        .tickSize(-(width - left - right))
        .tickFormat((value) => knobText(knob.sets, value, 3)),
    [y, width, left, right, knob.sets],
  );
  const stride = Math.max(1, Math.floor(readings.length / DRAWN));
  const places = readings.map((_, at) => at).filter((at) => at % stride === 0 || at === readings.length - 1);
  const [floor, ceiling] = [height - bottom, top];
  const clamp = (place: number): number => Math.max(ceiling - 8, Math.min(floor, place));
  const path = (values: readonly (number | undefined)[]): string =>
    line<number>(
      (at) => x(readings[at] ?? 0),
      (at) => clamp(y(values[at] ?? 0)),
    ).defined((at) => values[at] !== undefined)(places) ?? '';
  const { coarsest, nervous } = report;
  const valueAt = (at: number): number | undefined => made[readings.findIndex((one) => one >= at)];
  const rising = (made[made.length - 1] ?? 0) > (made[0] ?? 0);
  const marks = [
    ...(coarsest.share > 0
      ? [{ at: coarsest.reading, text: `coarsest, ${printPercent(coarsest.share, 2)}`, below: rising }]
      : []),
    ...(nervous && nervous.steady > 0
      ? [{ at: nervous.reading, text: `nervous, ${printPercent(nervous.steady, 2)}`, below: rising }]
      : []),
  ];
  const wrong = [
    ...(zeroAt === undefined ? [] : [{ at: zeroAt, text: 'division by zero' }]),
    ...(overflowAt === undefined ? [] : [{ at: overflowAt, text: `overflow of ${knob.wide ?? 32} bits` }]),
    ...(beyondAt === undefined ? [] : [{ at: beyondAt, text: 'beyond the counter' }]),
  ];
  return (
    <svg
      className={styles.plot}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label="What each reading of the knob gives"
    >
      <Axis axis={across as never} at={[0, floor]} />
      <Axis axis={up as never} at={[left, 0]} />
      <path d={path(wanted)} fill="none" stroke={COLOUR.soft} strokeWidth={1} strokeDasharray="3 3" />
      <path d={path(made)} fill="none" stroke={COLOUR.pulse} strokeWidth={1.8} data-testid="knob-curve" />
      {wrong.map(({ at, text }) => {
        const place = x(at);
        const right01 = place > width * 0.6;
        return (
          <g key={text} data-testid="knob-wrong" data-reading={at}>
            <line x1={place} x2={place} y1={ceiling} y2={floor} stroke={COLOUR.fail} strokeWidth={1.6} />
            <text
              className={styles.mark}
              x={place + (right01 ? -6 : 6)}
              y={ceiling + 12}
              textAnchor={right01 ? 'end' : 'start'}
            >
              {text} from {at} on
            </text>
          </g>
        );
      })}
      {marks.map(({ at, text, below }, row) => (
        <g key={text}>
          <circle
            cx={x(at)}
            cy={clamp(y(valueAt(at) ?? least))}
            r={4}
            fill={COLOUR.paper}
            stroke={COLOUR.fail}
            strokeWidth={1.6}
          />
          <text
            className={styles.place}
            x={x(at) + (at > highest * 0.7 ? -8 : 8)}
            y={Math.min(floor - 3, clamp(y(valueAt(at) ?? least)) + (below ? 16 + 13 * row : -7 - 13 * row))}
            textAnchor={at > highest * 0.7 ? 'end' : 'start'}
          >
            {text}
          </text>
        </g>
      ))}
      <line x1={x(reading)} x2={x(reading)} y1={ceiling} y2={floor} stroke={COLOUR.ink} strokeWidth={1} />
    </svg>
  );
}
