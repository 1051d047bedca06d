'use client';

import { COLOUR } from '../../theme/colour.ts';
import { axisBottom, axisLeft, line, scaleLinear } from 'd3';
import { useMemo } from 'react';
import { readRange, type Readings, seenAt, setText } from '@herzschlag/core';
import { Axis } from '../drawing/Axis.tsx';
import styles from './load.module.css';

const SIZE = { width: 500, height: 220, left: 52, right: 14, top: 10, bottom: 26 };

/** Places between the ends at which the line is drawn. */
const PLACES = 60;

/** Readings as points, and what they make of every value between them. */
export function ReadingsChart({ readings }: { readings: Readings }) {
  const { points, unit, of } = readings;
  const { width, height, left, right, top, bottom } = SIZE;
  const { low, high } = readRange(readings);
  const seen = points.map((one) => one.seen);
  const room = (Math.max(...seen) - Math.min(...seen)) * 0.08 || 1;
  const x = useMemo(() => scaleLinear([low, high], [left, width - right]), [low, high, left, width, right]);
  const bounds: [number, number] = [
    Math.min(...seen, points.length === 1 ? 0 : Infinity) - room,
    Math.max(...seen) + room,
  ];
  const [from, to] = bounds;
  const y = useMemo(() => scaleLinear([from, to], [height - bottom, top]), [from, to, height, bottom, top]);
  const across = useMemo(
    () =>
      axisBottom<number>(x)
        .ticks(5)
        .tickSize(-(height - top - bottom))
        .tickFormat((value) => setText(of, value, 3)),
    [x, of, height, top, bottom],
  );
  const up = useMemo(
    () =>
      axisLeft<number>(y)
        .ticks(5)
        .tickSize(-(width - left - right)),
    [y, width, left, right],
  );
  const path = line<number>(
    (set) => x(set),
    (set) => y(seenAt(readings, set)),
  )(Array.from({ length: PLACES + 1 }, (_, at) => low + ((high - low) * at) / PLACES));
  return (
    <svg
      className={styles.plot}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={`Readings in ${unit}`}
    >
      <Axis axis={across as never} at={[0, height - bottom]} />
      <Axis axis={up as never} at={[left, 0]} />
      {path && (
        <path d={path} fill="none" stroke={COLOUR.pulse} strokeWidth={1.8} data-testid="readings-line" />
      )}
      {points.map(({ set, seen: value }) => (
        <circle
          key={set}
          cx={x(set)}
          cy={y(value)}
          r={4}
          fill={COLOUR.paper}
          stroke={COLOUR.ink}
          strokeWidth={1.6}
        />
      ))}
    </svg>
  );
}
