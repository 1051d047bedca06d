import { useSyncExternalStore } from 'react';
import { databaseOf, type Database, type PlanRow } from './db.ts';

/** Where plans are kept: in the browser, or, where that cannot be, in this page's memory, with the reason. */
export type StorageState = { kind: 'browser' } | { kind: 'memory'; reason: string };

/** A browser that does not answer within this time, in ms, does not store. */
const PATIENCE_MS = 8000;

/** An error of ours about a plan, not about the storage; it is never a reason to leave the browser's storage. */
export class PlanError extends Error {}

let state: StorageState = { kind: 'browser' };
let opened: Promise<Database> | undefined;
const listeners = new Set<() => void>();

/** The rows that this page has read or written last, so that they are not lost with the browser's storage. */
const seen = new Map<string, PlanRow>();

/** Remembers a row as it is in the storage. */
export function remember(row: PlanRow): void {
  seen.set(row.id, row);
}

/** Forgets a plan that is deleted. */
export function forget(id: string): void {
  seen.delete(id);
}

function within<T>(work: Promise<T>): Promise<T> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const silent = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new Error('it does not answer')), PATIENCE_MS);
  });
  return Promise.race([work, silent]).finally(() => clearTimeout(timer));
}

async function inBrowser(): Promise<Database> {
  if (typeof indexedDB === 'undefined') throw new Error('it has no storage for pages');
  const db = databaseOf();
  await db.open();
  return db;
}

/** A database in the page's memory, with the same transactions and queries, and the rows that were seen. */
async function inMemory(): Promise<Database> {
  const { IDBFactory, IDBKeyRange: KeyRange } = await import('fake-indexeddb');
  const db = databaseOf({ indexedDB: new IDBFactory(), IDBKeyRange: KeyRange });
  await db.open();
  const rows = [...seen.values()];
  await db.plans.bulkAdd(rows);
  await db.steps.bulkAdd(rows.map(({ id, at, plan }) => ({ plan: id, at, state: plan })));
  return db;
}

function reasonOf(error: unknown): string {
  const name = error instanceof Error ? error.name : '';
  if (/Quota/.test(`${name} ${String(error)}`)) return 'its storage is full';
  return error instanceof Error ? error.message : String(error);
}

/** From now on everything is kept in memory. */
function leaveBrowser(error: unknown): Promise<Database> {
  state = { kind: 'memory', reason: reasonOf(error) };
  opened = inMemory();
  listeners.forEach((listener) => listener());
  return opened;
}

/** The database in use: the browser's, or the one in memory. */
export function currentDatabase(): Promise<Database> {
  opened ??= within(inBrowser()).catch((error: unknown) => leaveBrowser(error));
  return opened;
}

/**
 * Does something with the database. Where the browser's storage is missing, fails, is full or does not answer, it is done
 * in memory instead, from then on.
 */
export async function withDatabase<T>(work: (db: Database) => Promise<T>): Promise<T> {
  const db = await currentDatabase();
  if (state.kind === 'memory') return work(db);
  try {
    return await within(work(db));
  } catch (error) {
    if (error instanceof PlanError) throw error;
    // Another call may have left the browser's storage in the meantime.
    return work(await (storageState().kind === 'memory' ? currentDatabase() : leaveBrowser(error)));
  }
}

/** Where plans are kept at the moment. */
export function storageState(): StorageState {
  return state;
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  // What is wrong is reported from the start, before anything is stored.
  // Where even the memory fails, the first read or write says so.
  currentDatabase().catch(() => undefined);
  return () => listeners.delete(listener);
}

const BROWSER: StorageState = { kind: 'browser' };

/** Where plans are kept, for a component that says so. */
export function useStorage(): StorageState {
  return useSyncExternalStore(subscribe, storageState, () => BROWSER);
}
