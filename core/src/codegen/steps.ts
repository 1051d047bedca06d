import { registerName } from '../part/register-names.ts';
import { tablesOf } from '../part/tables.ts';
import type { Part } from '../part/types.ts';
import type { Step, Unsigned, Value } from '../program/step.ts';
import { commentText } from './comment.ts';
import { clearFirst, clearFlag, flagExpression } from './interrupt-lines.ts';
import {
  changes,
  hexText,
  keptTogether,
  orderLines,
  store,
  takenOver,
  variableStores,
  waitFor,
} from './statement.ts';
import { byteReload } from './reload-lines.ts';
import { delayLines } from './wait.ts';

/** Lines one step further in. */
export function indented(lines: readonly string[]): string[] {
  return lines.map((line) => `    ${line}`);
}

/** Lines between a head that opens a brace and its end. */
export function block(head: string, lines: readonly string[]): string[] {
  return [head, ...indented(lines), '}'];
}

const BITS: Record<Unsigned, number> = { uint8_t: 8, uint16_t: 16, uint32_t: 32 };

/** Counts from here on are written as the registers beside them: in base 16. */
const LONG = 2 ** 16;

/** An operand: in parentheses where it has an operator of its own. */
function operand(part: Part, value: Value): string {
  const text = valueText(part, value);
  return typeof value === 'object' && ('left' in value || 'flag' in value || 'test' in value)
    ? `(${text})`
    : text;
}

/** A value in C. */
function valueText(part: Part, value: Value): string {
  if (typeof value === 'number') return `${value}u`;
  if ('kept' in value) return value.kept;
  if ('local' in value) return value.local;
  if ('register' in value) return registerName(part, value.register);
  if ('flag' in value) return flagExpression(part, value.flag);
  if ('increased' in value) return `++${value.increased.kept}`;
  if ('not' in value) return `!${operand(part, value.not)}`;
  if ('as' in value) return `(${value.as})${operand(part, value.value)}`;
  if ('test' in value)
    return `${valueText(part, value.test)} ? ${valueText(part, value.then)} : ${valueText(part, value.else)}`;
  if ('table' in value) {
    const place = `${value.table}[${valueText(part, value.row)}].${value.member}`;
    return tablesOf(part.code).read(BITS[value.type], place);
  }
  const { left, op, right } = value;
  // Sums are read from left to right; everything else is set in parentheses.
  const sums = typeof left === 'object' && 'left' in left && '+-'.includes(left.op) && '+-'.includes(op);
  return `${sums ? valueText(part, left) : operand(part, left)} ${op} ${operand(part, right)}`;
}

function ifLines(part: Part, { test, then, else: other }: Extract<Step, { do: 'if' }>): string[] {
  const head = `if (${valueText(part, test)})`;
  const yes = inC(part, then);
  if (!other) {
    const [only] = yes;
    return yes.length === 1 && only !== undefined && !only.startsWith('/*')
      ? [`${head} ${only}`]
      : block(`${head} {`, yes);
  }
  return [`${head} {`, ...indented(yes), '} else {', ...indented(inC(part, other)), '}'];
}

function allowLines(part: Part, taken: boolean): string[] {
  const statement = part.code.allow;
  if (taken) return [statement];
  return [
    `/* They come once the program lets them: ${commentText(statement.replace(/\/\*.*/, '').trim())} */`,
  ];
}

function loadText(part: Part, { register, value, adds }: Extract<Step, { do: 'load' }>): string[] {
  const text = typeof value === 'number' && value >= LONG ? hexText(value) : valueText(part, value);
  return [
    `${registerName(part, register)} ${adds ? '+=' : '='} ${text};`,
    ...(adds ? [] : takenOver(part, register)),
  ];
}

/** A variable gets a value. What is subtracted from one that is narrower than an int is cast back. */
function setText(part: Part, { to, op, value }: Extract<Step, { do: 'set' }>): string {
  const text = valueText(part, value);
  if (op === '-' && to.type !== 'uint32_t') return `${to.kept} = (${to.type})(${to.kept} - ${text});`;
  return `${to.kept} ${op ?? ''}= ${text};`;
}

/** A step in C. */
function linesOf(part: Part, step: Step): string[] {
  switch (step.do) {
    case 'say':
      return [`/* ${step.text} */`];
    case 'gap':
      return [''];
    case 'store':
      return store(part, step.register, step.writes, step.note);
    case 'change':
      return changes(part, step.writes);
    case 'order':
      return orderLines(part, step.order);
    case 'load':
      return loadText(part, step);
    case 'read':
      return [`(void)${registerName(part, step.register)};`];
    case 'wait':
      return waitFor(part, step.until);
    case 'delay':
      return delayLines(part, step.us);
    case 'clear':
      return step.first ? clearFirst(part, step.interrupt) : clearFlag(part, step.interrupt);
    case 'allow':
      return allowLines(part, step.taken);
    case 'reload':
      return byteReload(part, step);
    case 'put':
      return variableStores(part, step.writes, step.name);
    case 'local':
      return [`${step.local.type} ${step.local.local} = ${valueText(part, step.value)};`];
    case 'set':
      return [setText(part, step)];
    case 'if':
      return ifLines(part, step);
    case 'while': {
      const [only, ...more] = inC(part, step.steps);
      const head = `while (${valueText(part, step.test)})`;
      return more.length === 0 && only !== undefined
        ? [`${head} ${only}`]
        : block(`${head} {`, inC(part, step.steps));
    }
    case 'block':
      return block('{', inC(part, step.steps));
    case 'together':
      return keptTogether(part, inC(part, step.steps));
    case 'call':
      return [`${step.routine}();`];
  }
}

/** Steps in C. */
export function inC(part: Part, steps: readonly Step[]): string[] {
  return steps.flatMap((step) => linesOf(part, step));
}
