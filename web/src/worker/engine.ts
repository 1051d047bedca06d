import { proxy, wrap } from 'comlink';
import type { Capture, Plan } from '@herzschlag/core';
import type { Engine } from './engine.worker.ts';
import type { PlanKey } from './held-plans.ts';

/** What went wrong with the worker itself, as one sentence. */
class EngineError extends Error {}

/** The worker was lost: it failed, ended, or fell silent. Whatever it was asked can be asked of another one. */
class WorkerLost extends EngineError {}

/** A call that takes longer than this is abandoned, in ms: nothing in the interface waits for ever. */
const PATIENCE_MS = 180_000;

/** A worker that was asked something and that is silent for so long, in ms, is lost. It beats once a second. */
const SILENCE_MS = { ask: 20_000, search: 60_000 };

/** How often silence is looked for, in ms. */
const LOOK_MS = 1000;

/** The engine as it is called from outside its worker: every method gives a promise. */
type AskedEngine = {
  [K in keyof Engine]: (...asked: Parameters<Engine[K]>) => Promise<Awaited<ReturnType<Engine[K]>>>;
};

type Running = {
  worker: Worker;
  remote: AskedEngine;
  /** Settles, with an error, when the worker is lost. */
  lost: Promise<never>;
  lose: (reason: string) => void;
  /** When it responded last, in ms. */
  heard: number;
  ended: boolean;
  /** Plans that this worker holds, and how many were handed to it. */
  keys: Map<Plan, PlanKey>;
  count: number;
};

/** The capture that a new worker is handed, since views hold on to it by its key. */
let kept: { key: string; capture: Capture } | undefined;

function start(): Running {
  const worker = new Worker(new URL('./engine.worker.ts', import.meta.url), { type: 'module' });
  let reject: (error: Error) => void = () => undefined;
  const lost = new Promise<never>((_, no) => {
    reject = no;
  });
  // There may be no call waiting when it is lost; those who are get the error from their own call.
  lost.catch(() => undefined);
  const running: Running = {
    worker,
    remote: wrap<Engine>(worker),
    lost,
    ended: false,
    lose: (reason) => {
      if (shared === running) shared = undefined;
      if (idle?.running === running) idle = undefined;
      running.ended = true;
      worker.terminate();
      reject(new WorkerLost(reason));
    },
    heard: performance.now(),
    keys: new Map(),
    count: 0,
  };
  worker.addEventListener('message', () => {
    running.heard = performance.now();
  });
  worker.addEventListener('error', (event) => {
    event.preventDefault();
    running.lose(event.message || 'it could not be loaded');
  });
  worker.addEventListener('messageerror', () => running.lose('its answer could not be read'));
  return running;
}

let shared: Running | undefined;

function current(): Running {
  if (shared) return shared;
  shared = start();
  // A worker that is lost meanwhile is noticed by the call for which it was started.
  if (kept) shared.remote.holdCapture(kept.key, kept.capture).catch(() => undefined);
  return shared;
}

/** Hands a capture to the worker, and to every worker that takes its place. */
export async function keepCapture(key: string, capture: Capture, held: boolean): Promise<void> {
  kept = { key, capture };
  if (!held) await ask((engine) => engine.holdCapture(key, capture));
}

/** Plans that a worker holds at the same time; the one that was used longest ago is released for a new one. */
const HELD = 16;

function holding(running: Running, plan: Plan): PlanKey {
  const { remote, keys } = running;
  const lose = (error: unknown): void => running.lose(error instanceof Error ? error.message : String(error));
  const known = keys.get(plan);
  const key = known ?? (running.count += 1);
  // Calls are worked off in their order, so that none has to wait for these; a worker that fails fails its other calls too.
  if (known === undefined) remote.hold(key, plan).catch(lose);
  keys.delete(plan);
  keys.set(plan, key);
  const [oldest] = keys;
  if (oldest && keys.size > HELD) {
    keys.delete(oldest[0]);
    remote.release(oldest[1]).catch(lose);
  }
  return key;
}

/** A call's view of the engine: the engine, and a function that gives the key of a plan it holds. */
export type Call<T> = (engine: AskedEngine, key: (plan: Plan) => PlanKey) => Promise<T>;

function within<T>(running: Running, call: Call<T>, silenceMs: number): Promise<T> {
  const asked = performance.now();
  let suspected = false;
  let timer: ReturnType<typeof setInterval> | undefined;
  const tooLong = new Promise<never>((_, reject) => {
    timer = setInterval(() => {
      const at = performance.now();
      const silent = at - Math.max(asked, running.heard) > silenceMs;
      // A page that slept finds itself late before it finds the messages that came meanwhile: it looks a second time.
      if (silent && suspected) running.lose('it does not answer');
      suspected = silent;
      if (at - asked < PATIENCE_MS) return;
      // This call is abandoned; the others that the worker was asked are asked again of the next one.
      reject(new EngineError('The computation took too long and was stopped; the plan is unchanged.'));
      running.lose('another call took too long');
    }, LOOK_MS);
  });
  const answer = call(running.remote, (plan) => holding(running, plan));
  return Promise.race([answer, tooLong, running.lost]).finally(() => clearInterval(timer));
}

const listeners = new Set<() => void>();
let notice: string | undefined;

function tell(sentence: string | undefined): void {
  notice = sentence;
  listeners.forEach((listener) => listener());
}

/** What the user should know of the worker: that it was lost and started again. */
export const engineNotice = {
  subscribe: (listener: () => void): (() => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
  get: (): string | undefined => notice,
  dismiss: (): void => tell(undefined),
};

/**
 * Asks the engine in its worker. A worker that fails, ends or falls silent is noticed: another one is started, the page
 * says so, and the call is asked once more. A call that loses two workers fails with one sentence. No call waits for ever.
 */
export async function ask<T>(call: Call<T>): Promise<T> {
  try {
    return await within(current(), call, SILENCE_MS.ask);
  } catch (error) {
    if (!(error instanceof WorkerLost)) throw error;
    tell(`The computation stopped (${error.message}) and was started again; the plan is unchanged.`);
  }
  try {
    return await within(current(), call, SILENCE_MS.ask);
  } catch (error) {
    if (!(error instanceof WorkerLost)) throw error;
    throw new EngineError(
      `The computation failed twice (${error.message}) and was abandoned; the plan is unchanged.`,
    );
  }
}

/** A search in a worker that does nothing else, so that it can be stopped at once, whatever it is doing. */
export type Search<T> = { result: Promise<T>; stop: () => void };

/** What is asked of the engine in a search; it can hand on a function that tells whether its result is still wanted. */
export type SearchCall<T> = (
  engine: AskedEngine,
  key: (plan: Plan) => PlanKey,
  wanted: () => boolean,
) => Promise<T>;

/** How long the worker of a search that is over waits for the next search, in ms. */
const IDLE_MS = 60_000;

/** A waiting worker that was silent for so long, in ms, is not relied on. */
const BEAT_MS = 5000;

/** The worker that waits for the next search, so that it need not be loaded and warmed up again. */
let idle: { running: Running; end: ReturnType<typeof setTimeout> } | undefined;

/** The worker that waits, if it still gives signs of life; else a new one. */
function searcher(): Running {
  if (!idle) return start();
  const { running, end } = idle;
  clearTimeout(end);
  idle = undefined;
  if (performance.now() - running.heard < BEAT_MS) return running;
  running.lose('it was not responding');
  return start();
}

/** Keeps the worker of a search that is over for the next one; one is enough. */
function rest(running: Running): void {
  if (running.ended) return;
  if (idle) running.lose('another one waits');
  else idle = { running, end: setTimeout(() => running.lose('no search followed'), IDLE_MS) };
}

/**
 * Starts a search in a worker that does nothing else. A search that is stopped never settles its result; it ends its worker,
 * unless it `asks` from time to time whether it is still wanted: then its worker soon is free for the next one.
 */
export function search<T>(call: SearchCall<T>, { asks = false }: { asks?: boolean } = {}): Search<T> {
  const running = searcher();
  let going = true;
  const result = new Promise<T>((resolve, reject) => {
    const over = (then: () => void): void => {
      if (!going) return;
      going = false;
      rest(running);
      then();
    };
    const wanted = proxy(() => going);
    within(running, (engine, key) => call(engine, key, wanted), SILENCE_MS.search).then(
      (value) => over(() => resolve(value)),
      (error: Error) =>
        over(() =>
          reject(
            error instanceof WorkerLost
              ? new EngineError(`The search failed (${error.message}); the plan is unchanged.`)
              : error,
          ),
        ),
    );
  });
  const stop = (): void => {
    if (!going) return;
    going = false;
    if (asks) rest(running);
    else running.lose('the search was stopped');
  };
  return { result, stop };
}
