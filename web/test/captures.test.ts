import 'fake-indexeddb/auto';
import type { Capture } from '@herzschlag/core/wave/capture.ts';
import { findCapture, forgetCapture, keepCapture, keepWires } from '../src/store/captures.ts';
import { db } from '../src/store/db.ts';
import { forgetPlan, keepPlan } from '../src/store/plans.ts';

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
  await keepCapture({ plan: 'one', name: 'a.vcd', capture, wires: {} });
  await keepCapture({ plan: 'one', name: 'b.vcd', capture, wires: {} });
  await keepWires('one', { a: 'lamp' });
  expect(await findCapture('one')).toMatchObject({ name: 'b.vcd', wires: { a: 'lamp' } });
  expect(await findCapture('other')).toBeUndefined();
  await forgetCapture('one');
  expect(await findCapture('one')).toBeUndefined();
});

it('forgets it with its plan', async () => {
  const id = await keepPlan({
    format: 'herzschlag-plan',
    version: 1,
    name: 'a',
    part: 'atmega328p',
    clock: { source: 'crystal', sourceHz: 16000000 },
    signals: [],
  });
  await keepCapture({ plan: id, name: 'a.vcd', capture, wires: {} });
  await forgetPlan(id);
  expect(await findCapture(id)).toBeUndefined();
});
