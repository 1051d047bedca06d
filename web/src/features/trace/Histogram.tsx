'use client';

import { COLOUR } from '../../theme/colour.ts';
import ButtonBase from '@mui/material/ButtonBase';
import { memo, useState } from 'react';
import { histogramOf, printNumber, printSeconds } from '@herzschlag/core';
import type { Window } from '../../components/drawing/lanes.ts';
import { SavePicture } from '../../components/drawing/SavePicture.tsx';
import styles from './trace.module.css';
import { shownSource, type TraceLane } from './useLanes.ts';

const SIZE = { width: 220, height: 74 } as const;

/** Edges in the window beyond which no histogram is drawn while it moves. */
const MAX = 200_000;

/** How the periods, or the pulses' widths, of the chosen lane are spread within the window. */
export const Histogram = memo(function Histogram({
  lane,
  window,
}: {
  lane: TraceLane | undefined;
  window: Window;
}) {
  const [of, setOf] = useState<'period' | 'width'>('period');
  const source = shownSource(lane);
  const few = source !== undefined && source.count(window.from, window.to) <= MAX;
  const edges = few ? source.edges(window.from, window.to) : new Float64Array(0);
  const start = edges[0] !== undefined && source?.level(edges[0]) === 1 ? 0 : 1;
  const seen = few ? histogramOf({ start, edges, from: window.from, to: window.to }, of) : undefined;
  const max = Math.max(1, ...(seen?.bins ?? []));
  const bar = SIZE.width / (seen?.bins.length ?? 1);
  return (
    <section aria-label="Histogram" className={styles.histogram}>
      <p>
        {(['period', 'width'] as const).map((one) => (
          <ButtonBase
            key={one}
            type="button"
            className={styles.tool}
            aria-pressed={of === one}
            onClick={() => setOf(one)}
          >
            {one === 'period' ? 'periods' : 'widths'}
          </ButtonBase>
        ))}
        <SavePicture name="Histogram" />
        <span className="soft">
          {seen ? `${printNumber(seen.total)} in the window` : few ? '' : 'zoom in'}
        </span>
      </p>
      <svg viewBox={`0 0 ${SIZE.width} ${SIZE.height}`} role="img" aria-label={`Histogram of ${of}s`}>
        {seen?.bins.map((count, at) => (
          <rect
            key={at}
            x={at * bar}
            width={Math.max(1, bar - 0.8)}
            y={SIZE.height - (count / max) * (SIZE.height - 4)}
            height={(count / max) * (SIZE.height - 4)}
            fill={COLOUR.ink}
            opacity={0.7}
          />
        ))}
        <line x1={0} x2={SIZE.width} y1={SIZE.height - 0.5} y2={SIZE.height - 0.5} stroke={COLOUR.line} />
      </svg>
      {seen && (
        <p className={`mono ${styles.ends}`}>
          <span>{printSeconds(seen.min, 7)}</span>
          <span>{seen.max > seen.min ? printSeconds(seen.max, 7) : ''}</span>
        </p>
      )}
    </section>
  );
});
