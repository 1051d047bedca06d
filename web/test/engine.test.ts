import type { Plan } from '@herzschlag/core';
import { ask, engineNotice, keepCapture, search } from '../src/worker/engine.ts';

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
  say(): void {
    this.handlers.get('message')?.({ data: { alive: true } });
  }
  fail(message: string): void {
    this.handlers.get('error')?.({ message, preventDefault: () => undefined });
  }
}

const mockAnswers = {
  parts: (): Promise<never[]> => new Promise(() => undefined),
  hold: jest.fn(() => Promise.resolve()),
  release: jest.fn(() => Promise.resolve()),
  holdCapture: jest.fn(() => Promise.resolve()),
  evaluate: (key: number) => Promise.resolve(key),
};
jest.mock('comlink', () => ({ wrap: () => mockAnswers, proxy: (given: unknown) => given }));

beforeAll(() => {
  Object.defineProperty(globalThis, 'Worker', { value: FakeWorker });
});

function last(): FakeWorker {
  const worker = FakeWorker.made[FakeWorker.made.length - 1];
  if (!worker) throw new Error('no worker was made');
  return worker;
}

const never = (): Promise<never> => new Promise(() => undefined);

it('a worker that fails is replaced, its call is asked once more, and the page says so', async () => {
  mockAnswers.parts = never;
  const call = ask((engine) => engine.parts());
  const first = last();
  mockAnswers.parts = () => Promise.resolve([]);
  first.fail('out of memory');
  await expect(call).resolves.toEqual([]);
  expect(first.ended).toBe(true);
  expect(last()).not.toBe(first);
  expect(engineNotice.get()).toBe(
    'The computation stopped (out of memory) and was started again; the plan is unchanged.',
  );
  engineNotice.dismiss();
  expect(engineNotice.get()).toBeUndefined();
});

it('a call that loses two workers fails with one sentence', async () => {
  mockAnswers.parts = never;
  const call = ask((engine) => engine.parts());
  last().fail('one');
  await new Promise((resolve) => setTimeout(resolve, 0));
  last().fail('two');
  await expect(call).rejects.toThrow(
    'The computation failed twice (two) and was abandoned; the plan is unchanged.',
  );
});

it('an error of the core is no loss of the worker', async () => {
  const before = FakeWorker.made.length;
  mockAnswers.parts = () => Promise.reject(new Error('no part is known'));
  await expect(ask((engine) => engine.parts())).rejects.toThrow('no part is known');
  mockAnswers.parts = () => Promise.resolve([]);
  await ask((engine) => engine.parts());
  expect(FakeWorker.made.length - before).toBeLessThanOrEqual(1);
});

it('a worker that was ended, or hangs, is noticed by its silence; one that gives signs of life is not', async () => {
  jest.useFakeTimers();
  try {
    mockAnswers.parts = never;
    const call = ask((engine) => engine.parts());
    const first = last();
    for (let second = 0; second < 60; second += 1) {
      first.say();
      await jest.advanceTimersByTimeAsync(1000);
    }
    expect(first.ended).toBe(false);
    mockAnswers.parts = () => Promise.resolve([]);
    await jest.advanceTimersByTimeAsync(30_000);
    expect(first.ended).toBe(true);
    await expect(call).resolves.toEqual([]);
  } finally {
    jest.useRealTimers();
  }
});

it('a call that takes too long is given up although the worker lives, and is not asked again', async () => {
  jest.useFakeTimers();
  try {
    const asked = jest.fn(never);
    mockAnswers.parts = asked;
    const call = ask((engine) => engine.parts());
    const failed = expect(call).rejects.toThrow(
      'The computation took too long and was stopped; the plan is unchanged.',
    );
    const worker = last();
    for (let second = 0; second < 185; second += 1) {
      worker.say();
      await jest.advanceTimersByTimeAsync(1000);
    }
    await failed;
    expect(worker.ended).toBe(true);
    expect(asked).toHaveBeenCalledTimes(1);
  } finally {
    jest.useRealTimers();
  }
});

it('a new worker is handed the capture of the one before', async () => {
  const capture = { tickHz: 1, from: 0, to: 1, wires: [] };
  await keepCapture('key', capture, true);
  expect(mockAnswers.holdCapture).not.toHaveBeenCalled();
  mockAnswers.parts = never;
  const call = ask((engine) => engine.parts());
  mockAnswers.parts = () => Promise.resolve([]);
  last().fail('gone');
  await call;
  expect(mockAnswers.holdCapture).toHaveBeenCalledWith('key', capture);
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

describe('the worker of a search', () => {
  afterEach(() => {
    // A search that is stopped takes the worker that waits with it.
    mockAnswers.parts = never;
    search((engine) => engine.parts()).stop();
    jest.useRealTimers();
  });

  it('waits for the next search, and is not ended by one that is over', async () => {
    mockAnswers.parts = () => Promise.resolve([]);
    const own = search((engine) => engine.parts());
    const worker = last();
    await own.result;
    own.stop();
    expect(worker.ended).toBe(false);
    await search((engine) => engine.parts()).result;
    expect(last()).toBe(worker);
  });

  it('is ended when no search comes, and not used once it fell silent', async () => {
    jest.useFakeTimers();
    mockAnswers.parts = () => Promise.resolve([]);
    await search((engine) => engine.parts()).result;
    const first = last();
    await jest.advanceTimersByTimeAsync(10_000);
    await search((engine) => engine.parts()).result;
    const second = last();
    expect(second).not.toBe(first);
    expect(first.ended).toBe(true);
    await jest.advanceTimersByTimeAsync(59_000);
    expect(second.ended).toBe(false);
    await jest.advanceTimersByTimeAsync(2000);
    expect(second.ended).toBe(true);
  });

  it('is kept by a stopped search that asks whether it is wanted, and told that it is not', async () => {
    mockAnswers.parts = never;
    let wanted = (): boolean => true;
    const own = search(
      (engine, _, asked) => {
        wanted = asked;
        return engine.parts();
      },
      { asks: true },
    );
    const worker = last();
    expect(wanted()).toBe(true);
    own.stop();
    expect(wanted()).toBe(false);
    mockAnswers.parts = () => Promise.resolve([]);
    await search((engine) => engine.parts()).result;
    expect(last()).toBe(worker);
    expect(worker.ended).toBe(false);
  });

  it('is not kept where the search failed with it', async () => {
    mockAnswers.parts = never;
    const own = search((engine) => engine.parts());
    const worker = last();
    worker.fail('out of memory');
    await expect(own.result).rejects.toThrow('The search failed (out of memory); the plan is unchanged.');
    expect(worker.ended).toBe(true);
    mockAnswers.parts = () => Promise.resolve([]);
    await search((engine) => engine.parts()).result;
    expect(last()).not.toBe(worker);
  });
});
