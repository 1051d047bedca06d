import 'fake-indexeddb/auto';
import fc from 'fast-check';
import type { Plan } from '@herzschlag/core';
import { databaseOf } from '../src/state/db.ts';
import {
  findPlan,
  deletePlan,
  storePlan,
  earlierSteps,
  RevisionConflict,
  revisionOf,
  findStep,
  moveToStep,
  reachOf,
  recordStep as recordAt,
} from '../src/state/plans.ts';
import { planNamed } from './planNamed.ts';

const db = databaseOf();

/** The revision that a plan is stored as. */
async function newest(id: string): Promise<number> {
  const row = await findPlan(id);
  return row ? revisionOf(row) : 0;
}

async function recordStep(id: string, next: Plan): Promise<void> {
  await recordAt(id, next, await newest(id));
}

async function moveStep(id: string, direction: -1 | 1): Promise<Plan | undefined> {
  const step = await findStep(id, direction);
  if (!step) return undefined;
  await moveToStep(id, step.at, step.state as Plan, await newest(id));
  return step.state as Plan;
}

beforeAll(() => {
  globalThis.structuredClone ??= (value: unknown) => JSON.parse(JSON.stringify(value)) as never;
  let count = 0;
  Object.defineProperty(globalThis, 'crypto', { value: { randomUUID: () => `id-${(count += 1)}` } });
});

afterEach(() => Promise.all([db.plans.clear(), db.steps.clear()]));

async function stored(id: string): Promise<string | undefined> {
  return ((await findPlan(id))?.plan as Plan | undefined)?.name;
}

it('keeps a plan and forgets it with its history', async () => {
  const id = await storePlan(planNamed('a'));
  await recordStep(id, planNamed('b'));
  expect((await db.plans.toArray()).map((row) => row.name)).toEqual(['b']);
  await deletePlan(id);
  expect([await db.plans.count(), await db.steps.count()]).toEqual([0, 0]);
});

it('goes back and forward, and a new step ends what was undone', async () => {
  const id = await storePlan(planNamed('a'));
  await recordStep(id, planNamed('b'));
  await recordStep(id, planNamed('c'));
  expect((await moveStep(id, -1))?.name).toBe('b');
  expect(await reachOf(id)).toEqual({ undo: true, redo: true });
  await recordStep(id, planNamed('d'));
  expect(await moveStep(id, 1)).toBeUndefined();
  expect((await moveStep(id, -1))?.name).toBe('b');
  expect((await moveStep(id, -1))?.name).toBe('a');
  expect(await moveStep(id, -1)).toBeUndefined();
  expect(await stored(id)).toBe('a');
});

it('remembers 200 steps and no more, of each plan for itself', async () => {
  const [one, other] = [await storePlan(planNamed('one')), await storePlan(planNamed('other'))];
  for (let at = 0; at < 230; at += 1) await recordStep(one, planNamed(`one ${at}`));
  expect(await db.steps.where('plan').equals(one).count()).toBe(200);
  expect(await db.steps.where('plan').equals(other).count()).toBe(1);
  expect(await stored(one)).toBe('one 229');
});

it('behaves as a list with a cursor, whatever is done in whatever order', async () => {
  const action = fc.oneof(
    fc.constant('undo'),
    fc.constant('redo'),
    fc.string({ minLength: 1, maxLength: 3 }),
  );
  await fc.assert(
    fc.asyncProperty(fc.array(action, { maxLength: 12 }), async (actions) => {
      const id = await storePlan(planNamed('start'));
      let list = ['start'];
      let at = 0;
      for (const one of actions) {
        if (one === 'undo' || one === 'redo') {
          const next = at + (one === 'undo' ? -1 : 1);
          await moveStep(id, one === 'undo' ? -1 : 1);
          if (next >= 0 && next < list.length) at = next;
        } else {
          await recordStep(id, planNamed(one));
          list = [...list.slice(0, at + 1), one];
          at += 1;
        }
        expect(await stored(id)).toBe(list[at]);
      }
      expect(await reachOf(id)).toEqual({ undo: at > 0, redo: at < list.length - 1 });
      await deletePlan(id);
    }),
    { numRuns: 25 },
  );
});

it('refuses a write that builds on an older revision, and gives the newest', async () => {
  const id = await storePlan(planNamed('a'));
  await recordAt(id, planNamed('b'), 0);
  const late = recordAt(id, planNamed('c'), 0);
  await expect(late).rejects.toBeInstanceOf(RevisionConflict);
  await expect(late).rejects.toMatchObject({ row: { name: 'b', revision: 1 } });
  expect(await stored(id)).toBe('b');
  await expect(recordAt('nowhere', planNamed('c'), 0)).rejects.toThrow('The plan was deleted.');
});

it('lists earlier steps, the newest first', async () => {
  const id = await storePlan(planNamed('a'));
  await recordStep(id, planNamed('b'));
  await recordStep(id, planNamed('c'));
  expect((await earlierSteps(id)).map(({ state }) => (state as Plan).name)).toEqual(['b', 'a']);
});
