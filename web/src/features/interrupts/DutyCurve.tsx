'use client';

import { COLOUR } from '../../theme/colour.ts';
import { area, line, scaleLinear, scaleSymlog } from 'd3';
import { type DutyRange, type Plan, printPercent } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { useEngine } from '../../worker/useEngine.ts';
import { SavePicture } from '../../components/drawing/SavePicture.tsx';
import styles from './interrupts.module.css';

const SIZE = { width: 300, height: 132, left: 40, bottom: 18, top: 6, right: 8 };
const TICKS = [0, 0.01, 0.1, 0.5, 1];

function Curve({ range: { points }, colour }: { range: DutyRange; colour: string }) {
  const { width, height, left, bottom, top, right } = SIZE;
  const scale = scaleSymlog().constant(0.02).domain([0, 1]);
  const x = scale.copy().range([left, width - right]);
  const y = scale.copy().range([height - bottom, top]);
  const inside = scaleLinear().domain([0, 1]).range([0, 1]).clamp(true);
  const band = area<DutyRange['points'][number]>(
    ({ set }) => x(set),
    ({ min }) => y(inside(min)),
    ({ max }) => y(inside(max)),
  )(points);
  const mean = line<DutyRange['points'][number]>(
    ({ set }) => x(set),
    ({ mean: own }) => y(inside(own)),
  )(points);
  return (
    <svg
      className={styles.curve}
      viewBox={`0 0 ${width} ${height}`}
      width={width}
      height={height}
      role="img"
      aria-label="Duty that comes out for each duty that is set"
    >
      {TICKS.map((tick) => (
        <g key={tick}>
          <line x1={left} x2={width - right} y1={y(tick)} y2={y(tick)} stroke={COLOUR.hair} />
          <text x={left - 6} y={y(tick) + 4} textAnchor="end">
            {printPercent(tick)}
          </text>
          {tick !== 0.5 && (
            <text x={x(tick)} y={height - 3} textAnchor={tick === 1 ? 'end' : 'middle'}>
              {printPercent(tick)}
            </text>
          )}
        </g>
      ))}
      <line x1={x(0)} y1={y(0)} x2={x(1)} y2={y(1)} stroke={COLOUR.soft} strokeDasharray="2 3" />
      {band && <path d={band} fill={colour} opacity={0.22} />}
      {mean && <path d={mean} fill="none" stroke={colour} strokeWidth={1.6} />}
    </svg>
  );
}

/** What interrupts make of each duty of a signal, and the range in which it comes out as it was set. */
export function DutyCurve({ plan, id, colour }: { plan: Plan; id: string; colour: string }) {
  const { report } = usePlanContext();
  const { value: range } = useEngine(
    ['duty range', plan, id],
    (engine, key) => engine.dutyRange(key(plan), id),
    {
      keep: true,
      report,
    },
  );
  if (!range) return null;
  const { usable } = range;
  return (
    <figure className={styles.figure} data-testid="duty-curve">
      <Curve range={range} colour={colour} />
      <figcaption className="soft">
        Duty that comes out (up) for each that is set (across).{' '}
        {usable
          ? `From ${printPercent(usable.min, 2)} to ${printPercent(usable.max, 3)} it is right within 1 % of the period.`
          : 'None is right within 1 % of the period.'}{' '}
        <SavePicture name="Duty curve" />
      </figcaption>
    </figure>
  );
}
