import 'fake-indexeddb/auto';
import Dexie from 'dexie';
import type * as plansModule from '../src/state/plans.ts';
import type * as storageModule from '../src/state/storage.ts';
import { planNamed } from './planNamed.ts';

beforeAll(() => {
  globalThis.structuredClone ??= (value: unknown) => JSON.parse(JSON.stringify(value)) as never;
  let count = 0;
  Object.defineProperty(globalThis, 'crypto', { value: { randomUUID: () => `id-${(count += 1)}` } });
});

/** The modules as a page that was just loaded has them. */
async function freshPage() {
  let modules: { plans: typeof plansModule; storage: typeof storageModule } | undefined;
  await jest.isolateModulesAsync(async () => {
    modules = {
      plans: await import('../src/state/plans.ts'),
      storage: await import('../src/state/storage.ts'),
    };
  });
  if (!modules) throw new Error('the modules were not loaded');
  return modules;
}

afterEach(() => jest.restoreAllMocks());

it('works in memory where the browser has no storage, and says so', async () => {
  const before = globalThis.indexedDB;
  Reflect.deleteProperty(globalThis, 'indexedDB');
  try {
    const { plans, storage } = await freshPage();
    const id = await plans.storePlan(planNamed('a'));
    await plans.recordStep(id, planNamed('b'), 0);
    expect((await plans.findPlan(id))?.name).toBe('b');
    expect(storage.storageState()).toEqual({ kind: 'memory', reason: 'it has no storage for pages' });
  } finally {
    globalThis.indexedDB = before;
  }
});

it('goes on in memory with the open plan where the storage is full, and loses no edit', async () => {
  const { plans, storage } = await freshPage();
  const id = await plans.storePlan(planNamed('a'));
  expect(storage.storageState()).toEqual({ kind: 'browser' });
  const db = await storage.currentDatabase();
  jest
    .spyOn(db, 'transaction')
    .mockImplementation(() => Dexie.Promise.reject(new DOMException('no room', 'QuotaExceededError')));
  const row = await plans.recordStep(id, planNamed('b'), 0);
  expect([row.name, row.revision]).toEqual(['b', 1]);
  expect(storage.storageState()).toEqual({ kind: 'memory', reason: 'its storage is full' });
  expect((await plans.findPlan(id))?.name).toBe('b');
  expect(await plans.reachOf(id)).toEqual({ undo: true, redo: false });
});

it('does not wait for a storage that never answers', async () => {
  const { plans, storage } = await freshPage();
  const id = await plans.storePlan(planNamed('a'));
  const db = await storage.currentDatabase();
  jest.spyOn(db.plans, 'get').mockImplementation(() => new Dexie.Promise(() => undefined));
  jest.useFakeTimers({ doNotFake: ['setImmediate', 'queueMicrotask', 'nextTick'] });
  try {
    const found = plans.findPlan(id);
    await jest.advanceTimersByTimeAsync(9000);
    jest.useRealTimers();
    expect((await found)?.name).toBe('a');
    expect(storage.storageState()).toEqual({ kind: 'memory', reason: 'it does not answer' });
  } finally {
    jest.useRealTimers();
  }
});

it('a conflict of revisions is no reason to leave the storage', async () => {
  const { plans, storage } = await freshPage();
  const id = await plans.storePlan(planNamed('a'));
  await plans.recordStep(id, planNamed('b'), 0);
  await expect(plans.recordStep(id, planNamed('c'), 0)).rejects.toThrow('changed in another tab');
  expect(storage.storageState()).toEqual({ kind: 'browser' });
});
