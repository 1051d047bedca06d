'use client';

import { laneColour } from '../../theme/colour.ts';
import ButtonBase from '@mui/material/ButtonBase';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Plan } from '@herzschlag/core';
import type { PlanRow } from '../../state/db.ts';
import { useEngine } from '../../worker/useEngine.ts';
import type { Outline } from '../../worker/outline.ts';
import styles from './start.module.css';

const WAVE = { width: 38, height: 16 } as const;

function summary(stored: unknown): string {
  const plan = stored as Partial<Plan> | null;
  const count = Array.isArray(plan?.signals) ? plan.signals.length : 0;
  return `${String(plan?.part ?? 'no part')} · ${count} ${count === 1 ? 'signal' : 'signals'}`;
}

function wavePath({ periods, duty }: NonNullable<Outline>): string {
  const period = WAVE.width / periods;
  const [top, bottom] = [2, WAVE.height - 2];
  const one = `V${top}h${(period * duty).toFixed(2)}V${bottom}h${(period * (1 - duty)).toFixed(2)}`;
  return `M0,${bottom}${one.repeat(periods)}`;
}

/** The signals of a plan as a row of small waves; a line for those that have none. */
function Picture({ plan }: { plan: unknown }) {
  const { value: outlines } = useEngine(['outline', plan as object], (engine) => engine.outline(plan));
  return (
    <span className={styles.picture} aria-hidden="true">
      {outlines?.map((outline, at) => (
        <svg key={at} width={WAVE.width} height={WAVE.height}>
          <path
            d={outline ? wavePath(outline) : `M0,${WAVE.height / 2}h${WAVE.width}`}
            stroke={laneColour(at)}
            strokeDasharray={outline ? undefined : '2 3'}
          />
        </svg>
      ))}
    </span>
  );
}

/** A stored plan in the list: its name, a picture of its signals, and how to delete it. */
export function PlanEntry({ row, remove }: { row: PlanRow; remove: () => void }) {
  const [asked, setAsked] = useState(false);
  const router = useRouter();
  return (
    <li className={styles.row}>
      <ButtonBase className={styles.open} onClick={() => router.push(`/plans/${row.id}/fit`)}>
        <b className="serif">{row.name}</b>
        <Picture plan={row.plan} />
        <span className="soft">{summary(row.plan)}</span>
        <span className="soft">
          {new Date(row.changed).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
        </span>
      </ButtonBase>
      <ButtonBase
        className={styles.delete}
        onClick={() => (asked ? remove() : setAsked(true))}
        onBlur={() => setAsked(false)}
      >
        {asked ? 'delete for good?' : 'delete'}
      </ButtonBase>
    </li>
  );
}
