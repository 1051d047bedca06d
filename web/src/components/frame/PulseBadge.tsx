'use client';

import { COLOUR, laneColour } from '../../theme/colour.ts';
import ButtonBase from '@mui/material/ButtonBase';
import { useState } from 'react';
import type { Evaluation, Failure } from '@herzschlag/core';
import { PulseMark } from './icons.tsx';
import { Panel } from './Panel.tsx';
import styles from './frame.module.css';

/** How many checks pass; opens the list of what fails, each entry leading to its signal. */
export function PulseBadge({
  evaluation,
  show,
}: {
  evaluation: Evaluation;
  show: (failure: Failure) => void;
}) {
  const [anchor, setAnchor] = useState<HTMLElement>();
  const { passing, total, failures, signals } = evaluation;
  const conflicts = evaluation.conflicts.length;
  const also = conflicts > 0 ? `, ${conflicts} ${conflicts === 1 ? 'conflict' : 'conflicts'}` : '';
  const colourOf = (id: string | undefined): string =>
    id === undefined ? COLOUR.soft : laneColour(signals.findIndex(({ signal }) => signal.id === id));
  return (
    <>
      <ButtonBase
        className={styles.pulse}
        data-testid="pulse"
        aria-haspopup="dialog"
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        <PulseMark size={20} />
        {`${passing} of ${total} pass${also}`}
      </ButtonBase>
      <Panel button={anchor} name="Failing checks" close={() => setAnchor(undefined)} side="right">
        <div className={styles.list}>
          <p className="label">Failing checks</p>
          {failures.length === 0 && (
            <p className="soft">None: every check passes, and no two signals are in conflict.</p>
          )}
          {failures.map((failure) => {
            const { signal, task, name, text } = failure;
            return (
              <ButtonBase
                key={`${signal ?? task} ${text}`}
                className={styles.item}
                data-failure={signal ?? task}
                onClick={() => {
                  setAnchor(undefined);
                  show(failure);
                }}
              >
                <span className={styles.lane} style={{ background: colourOf(signal) }} />
                <span>
                  <b>{name}</b> {text}
                </span>
                <span aria-hidden="true">→</span>
              </ButtonBase>
            );
          })}
        </div>
      </Panel>
    </>
  );
}
