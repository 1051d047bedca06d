'use client';

import { createContext, useContext, useDeferredValue, useMemo, type ReactNode } from 'react';
import type { Surroundings } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { useStill } from '../../components/hooks/useStill.ts';
import { useEngine } from '../../worker/useEngine.ts';
import type { SignalEditor } from './useSignalView.ts';

/** The surroundings are asked for once the waveform is on the screen: two frames after it was committed. */
const AFTER_PAINT_MS = 34;

const SurroundingsContext = createContext<Surroundings | undefined>(undefined);

/**
 * Gives the panels within it what else there is for the shown signal: its landscape, and why other timers cannot serve it.
 * It follows the outcome a moment later and renders only the panels that show it.
 */
export function SurroundingsProvider({ editor, children }: { editor: SignalEditor; children: ReactNode }) {
  const { report } = usePlanContext();
  const { plan, signal } = editor;
  const shown = useMemo(() => ({ plan, signal }), [plan, signal]);
  const painted = useStill(shown, AFTER_PAINT_MS);
  const { value } = useEngine(
    ['surroundings', painted.plan, painted.signal],
    (engine, key) => engine.surroundings(key(painted.plan), painted.signal),
    { keep: true, report },
  );
  const around = useDeferredValue(value);
  return <SurroundingsContext value={around}>{children}</SurroundingsContext>;
}

/** What else there is for the shown signal; undefined until it is known, those of the outcome before until then. */
export function useSurroundings(): Surroundings | undefined {
  return useContext(SurroundingsContext);
}
