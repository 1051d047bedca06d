'use client';

import { useRouter } from 'next/navigation';
import { useState, type DragEvent } from 'react';
import { leaveCapture } from '../../state/left-capture.ts';
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
  /** Takes in a file that was chosen, in the same way. */
  take: (file: File) => void;
  /** Whether a file is held over the page. */
  over: boolean;
  /** A program that was dropped and is to be read, until that is done. */
  program: string | undefined;
  endProgram: () => void;
  /** What was done, as a sentence, until it is dismissed. */
  done: string | undefined;
  calm: () => void;
};

function holdsFile({ dataTransfer }: DragEvent): boolean {
  return dataTransfer.types.includes('Files');
}

/** Takes in whatever file is dropped anywhere on an open plan: a plan or archive opens, a capture goes to the Trace view, a program is read. */
export function useDrop(
  planId: string,
  go: (to: ViewId) => void,
  report: (sentence: string | undefined) => void,
): Drop {
  const router = useRouter();
  const [depth, setDepth] = useState(0);
  const [program, setProgram] = useState<string>();
  const [done, setDone] = useState<string>();

  const takeIn = async (file: File): Promise<void> => {
    // Loaded when a file comes: what reads archives and backups is no part of the first view.
    const { takeFile } = await import('../../state/arrivals.ts');
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
      leaveCapture(planId, value.file);
      go('trace');
    }
  };

  const take = (file: File): void => {
    report(undefined);
    setDone(undefined);
    takeIn(file).catch((error: unknown) => report(sentenceOfError(error)));
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
      take(file);
    },
  };
  return {
    listeners,
    take,
    over: depth > 0,
    program,
    endProgram: () => setProgram(undefined),
    done,
    calm: () => setDone(undefined),
  };
}
