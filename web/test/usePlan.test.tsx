import 'fake-indexeddb/auto';
import { act, renderHook, waitFor } from '@testing-library/react';
import type { Plan } from '@herzschlag/core';
import { db } from '../src/state/db.ts';
import { findPlan, recordStep, storePlan } from '../src/state/plans.ts';
import { usePlan } from '../src/state/usePlan.ts';

// The engine would check what is read; here it takes everything as it is.
jest.mock('../src/worker/engine.ts', () => ({
  ask: (call: (engine: object) => unknown) =>
    Promise.resolve(call({ readPlan: ({ value }: { value: unknown }) => ({ ok: true, value }) })),
}));

const plan = (name: string): Plan => ({
  format: 'herzschlag-plan',
  version: 2,
  name,
  part: 'atmega328p',
  clock: { source: 'crystal', sourceHz: 16000000 },
  signals: [],
});

beforeAll(() => {
  globalThis.structuredClone ??= (value: unknown) => JSON.parse(JSON.stringify(value)) as never;
  Object.defineProperty(globalThis, 'crypto', { value: { randomUUID: () => 'one' } });
});

afterEach(() => Promise.all([db.plans.clear(), db.steps.clear()]));

it('an edit made while an undo is under way is stored and stays on the screen', async () => {
  const id = await storePlan(plan('first'));
  await recordStep(id, plan('second'));
  const { result } = renderHook(() => usePlan(id));
  await waitFor(() => expect(result.current.state).toBe('open'));
  await waitFor(() => expect(result.current).toHaveProperty('undo'));
  const open = (): Extract<typeof result.current, { state: 'open' }> => {
    if (result.current.state !== 'open') throw new Error('the plan is not open');
    return result.current;
  };
  act(() => {
    open().undo?.();
    open().change((now) => ({ ...now, name: `${now.name}, edited` }));
  });
  await waitFor(async () => expect((await findPlan(id))?.name).toBe('second, edited'));
  expect(open().plan.name).toBe('second, edited');
  await waitFor(() => expect(result.current).toHaveProperty('undo'));
  act(() => open().undo?.());
  await waitFor(() => expect(open().plan.name).toBe('first'));
});
