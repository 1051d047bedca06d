import type { Part } from '../part/types.ts';
import type { Action } from '../timer/drives/index.ts';
import { softwarePin } from '../timer/tick.ts';
import { registerName } from '../part/register-names.ts';
import { unsignedFor } from './setters.ts';
import { changes, plainWrites, variableStores } from './statement.ts';

/**
 * A variable that a handler keeps from one interrupt to the next, from `initial` or 0 on; functions of the program use `shared` ones, too, and
 * `told` ones are the program's to read.
 */
export type State = { type: string; name: string; initial?: number; shared?: boolean; told?: boolean };

/** Statements that put a pin high as the program's own. */
export function high(part: Part, pin: string): string[] {
  return changes(part, plainWrites([softwarePin(part, pin).software.high]));
}

/** Statements that put a pin low as the program's own. */
export function low(part: Part, pin: string): string[] {
  return changes(part, plainWrites([softwarePin(part, pin).software.low]));
}

/** Lines one step further in. */
export function indented(lines: readonly string[]): string[] {
  return lines.map((line) => `    ${line}`);
}

/** Lines between a head that opens a brace and its end. */
export function block(head: string, lines: readonly string[]): string[] {
  return [head, ...indented(lines), '}'];
}

/** Two branches. */
export function either(test: string, yes: readonly string[], no: readonly string[]): string[] {
  return [`if (${test}) {`, ...indented(yes), '} else {', ...indented(no), '}'];
}

/** Statements at every so many interrupts. */
export function every(label: string, divider: number, lines: readonly string[]): string[] {
  if (divider === 1) return [...lines];
  return block(`if (++${label}_count >= ${divider}u) {`, [`${label}_count = 0;`, ...lines]);
}

function counterOf(label: string, divider: number): State[] {
  return divider === 1 ? [] : [{ type: unsignedFor(divider), name: `${label}_count` }];
}

/**
 * The difference of two captured counts, around the end of the counter's run where it lies between them. The first edge has
 * none before it.
 */
function measured(
  part: Part,
  label: string,
  { registers, width, counts }: Extract<Action, { do: 'measure' }>,
): string[] {
  const type = countType(width);
  const [lower = '', upper] = registers.map((name) => registerName(part, name));
  const now = upper === undefined ? lower : `${lower} | ((uint16_t)${upper} << 8)`;
  const whole = counts === 2 ** (width > 16 ? 32 : 16);
  return [
    `${type} ${label}_now = (${type})(${now});`,
    whole
      ? `if (${label}_seen) ${label}_counts = (${type})(${label}_now - ${label}_last);`
      : `if (${label}_seen) ${label}_counts = ${label}_now + (${label}_now < ${label}_last ? ${counts}u : 0u) - ${label}_last;`,
    `${label}_seen = 1u;`,
    `${label}_fresh = 1u;`,
    `${label}_last = ${label}_now;`,
  ];
}

function countType(width: number): string {
  return width > 16 ? 'uint32_t' : 'uint16_t';
}

/** What an action keeps from one interrupt to the next. */
export function actionStates(label: string, action: Action): State[] {
  switch (action.do) {
    case 'level':
      return [];
    case 'toggle':
      return [...counterOf(label, action.every), { type: 'uint8_t', name: `${label}_level` }];
    case 'count':
      return [
        { type: unsignedFor(action.of), name: `${label}_count` },
        { type: unsignedFor(action.of), name: `${label}_high`, initial: action.highFor, shared: true },
      ];
    case 'load':
      return [{ type: unsignedFor(action.max), name: `${label}_high`, initial: action.value, shared: true }];
    case 'call':
      return counterOf(label, action.every);
    case 'measure':
      return [
        { type: countType(action.width), name: `${label}_last` },
        { type: 'uint8_t', name: `${label}_seen`, shared: true },
        { type: 'uint8_t', name: `${label}_fresh`, shared: true },
        { type: 'uint32_t', name: `${label}_counts`, told: true },
      ];
  }
}

/** An action as statements. */
export function actionLines(part: Part, label: string, action: Action): string[] {
  switch (action.do) {
    case 'level':
      return action.high ? high(part, action.pin) : low(part, action.pin);
    case 'toggle':
      return every(label, action.every, [
        `${label}_level ^= 1u;`,
        ...either(`${label}_level`, high(part, action.pin), low(part, action.pin)),
      ]);
    case 'count':
      return [
        ...either(`${label}_count < ${label}_high`, high(part, action.pin), low(part, action.pin)),
        `if (++${label}_count >= ${action.of}u) ${label}_count = 0;`,
      ];
    case 'load':
      // In a block of its own: signals may share a handler.
      return block('{', [
        `${unsignedFor(action.max)} compare = ${label}_high;`,
        ...variableStores(part, action.writes, 'compare'),
      ]);
    case 'call':
      return every(label, action.every, [`${label}_tick();`]);
    case 'measure':
      return measured(part, label, action);
  }
}
