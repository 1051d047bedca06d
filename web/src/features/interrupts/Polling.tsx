'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { type Poll, type PollRow, printSeconds } from '@herzschlag/core';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { EditCell } from './EditCell.tsx';
import { withPolls } from './edits.ts';
import type { TableActions } from './InterruptTable.tsx';
import { readEvery } from './MainLoop.tsx';
import styles from './interrupts.module.css';

const COMPARISONS: readonly [NonNullable<Poll['comparison']>, string][] = [
  ['unsigned', 'now − last ≥ interval'],
  ['signed', '(signed)(now − due) ≥ 0'],
  ['absolute', 'now ≥ due'],
];

/** What the main loop looks at in each round: how late it sees it, how it drifts, what happens where the count wraps. */
export function Polling({
  polls,
  actions,
}: {
  polls: readonly PollRow[];
  actions: Pick<TableActions, 'change' | 'hint'>;
}) {
  const { change, hint } = actions;
  const edit = (at: number, facts: Partial<Poll>): void =>
    change((now) => withPolls(now, (all) => all.map((one, i) => (i === at ? { ...one, ...facts } : one))));
  return (
    <section className={styles.main} aria-label="Polling">
      <p className="label">Polling</p>
      {polls.length === 0 && (
        <p className="soft">
          Something that the main loop does at an interval, by looking at a count each round.
        </p>
      )}
      <ul>
        {polls.map(
          ({ name, everyS, bits = 32, comparison = 'unsigned', from = 'due', result, sentence }, at) => (
            <li key={`${name} ${String(at)}`} data-poll={name}>
              <span className={styles.sections}>{name}</span>
              <span className="soft">every</span>
              <EditCell
                label={`Interval of ${name}`}
                text={printSeconds(everyS, 12)}
                read={readEvery}
                hint={hint}
                take={(next) => edit(at, { everyS: next })}
              />
              <ChoiceBox
                label={`Bits of the count of ${name}`}
                value={bits}
                take={(value) => edit(at, { bits: Number(value) as 8 | 16 | 32 })}
              >
                {[8, 16, 32].map((one) => (
                  <option key={one} value={one}>
                    {one} bit
                  </option>
                ))}
              </ChoiceBox>
              <ChoiceBox
                label={`Comparison of ${name}`}
                className={styles.code ?? ''}
                value={comparison}
                take={(value) => edit(at, { comparison: value as NonNullable<Poll['comparison']> })}
              >
                {COMPARISONS.map(([id, text]) => (
                  <option key={id} value={id}>
                    {text}
                  </option>
                ))}
              </ChoiceBox>
              <ChoiceBox
                label={`Next time of ${name}`}
                value={from}
                take={(value) => edit(at, { from: value as 'due' | 'now' })}
              >
                <option value="due">next from the due time</option>
                <option value="now">next from now</option>
              </ChoiceBox>
              <ButtonBase
                className={styles.remove}
                aria-label={`Remove ${name}`}
                onClick={() => change((now) => withPolls(now, (all) => all.filter((_, i) => i !== at)))}
              >
                ×
              </ButtonBase>
              <span className={styles.verdict} data-fails={result.fault !== undefined}>
                {sentence}
              </span>
            </li>
          ),
        )}
      </ul>
      <ButtonBase
        className={styles.tool}
        onClick={() =>
          change((now) => withPolls(now, (all) => [...all, { name: `Job ${all.length + 1}`, everyS: 0.01 }]))
        }
      >
        add something polled
      </ButtonBase>
    </section>
  );
}
