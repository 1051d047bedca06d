'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { type Plan, type PlanSignal } from '@herzschlag/core';
import { kindOfFile, restored, takeFile } from '../../state/arrivals.ts';
import { saveBackup } from '../../state/backup.ts';
import type { PartRow } from '../../state/db.ts';
import { emptyPlan } from '../../state/empty.ts';
import { useLasting } from '../../state/lasting.ts';
import { planTextIn } from '../../state/link.ts';
import { keepPart } from '../../state/own-parts.ts';
import { deletePlan, storePlan } from '../../state/plans.ts';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import type { Trial } from './useTrials.ts';

/** What one can do on the start page, what went wrong last, and what was done. */
export function useStartActions() {
  const router = useRouter();
  const [problem, setProblem] = useState<string>();
  const [done, setDone] = useState<string>();
  const { lasting, ask: askLasting } = useLasting();

  const show = (id: string, view = 'fit') => {
    // Asked once there is something to lose; a browser may answer without a question.
    askLasting();
    router.push(`/plans/${id}/${view}`);
  };
  const enter = async (plan: Plan, view = 'fit') => show(await storePlan(plan), view);
  const attempt = (work: () => Promise<void>) => {
    setProblem(undefined);
    setDone(undefined);
    work().catch((error: unknown) => setProblem(sentenceOfError(error)));
  };

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

  /** A file of any kind: a plan is opened, a part begins one, captures and programs need a plan that is open. */
  const openDropped = (file: File) =>
    attempt(async () => {
      if ((await kindOfFile(file)) === 'part') {
        createFromFile(file);
        return;
      }
      const taken = await takeFile(file);
      if (!taken.ok) setProblem(taken.fault.sentence);
      else if (taken.value.is === 'plan') show(taken.value.id);
      else if (taken.value.is === 'done') setDone(taken.value.sentence);
      else
        setProblem(
          taken.value.is === 'capture'
            ? `${file.name} looks like a capture: open the plan that it belongs to and drop it there.`
            : `${file.name} looks like a program: begin a plan on its part and drop it there.`,
        );
    });

  const restore = (file: File) =>
    attempt(async () => {
      setDone((await restored(file)).sentence);
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
