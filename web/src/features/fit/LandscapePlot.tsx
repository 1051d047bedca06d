'use client';

import { COLOUR } from '../../theme/colour.ts';
import { memo } from 'react';
import { Axis } from '../../components/drawing/Axis.tsx';
import styles from './fit.module.css';
import { markPath } from './marks.ts';
import type { Plot } from './plot.ts';

function Axes({ plot }: { plot: Plot }) {
  const { left, right, bottom } = plot.area;
  return (
    <g>
      <Axis axis={plot.xAxis} at={[0, bottom]} />
      <Axis axis={plot.yAxis} at={[left, 0]} />
      <text className={styles.word} x={(left + right) / 2} y={bottom + 30} textAnchor="middle">
        resolution, bits
      </text>
    </g>
  );
}

/** The tolerance as a dashed line, or the least frequency and steps as the corner beyond which all is well. */
function Limit({ plot }: { plot: Plot }) {
  const { left, right, top } = plot.area;
  const y = plot.y(plot.limit);
  return (
    <g>
      {plot.byError ? (
        <rect
          x={left}
          width={right - left}
          y={y}
          height={Math.max(0, plot.area.bottom - y)}
          fill={COLOUR.passBand}
          opacity={0.28}
        />
      ) : (
        <rect
          x={plot.x(plot.minBits)}
          width={Math.max(0, right - plot.x(plot.minBits))}
          y={top}
          height={Math.max(0, y - top)}
          fill={COLOUR.passBand}
          opacity={0.4}
        />
      )}
      <line x1={left} x2={right} y1={y} y2={y} stroke={COLOUR.fail} strokeDasharray="4 3" />
      <text
        className={styles.word}
        x={left + 6}
        y={y - top < 16 ? y + 14 : y - 5}
        style={{ fill: COLOUR.fail }}
      >
        {plot.limitText}
      </text>
    </g>
  );
}

/** What of the landscape stays as it is while a setting is looked at or chosen. */
export const LandscapePlot = memo(function LandscapePlot({ plot }: { plot: Plot }) {
  return (
    <>
      {plot.byError && (
        <g>
          <rect
            x={plot.area.left}
            width={plot.area.right - plot.area.left}
            y={plot.rail - 9}
            height={18}
            fill={COLOUR.wash}
          />
          <text x={plot.area.left - 8} y={plot.rail + 4} textAnchor="end" className={styles.word}>
            exact
          </text>
        </g>
      )}
      <Axes plot={plot} />
      <Limit plot={plot} />
      {plot.clouds.map(({ key, path, meets, mark }) => (
        <path
          key={key}
          d={path}
          fill={mark.filled ? COLOUR.ink : 'none'}
          stroke={COLOUR.ink}
          strokeWidth={mark.filled ? 0 : 1.1}
          opacity={meets ? 0.5 : 0.2}
        />
      ))}
      <path d={plot.round} stroke={COLOUR.ink} strokeWidth={1.6} fill="none" data-testid="round" />
      <path d={plot.front} fill="none" stroke={COLOUR.pulse} strokeWidth={1.4} />
      {plot.rings.map(({ x, y, mark }) => (
        <path
          key={`${x} ${y}`}
          d={mark ? markPath(mark, 3.6, x, y) : ''}
          fill={COLOUR.paper}
          stroke={COLOUR.pulse}
          strokeWidth={1.4}
        />
      ))}
    </>
  );
});
