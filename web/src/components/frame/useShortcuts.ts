'use client';

import { useEffect } from 'react';
import type { OpenPlan } from '../../state/usePlan.ts';
import { VIEWS, type ViewId } from './views.ts';

/** Whether keys go into a field. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement && target.closest('input, textarea, select, [contenteditable]') !== null
  );
}

/** Keys that work everywhere in an open plan: the views' numbers, undo and redo. */
export function useShortcuts({ undo, redo }: OpenPlan, go: (view: ViewId) => void): void {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (isTyping(event.target)) return;
      const turn = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z';
      if (turn) {
        event.preventDefault();
        (event.shiftKey ? redo : undo)?.();
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const view = VIEWS.find((one) => one.key === event.key);
      if (view) go(view.id);
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [undo, redo, go]);
}
