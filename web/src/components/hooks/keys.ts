import type { KeyboardEvent } from 'react';

/** What each key does, by its name; a key with Control, Meta or Alt is the browser's. */
export type Keys = Record<string, (event: KeyboardEvent) => void>;

/** Does what a key stands for, and keeps the browser from doing its own. */
export function press(keys: Keys, event: KeyboardEvent): void {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const act = keys[event.key];
  if (!act) return;
  event.preventDefault();
  act(event);
}
