import 'fake-indexeddb/auto';
import { BroadcastChannel } from 'node:worker_threads';
import { act, renderHook, waitFor } from '@testing-library/react';
import type { Plan } from '@herzschlag/core';
import { databaseOf } from '../src/state/db.ts';
import { deletePlan, findPlan, recordStep, storePlan } from '../src/state/plans.ts';
import { usePlan } from '../src/state/usePlan.ts';
import { planNamed } from './planNamed.ts';

// The engine would check plans; here a plan is refused for its name alone.
const mockFault = { path: 'name', sentence: 'name: this name is refused.', plain: 'This name is refused.' };
const mockRefused = (value: unknown): boolean => (value as Plan).name.includes('refused');
jest.mock('../src/worker/engine.ts', () => ({
  ask: (call: (engine: object, key: (plan: unknown) => unknown) => unknown) =>
    Promise.resolve(
      call(
        {
          readPlan: ({ value }: { value: unknown }) =>
            mockRefused(value) ? { ok: false, fault: mockFault } : { ok: true, value },
          planFault: (plan: unknown) => (mockRefused(plan) ? mockFault : undefined),
        },
        (plan) => plan,
      ),
    ),
}));

const db = databaseOf();

let mockCount = 0;

beforeAll(() => {
  globalThis.structuredClone ??= (value: unknown) => JSON.parse(JSON.stringify(value)) as never;
  Object.defineProperty(globalThis, 'BroadcastChannel', { value: BroadcastChannel });
  Object.defineProperty(globalThis, 'crypto', { value: { randomUUID: () => `plan-${(mockCount += 1)}` } });
});

afterEach(() => Promise.all([db.plans.clear(), db.steps.clear()]));

type Open = Extract<ReturnType<typeof usePlan>, { state: 'open' }>;

/** Opens a plan as a tab does; gives what the tab has at any moment. */
async function tab(id: string): Promise<() => Open> {
  const { result } = renderHook(() => usePlan(id));
  await waitFor(() => expect(result.current.state).toBe('open'));
  return () => {
    if (result.current.state !== 'open') throw new Error('the plan is not open');
    return result.current;
  };
}

function named(name: string) {
  return (now: Plan): Plan => ({ ...now, name });
}

function lamp(id: string, frequencyHz: number): Plan['signals'][number] {
  return { id, name: id, kind: 'blink', target: { frequencyHz } };
}

it('an edit made while an undo is under way comes after it, and both are stored', async () => {
  const id = await storePlan(planNamed('first'));
  await recordStep(id, planNamed('second'), 0);
  const open = await tab(id);
  await waitFor(() => expect(open()).toHaveProperty('undo'));
  act(() => {
    open().undo?.();
    open().change((now) => ({ ...now, name: `${now.name}, edited` }));
  });
  await waitFor(async () => expect((await findPlan(id))?.name).toBe('first, edited'));
  await waitFor(() => expect(open().plan.name).toBe('first, edited'));
  await waitFor(() => expect(open()).toHaveProperty('undo'));
  act(() => open().undo?.());
  await waitFor(() => expect(open().plan.name).toBe('first'));
});

it('shows an edit as done when it is stored', async () => {
  const id = await storePlan(planNamed('first'));
  const open = await tab(id);
  let taken: Plan | undefined;
  await act(async () => {
    taken = await open().commit(named('second'));
  });
  expect(taken?.name).toBe('second');
  expect((await findPlan(id))?.name).toBe('second');
});

it('refuses an edit whose plan would not open again, beside its field or in the page', async () => {
  const id = await storePlan(planNamed('first'));
  const open = await tab(id);
  const told = jest.fn();
  await act(async () => {
    await open().commit(named('refused'), told);
  });
  expect(told).toHaveBeenCalledWith(mockFault);
  expect(open().trouble).toBeUndefined();
  await act(async () => {
    await open().commit(named('refused'));
  });
  expect(open().trouble).toBe('This name is refused.');
  expect([open().plan.name, (await findPlan(id))?.name]).toEqual(['first', 'first']);
});

it('offers the last state of the history that opens', async () => {
  const id = await storePlan(planNamed('first'));
  await recordStep(id, planNamed('good'), 0);
  await recordStep(id, planNamed('refused one'), 1);
  await recordStep(id, planNamed('refused two'), 2);
  const { result } = renderHook(() => usePlan(id));
  await waitFor(() => expect(result.current.state).toBe('faulty'));
  if (result.current.state !== 'faulty') throw new Error('it opened');
  expect(result.current.stored).toMatchObject({ name: 'refused two' });
  const { last } = result.current;
  expect([last?.plan.name, last?.stepsBack]).toEqual(['good', 2]);
  act(() => last?.open());
  await waitFor(() => expect(result.current).toMatchObject({ state: 'open', plan: { name: 'good' } }));
});

describe('two tabs', () => {
  it('an edit of one is seen in the other', async () => {
    const id = await storePlan(planNamed('first'));
    const [one, other] = [await tab(id), await tab(id)];
    await act(async () => {
      await one().commit(named('edited'));
    });
    await waitFor(() => expect(other().plan.name).toBe('edited'));
  });

  it('edits of different signals at the same moment are both kept', async () => {
    const id = await storePlan({ ...planNamed('first'), signals: [lamp('a', 1), lamp('b', 1)] });
    const [one, other] = [await tab(id), await tab(id)];
    const set = (signal: string) => (now: Plan) => ({
      ...now,
      signals: now.signals.map((own) => (own.id === signal ? lamp(signal, 5) : own)),
    });
    await act(async () => {
      await Promise.all([one().commit(set('a')), other().commit(set('b'))]);
    });
    const both = [lamp('a', 5), lamp('b', 5)];
    await waitFor(() => expect([one().plan.signals, other().plan.signals]).toEqual([both, both]));
    expect((await findPlan(id))?.plan).toMatchObject({ signals: both });
  });

  it('edits of the same thing are shown as two versions, and neither is lost', async () => {
    const id = await storePlan(planNamed('first'));
    const [one, other] = [await tab(id), await tab(id)];
    await act(async () => {
      await Promise.all([one().commit(named('from one')), other().commit(named('from the other'))]);
    });
    const late = [one, other].find((open) => open().collision);
    const { collision } = late?.() ?? {};
    expect(collision?.clashes).toEqual([
      { path: 'name', mine: collision?.mine.name, theirs: collision?.theirs.name },
    ]);
    expect([collision?.mine.name, collision?.theirs.name].sort()).toEqual(['from one', 'from the other']);
    expect(late?.().plan.name).toBe(collision?.theirs.name);
    await act(async () => {
      await late?.().commit(() => collision?.mine as Plan);
      collision?.close();
    });
    await waitFor(() =>
      expect([one().plan.name, other().plan.name]).toEqual(Array(2).fill(collision?.mine.name)),
    );
    expect(late?.().collision).toBeUndefined();
  });

  it('a plan that is deleted elsewhere is said to be, and can be kept', async () => {
    const id = await storePlan(planNamed('first'));
    const open = await tab(id);
    await deletePlan(id);
    await waitFor(() => expect(open().keep).toBeDefined());
    await act(async () => {
      await open().commit(named('typed after that'));
    });
    expect(open().plan.name).toBe('typed after that');
    act(() => open().keep?.());
    await waitFor(async () => expect((await findPlan(id))?.name).toBe('typed after that'));
    await waitFor(() => expect(open().keep).toBeUndefined());
  });
});
