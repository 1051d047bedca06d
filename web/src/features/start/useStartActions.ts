'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { FILE_LIMIT, type Plan, type PlanSignal } from '@herzschlag/core';
import { restoreBackup, saveBackup } from '../../state/backup.ts';
import type { PartRow } from '../../state/db.ts';
import { emptyPlan } from '../../state/empty.ts';
import { openPlanFile } from '../../state/file.ts';
import { useLasting } from '../../state/lasting.ts';
import { planTextIn } from '../../state/link.ts';
import { keepPart } from '../../state/own-parts.ts';
import { deletePlan, storePlan } from '../../state/plans.ts';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import type { Trial } from './useTrials.ts';

/** The format that a file of JSON names; undefined where it names none. */
function formatOf(text: string): string | undefined {
  return /^\s*\{\s*"format"\s*:\s*"([\w-]+)"/.exec(text)?.[1];
}

/** What one can do on the start page, what went wrong last, and what was done. */
export function useStartActions() {
  const router = useRouter();
  const [problem, setProblem] = useState<string>();
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

  /** A plan on a part as a file has it, which is checked and kept for other plans. */
  const createOn = async (name: string, text: string) => {
    const read = await ask((engine) => engine.readPart(text));
    if (!read.ok) {
      setProblem(`${name}: ${read.fault.sentence}`);
      return;
    }
    await keepPart(read.value, text);
    create(emptyPlan(read.value.id, read.value.defaultClock, read.value));
  };

  const createFromFile = (file: File) => attempt(async () => createOn(file.name, await file.text()));

  const createFromKept = ({ name, text }: PartRow) => attempt(() => createOn(name, text));

  /** The plan that the address of the page carries, if it carries one. */
  const openLinked = (fragment: string) =>
    attempt(async () => {
      const text = await planTextIn(fragment).catch(() => '');
      if (text === undefined) return;
      window.history.replaceState(null, '', window.location.pathname);
      const read = await ask((engine) => engine.readPlan({ kind: 'plan', text }));
      if (read.ok) await enter(read.value);
      else setProblem(`The link: ${read.fault.sentence}`);
    });

  /** What a dropped file is, is told by what it says of itself: a part, a backup, else a plan. */
  const openDropped = (file: File) =>
    attempt(async () => {
      const format = file.size > FILE_LIMIT ? undefined : formatOf(await file.text());
      if (format === 'herzschlag-part') createFromFile(file);
      else if (format === 'herzschlag-backup') restore(file);
      else openFile(file);
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

  const saveAll = () =>
    attempt(async () => {
      const count = await saveBackup();
      setDone(`A backup of ${count} ${count === 1 ? 'plan' : 'plans'} was saved.`);
    });

  const remove = (id: string) => attempt(() => deletePlan(id));

  return {
    problem,
    report: setProblem,
    done,
    lasting,
    enter,
    openFile,
    openDropped,
    openLinked,
    openDemo,
    create,
    createFromFile,
    createFromKept,
    restore,
    saveAll,
    remove,
  };
}

/** What one can do on the start page. */
export type StartActions = ReturnType<typeof useStartActions>;
