import { wrap } from 'comlink';
import type { Plan } from '@herzschlag/core';
import type { Engine, PlanKey } from './engine.worker.ts';

/** What went wrong with the worker itself, as one sentence. */
export class EngineError extends Error {}

/** A call that takes longer than this is given up, in ms: nothing in the interface waits for ever. */
const PATIENCE_MS = 180_000;

/** The engine as it is called from outside its worker: every method gives a promise. */
export type AskedEngine = {
  [K in keyof Engine]: (...asked: Parameters<Engine[K]>) => Promise<Awaited<ReturnType<Engine[K]>>>;
};

type Running = {
  worker: Worker;
  remote: AskedEngine;
  /** Settles, with an error, when the worker stops. */
  stopped: Promise<never>;
  stop: (error: Error) => void;
  /** Plans that this worker holds, and how many were handed to it. */
  keys: Map<Plan, PlanKey>;
  count: number;
};

/** A worker of its own; `ended` says what is told of a call that was under way when the worker failed. */
function start(ended: (reason: string) => string): Running {
  const worker = new Worker(new URL('./engine.worker.ts', import.meta.url), { type: 'module' });
  let stop: (error: Error) => void = () => undefined;
  const stopped = new Promise<never>((_, reject) => {
    stop = (error) => {
      worker.terminate();
      reject(error);
    };
  });
  // Nobody may be waiting when it stops; those who are get the error from their own call.
  stopped.catch(() => undefined);
  const running: Running = {
    worker,
    remote: wrap<Engine>(worker),
    stopped,
    stop,
    keys: new Map(),
    count: 0,
  };
  const die = (reason: string): void => {
    if (shared === running) shared = undefined;
    stop(new EngineError(ended(reason)));
  };
  worker.addEventListener('error', (event) => {
    event.preventDefault();
    die(event.message || 'it could not be loaded');
  });
  worker.addEventListener('messageerror', () => die('its answer could not be read'));
  return running;
}

let shared: Running | undefined;

/** Plans that a worker holds at the same time; the one that was used longest ago is released for a new one. */
const HELD = 16;

function holding(running: Running, plan: Plan): PlanKey {
  const { remote, keys, stop } = running;
  const known = keys.get(plan);
  const key = known ?? (running.count += 1);
  // Calls are worked off in their order, so that none has to wait for these; a worker that fails fails its other calls too.
  if (known === undefined) remote.hold(key, plan).catch(stop);
  keys.delete(plan);
  keys.set(plan, key);
  const [oldest] = keys;
  if (oldest && keys.size > HELD) {
    keys.delete(oldest[0]);
    remote.release(oldest[1]).catch(stop);
  }
  return key;
}

/** A call's view of the engine: the engine, and a function that gives the key of a plan it holds. */
export type Call<T> = (engine: AskedEngine, key: (plan: Plan) => PlanKey) => Promise<T>;

function within<T>(running: Running, call: Call<T>, patienceMs: number): Promise<T> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const tooLong = new Promise<never>((_, reject) => {
    timer = setTimeout(() => {
      if (shared === running) shared = undefined;
      const error = new EngineError('The computation took too long and was stopped; the plan is unchanged.');
      running.stop(error);
      reject(error);
    }, patienceMs);
  });
  const answer = call(running.remote, (plan) => holding(running, plan));
  return Promise.race([answer, running.stopped, tooLong]).finally(() => clearTimeout(timer));
}

/**
 * Asks the engine in its worker. A worker that dies or throws is noticed: the call fails with one sentence, and the next
 * one starts a new worker. No call waits for ever.
 */
export function ask<T>(call: Call<T>): Promise<T> {
  shared ??= start(
    (reason) => `The computation failed (${reason}) and has been restarted; the plan is unchanged.`,
  );
  return within(shared, call, PATIENCE_MS);
}

/** A search in a worker of its own, so that it can be stopped at once, whatever it is doing. */
export type Search<T> = { result: Promise<T>; stop: () => void };

/** Starts a search in a new worker, which ends with it. A search that is stopped never settles its result. */
export function search<T>(call: Call<T>): Search<T> {
  const running = start((reason) => `The search failed (${reason}); the plan is unchanged.`);
  let wanted = true;
  const end = (): void => running.worker.terminate();
  const result = new Promise<T>((resolve, reject) => {
    within(running, call, PATIENCE_MS)
      .finally(end)
      .then(
        (value) => wanted && resolve(value),
        (error: unknown) => wanted && reject(error as Error),
      );
  });
  const stop = (): void => {
    wanted = false;
    end();
  };
  return { result, stop };
}
