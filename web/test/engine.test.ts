import type { Plan } from '@herzschlag/core';
import { ask, search } from '../src/worker/engine.ts';

/** A worker that answers nothing; a test makes it fail. */
class FakeWorker {
  static readonly made: FakeWorker[] = [];
  readonly handlers = new Map<string, (event: object) => void>();
  ended = false;
  constructor() {
    FakeWorker.made.push(this);
  }
  addEventListener(type: string, handler: (event: object) => void): void {
    this.handlers.set(type, handler);
  }
  terminate(): void {
    this.ended = true;
  }
  fail(message: string): void {
    this.handlers.get('error')?.({ message, preventDefault: () => undefined });
  }
}

const mockAnswers = {
  parts: (): Promise<never[]> => new Promise(() => undefined),
  hold: jest.fn(() => Promise.resolve()),
  release: jest.fn(() => Promise.resolve()),
  evaluate: (key: number) => Promise.resolve(key),
};
jest.mock('comlink', () => ({ wrap: () => mockAnswers }));

beforeAll(() => {
  Object.defineProperty(globalThis, 'Worker', { value: FakeWorker });
});

it('a worker that fails is told in one sentence, and the next call starts another', async () => {
  const call = ask((engine) => engine.parts());
  const [first] = FakeWorker.made;
  first?.fail('out of memory');
  await expect(call).rejects.toThrow(
    'The computation failed (out of memory) and has been restarted; the plan is unchanged.',
  );
  expect(first?.ended).toBe(true);
  mockAnswers.parts = () => Promise.resolve([]);
  await expect(ask((engine) => engine.parts())).resolves.toEqual([]);
  expect(FakeWorker.made).toHaveLength(2);
});

it('a search that is stopped ends its worker and tells of nothing, even if the worker then fails', async () => {
  mockAnswers.parts = () => new Promise(() => undefined);
  const told = jest.fn();
  const own = search((engine) => engine.parts());
  own.result.then(told, told);
  own.stop();
  const worker = FakeWorker.made[FakeWorker.made.length - 1];
  expect(worker?.ended).toBe(true);
  worker?.fail('it was ended');
  await new Promise((resolve) => setTimeout(resolve, 20));
  expect(told).not.toHaveBeenCalled();
});

it('a plan is handed over once while it is used, and again after it was released for newer ones', async () => {
  const plans = Array.from({ length: 17 }, (_, at) => ({ name: String(at) }) as Plan);
  const use = (plan: Plan | undefined): Promise<unknown> =>
    ask((engine, key) => engine.evaluate(key(plan as Plan)));
  mockAnswers.hold.mockClear();
  const [first, second, ...others] = plans;
  const key = await use(first);
  expect(await use(first)).toBe(key);
  expect(mockAnswers.hold).toHaveBeenCalledTimes(1);
  await use(second);
  await use(first);
  for (const plan of others) await use(plan);
  // Of 17 plans the second was used longest ago.
  expect(mockAnswers.release).toHaveBeenCalledTimes(1);
  expect(await use(first)).toBe(key);
  expect(mockAnswers.hold).toHaveBeenCalledTimes(17);
  await use(second);
  expect(mockAnswers.hold).toHaveBeenCalledTimes(18);
});
