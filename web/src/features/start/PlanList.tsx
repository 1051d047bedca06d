'use client';

import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState, type DragEvent } from 'react';
import type { Plan, PlanSignal } from '@herzschlag/core';
import { FileButton } from '../../components/frame/FileButton.tsx';
import { StorageNotice } from '../../components/frame/Notices.tsx';
import { PulseMark } from '../../components/frame/icons.tsx';
import { ShortcutList, useShortcutList } from '../../components/frame/Shortcuts.tsx';
import { DEMOS } from '../../state/demo.ts';
import { openPlanFile } from '../../state/file.ts';
import { emptyPlan } from '../../state/empty.ts';
import { useLasting } from '../../state/lasting.ts';
import { restoreBackup, saveBackup } from '../../state/backup.ts';
import { deletePlan, storePlan } from '../../state/plans.ts';
import { usePlanList } from '../../state/planList.ts';
import { useStorage } from '../../state/storage.ts';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import { PartPicker } from './PartPicker.tsx';
import { PlanEntry } from './PlanEntry.tsx';
import { StartWishes } from './StartWishes.tsx';
import type { Trial } from './useTrials.ts';
import styles from './start.module.css';

/** The start page: the demos, the stored plans, a new one, a file. */
export function PlanList() {
  const router = useRouter();
  const rows = usePlanList();
  const stored = useStorage().kind === 'browser';
  const [problem, setProblem] = useState<string>();
  const [over, setOver] = useState(false);
  const keys = useShortcutList();
  const [done, setDone] = useState<string>();
  const { lasting, ask: askLasting } = useLasting();

  const enter = async (plan: Plan, view = 'fit') => {
    // Asked once there is something to lose; a browser may answer without a question.
    askLasting();
    router.push(`/plans/${await storePlan(plan)}/${view}`);
  };
  const attempt = (work: () => Promise<void>) => {
    setProblem(undefined);
    setDone(undefined);
    work().catch((error: unknown) => setProblem(sentenceOfError(error)));
  };

  const openFile = (file: File) =>
    attempt(async () => {
      const read = await openPlanFile(file);
      if (read.ok) await enter(read.value);
      else setProblem(read.fault.sentence);
    });

  const openDemo = (text: string) =>
    attempt(async () => {
      const read = await ask((engine) => engine.readPlan({ kind: 'plan', text }));
      if (read.ok) await enter(read.value);
      else setProblem(read.fault.sentence);
    });

  const create = (plan: Plan, signals: readonly PlanSignal[] = [], trial?: Trial) =>
    attempt(async () => {
      const whole = { ...plan, signals: [...signals] };
      await enter(trial?.feasible ? await ask((engine, key) => engine.planOn(key(whole), trial)) : whole);
    });

  const createFromFile = (file: File) =>
    attempt(async () => {
      const text = await file.text();
      const read = await ask((engine) => engine.readPart(text));
      if (read.ok) create(emptyPlan(read.value.id, read.value.defaultClock, read.value));
      else setProblem(`${file.name}: ${read.fault.sentence}`);
    });

  const restore = (file: File) =>
    attempt(async () => {
      const { restored, same, problems } = await restoreBackup(file);
      const parts = [
        `${restored} ${restored === 1 ? 'plan' : 'plans'} restored`,
        ...(same > 0 ? [`${same} here already`] : []),
        ...problems.map((problem) => `left out: ${problem}`),
      ];
      setDone(`${parts.join('; ')}.`);
    });

  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    const [file] = event.dataTransfer.files;
    if (file) openFile(file);
  };

  return (
    <main
      className={styles.page}
      data-over={over}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <header className={styles.head}>
        <span className={styles.mark}>
          <PulseMark size={40} />
        </span>
        <div>
          <h1 className="serif">Herzschlag</h1>
          <p className={styles.lead}>
            Say what each pin must do. See every way the chip can do it, the numbers, the waveform, and
            whether it meets the target.
          </p>
          <p className={styles.help}>
            <Link href="/guide">Guide and glossary</Link>
            <ButtonBase onClick={keys.show}>
              Keys <kbd>?</kbd>
            </ButtonBase>
          </p>
          <ShortcutList open={keys.open} close={keys.close} />
        </div>
      </header>

      <StorageNotice />
      {problem && (
        <p className={styles.problem} role="alert">
          {problem}
        </p>
      )}

      {done && (
        <p className={styles.done} role="status">
          {done}
        </p>
      )}

      <StartWishes
        usual={(rows?.[0]?.plan as Partial<Plan> | undefined)?.part}
        enter={(plan) => enter(plan, 'plan')}
        report={setProblem}
      />

      <section aria-label="Begin" className={styles.begin}>
        <div className={styles.demos}>
          {DEMOS.map((demo) => (
            <ButtonBase
              key={demo.id}
              type="button"
              className={styles.demo}
              onClick={() => openDemo(demo.text)}
            >
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
            report={setProblem}
          />
          <FileButton variant="outlined" accept=".json,application/json" name="Plan file" take={openFile}>
            Open a plan file…
          </FileButton>
          <FileButton variant="outlined" accept=".json,application/json" name="Backup file" take={restore}>
            Restore a backup…
          </FileButton>
          <p className="soft">or drop a plan file anywhere on this page</p>
        </div>
      </section>

      <section aria-label="Stored plans">
        <div className={styles.stored}>
          <h2 className="label">
            {stored ? 'Stored in this browser' : 'Kept in this page until it is closed'}
          </h2>
          {stored && lasting === false && rows && rows.length > 0 && (
            <p className="soft" data-testid="not-lasting">
              This browser may discard them when space runs short. Keep a backup.
            </p>
          )}
          {rows && rows.length > 0 && (
            <Button
              variant="quiet"
              onClick={() =>
                attempt(async () => {
                  const count = await saveBackup();
                  setDone(`A backup of ${count} ${count === 1 ? 'plan' : 'plans'} was saved.`);
                })
              }
            >
              Save a backup
            </Button>
          )}
        </div>
        {rows?.length === 0 && (
          <p className={`soft ${styles.none}`}>
            No plan yet. Type above what a pin should do, or open a demo: change a number and watch.
          </p>
        )}
        <ul className={styles.list}>
          {rows?.map((row) => (
            <PlanEntry key={row.id} row={row} remove={() => attempt(() => deletePlan(row.id))} />
          ))}
        </ul>
      </section>
    </main>
  );
}

/** A few periods of a level, only to look at. */
function demoWave(periods: number, duty: number, width: number): string {
  const period = width / periods;
  return Array.from(
    { length: periods },
    (_, at) => `${at === 0 ? 'M0,24' : ''}V3h${period * duty}V24h${period * (1 - duty)}`,
  ).join('');
}
