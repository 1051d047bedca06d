'use client';

import ButtonBase from '@mui/material/ButtonBase';
import {
  failed,
  type InterruptReport,
  parseCycles,
  parseQuantity,
  type Plan,
  printPercent,
  printSeconds,
  succeeded,
  type Result,
} from '@herzschlag/core';
import { EditCell } from './EditCell.tsx';
import { withMasked, withRound } from './edits.ts';
import type { TableActions } from './InterruptTable.tsx';
import styles from './interrupts.module.css';

/** Reads "every 10 ms" or "10 ms" as s. */
export function readEvery(text: string): Result<number> {
  const read = parseQuantity(text.replace(/^every /i, ''), 'time');
  return read.ok ? succeeded(read.value.value.valueOf()) : read;
}

function readLength(text: string): Result<number> {
  const read = parseCycles(text);
  if (!read.ok) return read;
  return typeof read.value === 'number' && read.value > 0
    ? succeeded(read.value)
    : failed('Enter a whole number of cycles, 1 or more.');
}

/** What is left for the main loop, and the sections of it in which interrupts are disabled. */
export function MainLoop({
  report: { main, seconds, round },
  plan,
  actions,
}: {
  report: InterruptReport;
  plan: Plan;
  actions: Pick<TableActions, 'change' | 'show' | 'hint'>;
}) {
  const masked = plan.cpu?.mainLoop?.masked ?? [];
  const { change, hint, show } = actions;
  return (
    <section className={styles.main} aria-label="Main loop">
      <p className="label">Main loop</p>
      <p>
        <b className="mono">{printPercent(main.share, 4)}</b>{' '}
        <span className="soft">of the processor, over {printSeconds(seconds, 4)} simulated</span>
      </p>
      <p>
        <ButtonBase className={styles.link} onClick={() => show(main.absentAtS)} title="Show that moment">
          {printSeconds(main.longestAbsenceS, 4)}
        </ButtonBase>{' '}
        <span className="soft">is its longest wait</span>
      </p>
      <p>
        <span className="soft">A round takes</span>{' '}
        <EditCell
          label="Cycles of a round of the main loop"
          text={String(plan.cpu?.mainLoop?.roundCycles ?? 1000)}
          read={readLength}
          hint={hint}
          take={(cycles) => change((now) => withRound(now, cycles))}
        />{' '}
        <span className="soft">
          cycles alone{round ? `, ${printSeconds(round.meanS, 4)} with interrupts` : ''}
        </span>
      </p>
      <ul>
        {masked.map((section, at) => (
          <li key={`${section.name} ${String(at)}`}>
            <span className={styles.sections}>{section.name}</span>
            <span className="soft">masks interrupts every</span>
            <EditCell
              label={`Period of ${section.name}`}
              text={printSeconds(section.everyS, 12)}
              read={readEvery}
              hint={hint}
              take={(everyS) =>
                change((now) =>
                  withMasked(now, (all) => all.map((one, i) => (i === at ? { ...one, everyS } : one))),
                )
              }
            />
            <span className="soft">for</span>
            <EditCell
              label={`Cycles of ${section.name}`}
              text={String(section.cycles)}
              read={readLength}
              hint={hint}
              take={(cycles) =>
                change((now) =>
                  withMasked(now, (all) => all.map((one, i) => (i === at ? { ...one, cycles } : one))),
                )
              }
              number={{ value: section.cycles, of: (value) => Math.max(1, value) }}
            />
            <span className="soft">cycles</span>
            <ButtonBase
              className={styles.remove}
              aria-label={`Remove ${section.name}`}
              onClick={() => change((now) => withMasked(now, (all) => all.filter((_, i) => i !== at)))}
            >
              ×
            </ButtonBase>
          </li>
        ))}
      </ul>
      <ButtonBase
        className={styles.tool}
        onClick={() =>
          change((now) =>
            withMasked(now, (all) => [
              ...all,
              { name: `Section ${all.length + 1}`, everyS: 0.01, cycles: 100 },
            ]),
          )
        }
      >
        add a masked section
      </ButtonBase>
    </section>
  );
}
