import { ratio, type Exact } from '../quantity/exact.ts';
import type { Channel, Interrupt, Mode, Timer } from '../part/types.ts';
import type { HandlerStore, HandlerText, Registers } from './statements.ts';

/** What the handler of a run changes of it: the counts that are left of the run, and a sentence. */
export type Restart = { counts: number; note: string };

/** The handler of an interrupt: by its vector, as its head names it with or without an ending, or the only one where all share it. */
function handlerOf({ handlers }: Registers, { vector }: Interrupt): HandlerText | undefined {
  const plain = (name: string): string => name.replace(/_(?:vect|IRQn|IRQ|isr)$/i, '').toUpperCase();
  return (
    handlers.find((one) => plain(one.vector) === vector.toUpperCase()) ??
    handlers.find((one) => one.vector === '' && handlers.length === 1)
  );
}

function storeTo(handler: HandlerText | undefined, register: string | undefined): HandlerStore | undefined {
  return handler?.stores.filter((one) => one.register === register && one.value !== undefined).at(-1);
}

/**
 * A handler that sets the running count again: what is left of the run from there. With `=` the counts that pass until the
 * store comes are forgotten and added to each run; `+=` keeps them.
 */
export function restartOf(
  timer: Timer,
  mode: Mode,
  tick: Interrupt,
  top: number,
  registers: Registers,
): Restart | undefined {
  if (mode.count !== 'up' || mode.top.kind === 'reload') return undefined;
  const store = storeTo(handlerOf(registers, tick), timer.counter);
  const value = Number(store?.value ?? 0n);
  const counts = top + mode.base - value;
  if (!store || value <= 0 || counts <= 0 || !['', '+'].includes(store.operator)) return undefined;
  const way =
    store.operator === '+'
      ? 'so that each run is as long'
      : `and the counts until the store comes on top of each run; ${timer.counter} += would keep them`;
  const note = `Line ${store.line}: the handler sets ${timer.counter} to ${value}: ${counts} counts to the next, ${way}.`;
  return { counts, note };
}

/** A handler that moves its own match on: the counts from one to the next. */
export function moveOf({ interrupt, compare }: Channel, registers: Registers): Restart | undefined {
  const register = Object.keys(compare)[0]?.split('.')[0];
  const store = interrupt && storeTo(handlerOf(registers, interrupt), register);
  const counts = Number(store?.value ?? 0n);
  if (store?.operator !== '+' || counts <= 0) return undefined;
  return { counts, note: `Line ${store.line}: the handler moves its match on by ${counts} counts.` };
}

/** A rate once a run of so many counts, with a run of others in its place. */
export function restarted(frequency: Exact, run: number, { counts }: Restart): Exact {
  return frequency.mul(ratio(run, counts));
}

/** The registers with what the handler of a reload writes in place of what the start did: every run but the first begins so. */
export function withReload(
  mode: Mode,
  tick: Interrupt | undefined,
  registers: Registers,
): ReadonlyMap<string, number> {
  if (mode.top.kind !== 'reload' || !tick) return registers.values;
  const handler = handlerOf(registers, tick);
  const names = Object.keys(mode.top.writes).map((key) => key.split('.')[0]);
  const values = new Map(registers.values);
  for (const name of names) {
    const store = storeTo(handler, name);
    if (name !== undefined && store) values.set(name, Number(BigInt.asUintN(8, store.value ?? 0n)));
  }
  return values;
}

/** Whether a counter that could be reloaded runs over all of its counts by itself: nothing is written to it, so that no write holds it. */
export function runsFree(
  mode: Mode,
  tick: Interrupt,
  registers: Registers,
  { top, width }: { top: number; width: number },
): boolean {
  if (mode.top.kind !== 'reload' || top !== 2 ** width - 1) return false;
  const [name] = Object.keys(mode.top.writes).map((key) => key.split('.')[0]);
  return storeTo(handlerOf(registers, tick), name) === undefined;
}

/** What a reload by `=` loses: the counts from the overflow to the store, in each run. */
export function forgottenIn(mode: Mode, tick: Interrupt | undefined, registers: Registers): string[] {
  if (mode.top.kind !== 'reload' || !tick) return [];
  const [name] = Object.keys(mode.top.writes).map((key) => key.split('.')[0]);
  const store = storeTo(handlerOf(registers, tick), name);
  if (!store || store.operator !== '') return [];
  return [
    `Line ${store.line}: the handler sets ${name} and forgets the counts since the overflow: each run is longer by the way into it; ${name} += would keep them.`,
  ];
}
