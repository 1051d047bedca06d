import { useSyncExternalStore } from 'react';

/** A capture file that waits for the Trace view of a plan, which may have to be opened first. */
type Left = { plan: string; file: File };

let left: Left | undefined;
const listeners = new Set<() => void>();

function tell(): void {
  for (const listener of listeners) listener();
}

/** Leaves a capture for the Trace view of a plan. */
export function leaveCapture(plan: string, file: File): void {
  left = { plan, file };
  tell();
}

/** Says that the Trace view has taken what was left for it. */
export function captureTaken(): void {
  left = undefined;
  tell();
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** The capture that waits for the Trace view of a plan. */
export function useLeftCapture(plan: string): File | undefined {
  const found = useSyncExternalStore(
    subscribe,
    () => left,
    () => undefined,
  );
  return found?.plan === plan ? found.file : undefined;
}
