'use client';

import { useRouter } from 'next/navigation';
import { useCallback, useState, type DragEvent } from 'react';
import { takeFile } from '../../state/arrivals.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import type { ViewId } from './views.ts';

type Listeners = {
  onDragEnter: (event: DragEvent) => void;
  onDragOver: (event: DragEvent) => void;
  onDragLeave: (event: DragEvent) => void;
  onDrop: (event: DragEvent) => void;
};

/** Files that are dropped on an open plan. */
export type Drop = {
  listeners: Listeners;
  /** Whether a file is held over the page. */
  over: boolean;
  /** A program that was dropped and is to be read, until that is done. */
  program: string | undefined;
  endProgram: () => void;
  /** A capture that was dropped and is to be opened, until the Trace view takes it. */
  capture: File | undefined;
  takeCapture: () => void;
  /** What was done, as a sentence, until it is dismissed. */
  done: string | undefined;
  calm: () => void;
};

function holdsFile({ dataTransfer }: DragEvent): boolean {
  return dataTransfer.types.includes('Files');
}

/** Takes in whatever file is dropped anywhere on an open plan: a plan or archive opens, a capture goes to the Trace view, a program is read. */
export function useDrop(go: (to: ViewId) => void, report: (sentence: string | undefined) => void): Drop {
  const router = useRouter();
  const [depth, setDepth] = useState(0);
  const [program, setProgram] = useState<string>();
  const [capture, setCapture] = useState<File>();
  const [done, setDone] = useState<string>();

  const takeCapture = useCallback(() => setCapture(undefined), []);

  const take = async (file: File): Promise<void> => {
    const taken = await takeFile(file);
    if (!taken.ok) {
      report(taken.fault.sentence);
      return;
    }
    const { value } = taken;
    if (value.is === 'plan') router.push(`/plans/${value.id}/fit`);
    else if (value.is === 'done') setDone(value.sentence);
    else if (value.is === 'program') setProgram(value.text);
    else {
      setCapture(value.file);
      go('trace');
    }
  };

  const listeners: Listeners = {
    onDragEnter: (event) => {
      if (holdsFile(event)) setDepth((now) => now + 1);
    },
    onDragOver: (event) => {
      if (holdsFile(event)) event.preventDefault();
    },
    onDragLeave: (event) => {
      if (holdsFile(event)) setDepth((now) => Math.max(0, now - 1));
    },
    onDrop: (event) => {
      const [file] = event.dataTransfer.files;
      setDepth(0);
      if (!file) return;
      event.preventDefault();
      report(undefined);
      setDone(undefined);
      take(file).catch((error: unknown) => report(sentenceOfError(error)));
    },
  };
  return {
    listeners,
    over: depth > 0,
    program,
    endProgram: () => setProgram(undefined),
    capture,
    takeCapture,
    done,
    calm: () => setDone(undefined),
  };
}
