'use client';

import { useState } from 'react';
import type { Check, Evaluation } from '@herzschlag/core';
import { laneColour } from '../../theme/lanes.ts';
import { PulseMark } from './icons.tsx';
import { Panel } from './Panel.tsx';
import styles from './frame.module.css';

type Miss = { signal: string; name: string; lane: number; text: string };

const SAID: Record<Check['verdict'], string> = {
  pass: 'pass',
  fail: 'fail',
  unknown: 'cannot be told',
};

function failsOf({ rows, conflicts }: Evaluation): Miss[] {
  const fails = rows.flatMap(({ signal, outcome }, lane): Miss[] => {
    if (!outcome) return [{ signal: signal.id, name: signal.name, lane, text: 'no timer can serve it' }];
    return outcome.checks
      .filter((check) => check.verdict !== 'pass')
      .map((check) => ({
        signal: signal.id,
        name: signal.name,
        lane,
        text: `${check.property} ${SAID[check.verdict]}`,
      }));
  });
  const shared = conflicts.map(({ signals: [one], sentence }): Miss => {
    const lane = rows.findIndex(({ signal }) => signal.name === one);
    return { signal: rows[lane]?.signal.id ?? '', name: one, lane, text: sentence };
  });
  return [...fails, ...shared];
}

/** How many checks hold; opens the list of what misses, each entry leading to its signal. */
export function PulseBadge({ outcome, show }: { outcome: Evaluation; show: (signal: string) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement>();
  const checks = outcome.rows.flatMap((row) => row.outcome?.checks ?? []);
  const unserved = outcome.rows.filter((row) => !row.outcome).length;
  const holding = checks.filter((check) => check.verdict === 'pass').length;
  const fails = failsOf(outcome);
  const total = checks.length + unserved;
  const conflicts = outcome.conflicts.length;
  const clash = conflicts > 0 ? `, ${conflicts} ${conflicts === 1 ? 'conflict' : 'conflicts'}` : '';
  return (
    <>
      <button
        type="button"
        className={styles.pulse}
        data-testid="pulse"
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        <PulseMark size={20} />
        {`${holding} of ${total} hold${clash}`}
      </button>
      <Panel button={anchor} close={() => setAnchor(undefined)} side="right">
        <div className={styles.list}>
          <p className="label">What does not hold</p>
          {fails.length === 0 && (
            <p className="soft">Nothing: every check holds, and no two signals want one register.</p>
          )}
          {fails.map((miss) => (
            <button
              type="button"
              key={`${miss.signal} ${miss.text}`}
              className={`plain ${styles.item}`}
              onClick={() => {
                setAnchor(undefined);
                show(miss.signal);
              }}
            >
              <span className={styles.lane} style={{ background: laneColour(miss.lane) }} />
              <span>
                <b>{miss.name}</b> {miss.text}
              </span>
              <span aria-hidden="true">→</span>
            </button>
          ))}
        </div>
      </Panel>
    </>
  );
}
