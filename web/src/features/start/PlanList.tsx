'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { useRouter } from 'next/navigation';
import { useState, type DragEvent } from 'react';
import { type ClockSetting, type Part, type Plan, PLAN_VERSION } from '@herzschlag/core';
import { FileButton } from '../../components/frame/FileButton.tsx';
import { StorageNotice } from '../../components/frame/Notices.tsx';
import { PulseMark } from '../../components/frame/icons.tsx';
import { DEMOS } from '../../state/demo.ts';
import { openPlanFile } from '../../state/file.ts';
import type { PlanRow } from '../../state/db.ts';
import { deletePlan, storePlan } from '../../state/plans.ts';
import { usePlanList } from '../../state/planList.ts';
import { useStorage } from '../../state/storage.ts';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import { PartPicker } from './PartPicker.tsx';
import styles from './start.module.css';

function summary(stored: unknown): string {
  const plan = stored as Partial<Plan> | null;
  const count = Array.isArray(plan?.signals) ? plan.signals.length : 0;
  return `${String(plan?.part ?? 'no part')} · ${count} ${count === 1 ? 'signal' : 'signals'}`;
}

function PlanEntry({ row, remove }: { row: PlanRow; remove: () => void }) {
  const [asked, setAsked] = useState(false);
  const router = useRouter();
  return (
    <li className={styles.row}>
      <ButtonBase className={styles.open} onClick={() => router.push(`/plans/${row.id}/fit`)}>
        <b className="serif">{row.name}</b>
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

/** The start page: the demos, the stored plans, a new one, a file. */
export function PlanList() {
  const router = useRouter();
  const rows = usePlanList();
  const stored = useStorage().kind === 'browser';
  const [problem, setProblem] = useState<string>();
  const [over, setOver] = useState(false);

  const enter = async (plan: Plan) => router.push(`/plans/${await storePlan(plan)}/fit`);
  const attempt = (work: () => Promise<void>) => {
    setProblem(undefined);
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

  const create = (part: { id: string; defaultClock: ClockSetting }, ownPart?: Part) =>
    attempt(() =>
      enter({
        format: 'herzschlag-plan',
        version: PLAN_VERSION,
        name: 'New plan',
        part: part.id,
        clock: part.defaultClock,
        signals: [],
        ...(ownPart ? { ownPart } : {}),
      }),
    );

  const createFromFile = (file: File) =>
    attempt(async () => {
      const text = await file.text();
      const read = await ask((engine) => engine.readPart(text));
      if (read.ok) create(read.value, read.value);
      else setProblem(`${file.name}: ${read.fault.sentence}`);
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
        </div>
      </header>

      <StorageNotice />
      {problem && (
        <p className={styles.problem} role="alert">
          {problem}
        </p>
      )}

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
          <PartPicker take={(part) => create(part)} takeFile={createFromFile} report={setProblem} />
          <FileButton variant="outlined" accept=".json,application/json" name="Plan file" take={openFile}>
            Open a plan file…
          </FileButton>
          <p className="soft">or drop a file anywhere on this page</p>
        </div>
      </section>

      <section aria-label="Stored plans">
        <h2 className="label">
          {stored ? 'Stored in this browser' : 'Kept in this page until it is closed'}
        </h2>
        {rows?.length === 0 && (
          <p className={`soft ${styles.none}`}>
            No plan yet. A demo is a good first one: change a number and watch.
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
