import { wrap, type Remote } from 'comlink';
import type { CoreApi } from './core.worker.ts';

let remote: Remote<CoreApi> | undefined;

/** The core, running in a worker of its own; started on first use and kept, since every view needs it. */
export function core(): Remote<CoreApi> {
  remote ??= wrap<CoreApi>(new Worker(new URL('./core.worker.ts', import.meta.url), { type: 'module' }));
  return remote;
}
