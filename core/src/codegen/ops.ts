import { registerName } from '../part/register-names.ts';
import type { Interrupt, Part, Writes } from '../part/types.ts';
import { registerWrite, type FieldWrite } from '../timer/fields.ts';
import { clearFirst } from './interrupt-lines.ts';
import { delayLines } from './wait.ts';
import { changes, orderLines, plainWrites, store, takenOver, waitFor } from './statement.ts';

/** A step of what sets the registers up, before it is written in a language. */
export type Op =
  /** A remark on the steps that follow, or an empty line after them. */
  | { do: 'say'; text: string }
  | { do: 'gap' }
  /** A step of a timer's sequence: a whole register, or the bits that signals decide. */
  | { do: 'store'; register: string; writes: readonly FieldWrite[]; note?: string }
  /** Bits of registers that others use too. */
  | { do: 'change'; writes: readonly FieldWrite[] }
  /** A whole register at once: an order to it. */
  | { do: 'order'; order: Writes }
  /** The first count of a counter. */
  | { do: 'count'; register: string; value: string }
  /** A register is read, so that what was stored before has happened. */
  | { do: 'read'; register: string }
  /** Until a condition holds. */
  | { do: 'wait'; until: string }
  /** At least a time in µs, whatever clock the processor has. */
  | { do: 'delay'; us: number }
  /** A flag is taken away before its interrupt is enabled. */
  | { do: 'clear'; interrupt: Interrupt }
  /** Statements that there are in C only. */
  | { do: 'words'; lines: readonly string[] };

/** What sets everything up: the clocks, on demand; steps once, steps at each start, and what enables the interrupts at its end. */
export type SetUp = {
  clocks?: readonly Op[];
  init: readonly Op[];
  start: readonly Op[];
  enable: readonly Op[];
};

/** A step in C. */
function linesOf(part: Part, op: Op): string[] {
  switch (op.do) {
    case 'say':
      return [`/* ${op.text} */`];
    case 'gap':
      return [''];
    case 'store':
      return store(part, op.register, op.writes, op.note);
    case 'change':
      return changes(part, op.writes);
    case 'order':
      return orderLines(part, op.order);
    case 'count':
      return [`${registerName(part, op.register)} = ${op.value};`, ...takenOver(part, op.register)];
    case 'read':
      return [`(void)${registerName(part, op.register)};`];
    case 'wait':
      return waitFor(part, op.until);
    case 'delay':
      return delayLines(part, op.us);
    case 'clear':
      return clearFirst(part, op.interrupt);
    case 'words':
      return [...op.lines];
  }
}

/** Steps in C. */
export function inC(part: Part, ops: readonly Op[]): string[] {
  return ops.flatMap((op) => linesOf(part, op));
}

/** The registers that some writes change, each with its own writes, in their first order. */
export function byRegister(writes: readonly FieldWrite[]): { register: string; writes: FieldWrite[] }[] {
  const registers = [...new Set(writes.map(({ register }) => register))];
  return registers.map((register) => ({
    register,
    writes: writes.filter((write) => write.register === register),
  }));
}

/** The value of a whole register that an order stores, for each register of the order. */
export function orderValues(part: Part, order: Writes): { register: string; value: number }[] {
  return byRegister(plainWrites([order])).map(({ register, writes }) => ({
    register,
    value: registerWrite(part, register, writes).value,
  }));
}
