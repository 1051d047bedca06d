'use client';

import { proxy } from 'comlink';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Comparison, Plan, Threshold } from '@herzschlag/core';
import { findCapture, deleteCapture, storeCapture, storeWires } from '../../state/captures.ts';
import type { CaptureRow } from '../../state/db.ts';
import { ask, keepCapture } from '../../worker/engine.ts';
import { sentenceOfError, useEngine } from '../../worker/useEngine.ts';

/** The capture of a plan, what came of comparing it, and what is going on with it. */
export type CaptureState = {
  row?: CaptureRow;
  comparison?: Comparison;
  /** The share of a file that has been read, while it is. */
  progress?: number;
  fault?: string;
  open: (file: File) => void;
  stop: () => void;
  forget: () => void;
  /** Says which signal a wire shows; none leaves it out. */
  setWire: (wire: string, signal: string) => void;
  /** Moves where a wire that was captured in volts counts as high and as low. */
  setThreshold: (wire: string, threshold: Threshold) => void;
};

/** The capture of a plan, stored with it and compared with it whenever either changes. */
export function useCapture(planId: string, plan: Plan, report: (sentence: string) => void): CaptureState {
  const [row, setRow] = useState<CaptureRow>();
  const [progress, setProgress] = useState<number>();
  const [fault, setFault] = useState<string>();
  const [key, setKey] = useState<string>();
  const stopped = useRef(false);

  const attempt = useCallback(
    (work: () => Promise<void>) => {
      work().catch((error: unknown) => {
        setProgress(undefined);
        report(sentenceOfError(error));
      });
    },
    [report],
  );

  useEffect(() => {
    let current = true;
    attempt(async () => {
      const found = await findCapture(planId);
      if (!found || !current) return;
      await keepCapture(planId, found.capture, false);
      if (!current) return;
      setRow(found);
      setKey(planId);
    });
    return () => {
      current = false;
    };
  }, [planId, attempt]);

  const { value: comparison } = useEngine(
    ['compare', plan, key, row],
    (engine, planKey) => engine.compare(planKey(plan), key ?? '', row?.wires ?? {}),
    { enabled: key !== undefined && row !== undefined, keep: true, report },
  );

  const open = (file: File): void => {
    stopped.current = false;
    setFault(undefined);
    setProgress(0);
    const next = crypto.randomUUID();
    const told = proxy((bytes: number) => {
      setProgress(bytes / Math.max(1, file.size));
      return stopped.current;
    });
    attempt(async () => {
      const opened = await ask((engine) => engine.openCapture(file, next, told));
      setProgress(undefined);
      if (!opened.ok) {
        if (!stopped.current) setFault(opened.fault.sentence);
        return;
      }
      const kept: CaptureRow = { plan: planId, name: file.name, capture: opened.value, wires: {} };
      await keepCapture(next, opened.value, true);
      setRow(kept);
      setKey(next);
      await storeCapture(kept);
    });
  };
  const forget = (): void => {
    setRow(undefined);
    setKey(undefined);
    attempt(() => deleteCapture(planId));
  };
  const setWire = (wire: string, signal: string): void => {
    if (!row) return;
    const next = { ...row.wires, [wire]: signal };
    setRow({ ...row, wires: next });
    attempt(() => storeWires(planId, next));
  };
  const setThreshold = (wire: string, threshold: Threshold): void =>
    attempt(async () => {
      const capture = key && (await ask((engine) => engine.rethreshold(key, wire, threshold)));
      if (!capture || !row) return;
      const next = { ...row, capture };
      await keepCapture(key, capture, true);
      setRow(next);
      await storeCapture(next);
    });
  return {
    ...(row ? { row } : {}),
    ...(row && comparison ? { comparison } : {}),
    ...(progress === undefined ? {} : { progress }),
    ...(fault === undefined ? {} : { fault }),
    open,
    stop: () => {
      stopped.current = true;
    },
    forget,
    setWire,
    setThreshold,
  };
}
