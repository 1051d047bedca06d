import { type FieldWrite, fieldWrites, plainWrites } from '../timer/fields.ts';
import type { ProgramSignal } from '../program/signal.ts';
import { commentText } from './comment.ts';
import { interruptsInCode } from '../program/handlers.ts';
import { clockAt, type ClockPath } from '../clock/path.ts';
import type { ClockFactor, Part, Writes } from '../part/types.ts';
import { clockSetUp, nodesInUse } from '../timer/clock-set-up.ts';
import type { Setting } from '../timer/setting.ts';
import { changes, store, waitFor } from './statement.ts';
import { delayLines } from './wait.ts';

/** A store, with the one before it that unlocks the register; both in two instructions where there is an assembler for it. */
function unlocked(
  part: Part,
  register: string,
  unlock: readonly FieldWrite[],
  target: readonly FieldWrite[],
): string[] {
  const plain = store(part, register, target);
  if (unlock.length === 0) return plain;
  const first = store(part, register, unlock);
  if (part.code.assembler !== 'avr') return [...first, ...plain];
  const valueOf = ([line = '']: readonly string[]): string =>
    line.slice(line.indexOf('=') + 1, line.lastIndexOf(';')).trim();
  const operand = (lines: readonly string[]): string => `"r" ((uint8_t)(${valueOf(lines)}))`;
  return [
    '/* The chip takes the second store for four cycles after the first. */',
    `__asm__ __volatile__ ("sts %0, %1\\n\\tsts %0, %2" : : "n" (_SFR_MEM_ADDR(${register})), ${operand(first)}, ${operand(plain)});`,
  ];
}

/**
 * The clocks: dividers where the code sets them, and the steps that start and select a clock which is not there after
 * reset; each only where the processor or a timer in use is fed by it.
 */
export function clockLines(part: Part, path: ClockPath, signals: readonly ProgramSignal[]): string[] {
  const setUp = clockSetUp(part, path, settingsOf(signals));
  const factors = setUp.factors.flatMap(({ node, by, writes }) => {
    const target = fieldWrites(writes, { divide: by });
    const [first] = target;
    if (!first) return [];
    const unlock = fieldWrites(node.unlock ?? {});
    return [
      `/* ${commentText(node.name)}: ${by}. ${commentText(node.note ?? '')} */`,
      ...unlocked(part, first.register, unlock, target),
      '',
    ];
  });
  const starts = setUp.starts.flatMap(({ name, steps }) => [
    `/* ${commentText(name)} */`,
    ...steps.flatMap((step) =>
      'set' in step
        ? changes(part, plainWrites([step.set]))
        : 'until' in step
          ? waitFor(part, step.until)
          : delayLines(part, step.waitUs),
    ),
    '',
  ]);
  return [...factors, ...starts];
}

/** Whether a node divides by the same number whatever anyone writes. */
function isFixed({ by }: ClockFactor): boolean {
  return (
    by.kind === 'list' &&
    by.options.every(({ writes }) => Object.keys(writes).length === 0) &&
    by.options.length === 1
  );
}

function settingsOf(signals: readonly ProgramSignal[]): Setting[] {
  return signals.map(({ setting }) => setting);
}

function placesOf(writes: Writes, by: number): string {
  const places = fieldWrites(writes, { divide: by }).map(
    ({ register, field, value }) => `${register}${field === null ? '' : `.${field}`} = ${value}`,
  );
  return places.length > 0 ? ` (${places.join(', ')})` : '';
}

/** What the code does not do by itself: the settings of the clock path, what no program can set, and the ways of interrupts. */
export type StartupNeeds = {
  clocks: readonly string[];
  fixed: readonly string[];
  interrupts: readonly string[];
};

function clockNeeds(part: Part, path: ClockPath, settings: readonly Setting[]): string[] {
  if (part.code.setsClock) return [];
  const used = nodesInUse(part, path, settings);
  const own = new Set(clockSetUp(part, path, settings).factors.map(({ node }) => node.id));
  const choices = part.clocks.flatMap((node) => {
    if (node.kind !== 'choice' || !used.has(node.id) || node.start || node.from.length < 2) return [];
    const { steps } = clockAt(path, node.id);
    return [`${node.name}: ${steps.at(-1)?.name ?? ''}`];
  });
  const factors = path.writes
    .filter(({ node }) => used.has(node.id) && !own.has(node.id) && !isFixed(node))
    .map(({ node, by, writes }) => `${node.name}: ${by}${placesOf(writes, by)}`);
  return [...choices, ...factors];
}

/** What start-up code must have done before the code of some signals. */
export function startupNeeds(part: Part, path: ClockPath, signals: readonly ProgramSignal[]): StartupNeeds {
  const settings = settingsOf(signals);
  const used = nodesInUse(part, path, settings);
  const fixed = part.clocks.flatMap((node) =>
    node.kind === 'source' && node.needs !== undefined && used.has(node.id) ? [node.needs] : [],
  );
  const { routing } = part.code;
  const numbers = [...new Set(signals.flatMap((signal) => interruptsInCode(part, signal)))]
    .filter(({ number }) => number >= 0)
    .map(({ number, vector }) => routing?.replace('%', `${number} (${vector})`) ?? '');
  return {
    clocks: clockNeeds(part, path, settings),
    fixed,
    interrupts: [...new Set(routing ? numbers : [])],
  };
}
