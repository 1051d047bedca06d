import { wrap, type Remote } from 'comlink';
import type { CoreApi } from './core.worker.ts';

let remote: Remote<CoreApi> | undefined;

/** A search in a worker of its own, so that it can be stopped at once, whatever it is doing. */
export type Search<T> = { result: Promise<T>; stop: () => void };

/** Starts a search in a new worker, which ends with it. */
export function searchApart<T>(ask: (remote: Remote<CoreApi>) => Promise<T>): Search<T> {
  const worker = new Worker(new URL('./core.worker.ts', import.meta.url), { type: 'module' });
  const stop = (): void => worker.terminate();
  return { result: ask(wrap<CoreApi>(worker)).finally(stop), stop };
}

/** The core, running in a worker of its own; started on first use and kept, since every view needs it. */
export function core(): Remote<CoreApi> {
  remote ??= wrap<CoreApi>(new Worker(new URL('./core.worker.ts', import.meta.url), { type: 'module' }));
  return remote;
}
