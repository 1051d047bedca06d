'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { FileButton } from '../../components/frame/FileButton.tsx';
import { FILES } from '../../state/file.ts';
import { DEMOS } from '../../state/demo.ts';
import { emptyPlan } from '../../state/empty.ts';
import { PartPicker } from './PartPicker.tsx';
import styles from './start.module.css';
import type { StartActions } from './useStartActions.ts';

/** A few periods of a level, only to look at. */
function demoWave(periods: number, duty: number, width: number): string {
  const period = width / periods;
  return Array.from(
    { length: periods },
    (_, at) => `${at === 0 ? 'M0,24' : ''}V3h${period * duty}V24h${period * (1 - duty)}`,
  ).join('');
}

/** The demos, a new plan, and what is opened from files. */
export function BeginSection({ actions }: { actions: StartActions }) {
  const { create, createFromFile, createFromKept, openDemo, openDropped, report, restore } = actions;
  return (
    <section aria-label="Begin" className={styles.begin}>
      <div className={styles.demos}>
        {DEMOS.map((demo) => (
          <ButtonBase key={demo.id} type="button" className={styles.demo} onClick={() => openDemo(demo.text)}>
            <span className="label">Demo</span>
            <b className="serif">{demo.name}</b>
            <span className="soft">{demo.about}</span>
            <svg viewBox="0 0 300 26" preserveAspectRatio="none" aria-hidden="true">
              <path d={demoWave(demo.wave.periods, demo.wave.duty, 300)} stroke={demo.wave.colour} />
            </svg>
          </ButtonBase>
        ))}
      </div>
      <div className={styles.sources}>
        <PartPicker
          take={(part, signals, trial) => create(emptyPlan(part.id, part.defaultClock), signals, trial)}
          takeFile={createFromFile}
          takeKept={createFromKept}
          report={report}
        />
        <FileButton variant="outlined" accept={FILES} name="Plan file" take={openDropped}>
          Open a plan file…
        </FileButton>
        <FileButton variant="outlined" accept=".json,application/json" name="Backup file" take={restore}>
          Restore a backup…
        </FileButton>
        <p className="soft">or drop a plan, an archive, a part or a backup anywhere on this page</p>
      </div>
    </section>
  );
}
