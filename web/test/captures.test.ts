import { PLAN_VERSION } from '@herzschlag/core';
import 'fake-indexeddb/auto';
import type { Capture } from '@herzschlag/core';
import { findCapture, deleteCapture, storeCapture, storeWires } from '../src/state/captures.ts';
import { databaseOf } from '../src/state/db.ts';
import { deletePlan, storePlan } from '../src/state/plans.ts';

const db = databaseOf();

const capture: Capture = {
  tickHz: 1e9,
  from: 0,
  to: 100,
  wires: [{ name: 'a', times: Float64Array.from([0, 10]), levels: Uint8Array.from([0, 1]) }],
};

beforeAll(() => {
  globalThis.structuredClone ??= (value: unknown) => value as never;
  let count = 0;
  Object.defineProperty(globalThis, 'crypto', { value: { randomUUID: () => `id-${(count += 1)}` } });
});

afterEach(() => Promise.all([db.plans.clear(), db.steps.clear(), db.captures.clear()]));

it('keeps one capture with a plan, the newest, and which wire shows which signal', async () => {
  await storeCapture({ plan: 'one', name: 'a.vcd', capture, wires: {} });
  await storeCapture({ plan: 'one', name: 'b.vcd', capture, wires: {} });
  await storeWires('one', { a: 'lamp' });
  expect(await findCapture('one')).toMatchObject({ name: 'b.vcd', wires: { a: 'lamp' } });
  expect(await findCapture('other')).toBeUndefined();
  await deleteCapture('one');
  expect(await findCapture('one')).toBeUndefined();
});

it('forgets it with its plan', async () => {
  const id = await storePlan({
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'a',
    part: 'atmega328p',
    clock: { source: 'crystal', sourceHz: 16000000 },
    signals: [],
  });
  await storeCapture({ plan: id, name: 'a.vcd', capture, wires: {} });
  await deletePlan(id);
  expect(await findCapture(id)).toBeUndefined();
});
