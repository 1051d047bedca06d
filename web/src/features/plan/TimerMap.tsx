'use client';

import { COLOUR, laneColour } from '../../theme/colour.ts';
import ButtonBase from '@mui/material/ButtonBase';
import { channelIdOf, type EvaluatedSignal, type Evaluation, meansOf, timerIdOf } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import type { PartFacts } from '../../worker/facts.ts';
import styles from './plan.module.css';

/** A channel of a timer, or its interrupts, with the signals that hold it. */
type Slot = { name: string; holders: { row: EvaluatedSignal; index: number }[] };

type TimerColumn = {
  timer: PartFacts['timers'][number];
  slots: Slot[];
  fault: 'frequency' | 'channel' | undefined;
};

const ROW = 26;
const HEAD = 4;

function columnsOf(part: PartFacts, { signals, conflicts }: Evaluation): TimerColumn[] {
  const rootOf = (id: string): string => part.timers.find((one) => one.id === id)?.root ?? id;
  return part.timers
    .filter((timer) => timer.root === timer.id)
    .map((timer) => {
      const own = signals.flatMap((row, index) => {
        const setting = row.outcome?.setting;
        const id = setting && timerIdOf(setting);
        return setting && id !== undefined && rootOf(id) === timer.id ? [{ row, index, setting }] : [];
      });
      const onChannel = (id: string) => own.filter(({ setting }) => channelIdOf(setting) === id);
      const others = own.filter(({ setting }) => channelIdOf(setting) === undefined);
      const conflict = conflicts.find((one) => one.timer === timer.id);
      const channels = timer.channels.map((name) => ({ name, holders: onChannel(name) }));
      const ticks =
        others.length > 0 ? [{ name: others[0] ? meansOf(others[0].setting) : '', holders: others }] : [];
      return {
        timer,
        slots: [...channels, ...ticks],
        fault: conflict && (conflict.of === 'channel' ? 'channel' : 'frequency'),
      };
    });
}

function Slots({ column, show }: { column: TimerColumn; show: (id: string) => void }) {
  const { slots, fault } = column;
  const used = slots.some(({ holders }) => holders.length > 0);
  const height = HEAD + ROW * Math.max(1, slots.length);
  const held = slots.flatMap(({ holders }, at) => (holders.length > 0 ? [at] : []));
  const y = (at: number): number => 12 + ROW * at;
  const [first = 0, last = 0] = [held[0], held[held.length - 1]];
  return (
    <div className={styles.column} style={{ height }}>
      <svg width="24" height={height - HEAD} aria-hidden="true">
        <line
          x1="12"
          x2="12"
          y1="0"
          y2={height - HEAD - 6}
          stroke={used ? COLOUR.ink : COLOUR.line}
          strokeWidth={used ? 1.6 : 1}
        />
        {fault === 'frequency' && (
          <rect
            x="3"
            y={y(first) - 10}
            width="18"
            height={y(last) - y(first) + 20}
            rx="9"
            className={styles.conflictMark}
          />
        )}
        {slots.map(({ name, holders }, at) =>
          holders.length === 0 ? (
            <circle key={name} cx="12" cy={y(at)} r="3.5" className={styles.free} />
          ) : (
            <g key={name}>
              {holders.length > 1 && fault === 'channel' && (
                <circle cx="12" cy={y(at)} r="10" className={styles.conflictMark} />
              )}
              {holders.slice(0, 2).map(({ row, index }, side) => (
                <path
                  key={row.signal.id}
                  d={
                    holders.length === 1
                      ? `M12,${y(at) - 6}a6,6 0 1 1 0,12a6,6 0 1 1 0,-12`
                      : `M12,${y(at) - 6}a6,6 0 0 ${side} 0,12z`
                  }
                  fill={laneColour(index)}
                />
              ))}
            </g>
          ),
        )}
      </svg>
      <ul>
        {slots.map(({ name, holders }) => (
          <li
            key={name}
            data-held={holders.length > 0}
            data-conflicting={holders.length > 1 && fault === 'channel'}
          >
            {holders.length === 0 ? (
              name
            ) : (
              <ButtonBase
                title={`${holders.map(({ row }) => row.signal.name).join(' and ')} on ${name}`}
                onClick={() => show(holders[0]?.row.signal.id ?? '')}
              >
                {holders.length === 1
                  ? holders[0]?.row.signal.name
                  : fault === 'channel'
                    ? `conflict on ${name}`
                    : holders.map(({ row }) => row.signal.name).join(', ')}
              </ButtonBase>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Timers across, channels down: who holds what, what is free, what is reserved, and where signals are in conflict. */
export function TimerMap() {
  const { evaluation, part, plan, change, showSignal } = usePlanContext();
  const reserved = plan.reserved ?? [];
  const toggle = (id: string) =>
    change((now) => {
      const before = now.reserved ?? [];
      const next = before.includes(id) ? before.filter((one) => one !== id) : [...before, id];
      const rest = { ...now };
      delete rest.reserved;
      return next.length === 0 ? rest : { ...rest, reserved: next };
    });
  return (
    <section aria-label="Timer map" className={styles.map} data-testid="timer-map">
      <h2 className="label">
        Timer map <span className="soft">timers across, channels down. Click a timer to reserve it.</span>
      </h2>
      <div className={styles.columns}>
        {columnsOf(part, evaluation).map((column) => {
          const { timer } = column;
          const kept = reserved.includes(timer.id);
          return (
            <div key={timer.id} data-timer={timer.id} data-fault={column.fault} data-reserved={kept}>
              <ButtonBase
                className={styles.timer}
                aria-pressed={kept}
                title={
                  kept
                    ? `${timer.name} is reserved; click to release it`
                    : `Reserve ${timer.name} for something else`
                }
                onClick={() => toggle(timer.id)}
              >
                <b>{timer.name}</b>{' '}
                <span className="mono soft">{kept ? 'reserved' : `${timer.width} bit`}</span>
              </ButtonBase>
              <Slots column={column} show={showSignal} />
            </div>
          );
        })}
      </div>
    </section>
  );
}
