'use client';

import ButtonBase from '@mui/material/ButtonBase';
import type { ReactNode } from 'react';
import LinearProgress from '@mui/material/LinearProgress';
import { printSeconds } from '@herzschlag/core';
import type { TimeWindow } from '../../components/drawing/useTimeWindow.ts';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import styles from './interrupts.module.css';
import { LENGTHS, type LengthName } from './useSimulation.ts';

type Running = { done: number; stop: () => void } | undefined;

function Progress({ running }: { running: Running }) {
  if (!running) return null;
  return (
    <>
      <LinearProgress
        className={styles.progress ?? ''}
        variant="determinate"
        value={100 * running.done}
        aria-label="Simulation"
      />
      <ButtonBase className={styles.tool} onClick={running.stop}>
        stop
      </ButtonBase>
    </>
  );
}

type Props = {
  view: TimeWindow;
  /** The moment that is marked, in s. */
  atS: number | undefined;
  worst: () => void;
  nextLoss: () => void;
  running: Running;
  length: LengthName;
  setLength: (length: LengthName) => void;
  /** How the processor chooses among interrupts. */
  rule: string;
  /** What else can be done with the timeline. */
  children?: ReactNode;
};

/** Above the timeline: what is shown, how long is simulated, and how far a long simulation has come. */
export function InterruptsBar({
  view,
  atS,
  worst,
  nextLoss,
  running,
  length,
  setLength,
  rule,
  children,
}: Props) {
  return (
    <div className={styles.bar}>
      <h1 className="label">Interrupts</h1>
      <span className="mono" data-testid="window">
        {printSeconds(view.window.from, 6)} … {printSeconds(view.window.to, 6)}
      </span>
      <ButtonBase className={styles.tool} onClick={() => view.zoom(2, atS)} aria-label="Zoom out">
        −
      </ButtonBase>
      <ButtonBase className={styles.tool} onClick={() => view.zoom(0.5, atS)} aria-label="Zoom in">
        +
      </ButtonBase>
      <ButtonBase className={styles.tool} onClick={view.showAll}>
        show all
      </ButtonBase>
      <ButtonBase className={styles.tool} onClick={worst}>
        worst wait
      </ButtonBase>
      <ButtonBase className={styles.tool} onClick={nextLoss}>
        next loss
      </ButtonBase>
      {children}
      <span className={styles.space} />
      <Progress running={running} />
      <span className="soft">simulated</span>
      <ChoiceBox
        label="Time to simulate"
        className={styles.length ?? ''}
        value={length}
        take={(name) => setLength(name as LengthName)}
      >
        {LENGTHS.map(({ name }) => (
          <option key={name} value={name}>
            {name}
          </option>
        ))}
      </ChoiceBox>
      <span className={styles.rule}>{rule}</span>
    </div>
  );
}
