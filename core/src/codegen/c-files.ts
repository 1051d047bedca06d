import { exactText } from '../quantity/exact.ts';
import { printHz, printPercent } from '../quantity/print.ts';
import { clockPhrase, type ClockPath } from '../clock/path.ts';
import { modeOf, pinOf } from '../part/find.ts';
import type { Part, Pin, Timer, Writes } from '../part/types.ts';
import { driveOf, isOutput, ladderOf, outcomeUnder } from '../timer/drives/index.ts';
import { settingWrites } from '../timer/encode.ts';
import { fieldWrites, registerWrite, type FieldWrite } from '../timer/fields.ts';
import { rungText } from '../timer/rungs.ts';
import { hasTimer, pinsOfSetting, timerIdOf } from '../timer/setting.ts';
import { enableLines, handlerLines } from './handlers.ts';
import { headerText } from './header.ts';
import { commentText, identifier, type CodeSignal } from './names.ts';
import { stopLines } from './stop.ts';
import { changes, hexText, plainWrites, store, waitFor } from './statement.ts';
import { conflictSentence, mergeWrites } from '../timer/merge.ts';

/** A generated file. */
export type CodeFile = { name: string; text: string };

/** What the code leaves out of the plan, a sentence each, and whether starting lets the processor take interrupts. */
export type CodeOptions = { leftOut?: readonly string[]; allowInterrupts?: boolean };

/** Thrown when the settings cannot be one program; the message names the signals and the register. */
export class CodeError extends Error {}

/** Matches that run along with a free counter start one period after where it stands now. */
function movedStarts(part: Part, timer: Timer, signals: readonly CodeSignal[]): Map<string, string> {
  const starts = signals.flatMap(({ setting }): [string, string][] => {
    if (!hasTimer(setting) || setting.timer !== timer.id) return [];
    const { top } = modeOf(timer, setting.mode);
    if (top.kind !== 'moved') return [];
    return Object.keys(top.writes).map((register) => [
      register,
      `${register} = ${timer.counter ?? '0u'} + ${setting.top + 1}u;`,
    ]);
  });
  return new Map(starts);
}

/** Where the counter begins: at 0, or at what it is loaded with where it counts up from that. */
function firstCount(part: Part, timer: Timer, signals: readonly CodeSignal[]): string {
  const setting = signals.map((signal) => signal.setting).find((one) => timerIdOf(one) === timer.id);
  const start = setting && hasTimer(setting) ? modeOf(timer, setting.mode).start : undefined;
  if (!setting || !start) return '0';
  const [first] = fieldWrites(start, driveOf(setting).numbers(part, setting));
  return first ? hexText(first.value) : '0';
}

function timerLines(
  part: Part,
  timer: Timer,
  writes: readonly FieldWrite[],
  signals: readonly CodeSignal[],
): string[] {
  const moved = movedStarts(part, timer, signals);
  const lines = timer.sequence.flatMap(({ register, without }) => {
    const own = writes.filter((write) => write.register === register);
    if (register === timer.counter) return [`${register} = ${firstCount(part, timer, signals)};`];
    const start = moved.get(register);
    if (start !== undefined) return [start];
    if (own.length === 0) return [];
    const kept = own.filter((write) => !without?.includes(write.field ?? ''));
    return [`${store(part, register, kept)}${without ? ' /* mode set, clock still stopped */' : ''}`];
  });
  return [`/* ${timer.name} */`, ...lines, ''];
}

/** A store, with the one before it that unlocks the register; both in two instructions where there is an assembler for it. */
function unlocked(
  part: Part,
  register: string,
  unlock: readonly FieldWrite[],
  target: readonly FieldWrite[],
): string[] {
  const plain = store(part, register, target);
  if (unlock.length === 0) return [plain];
  const first = store(part, register, unlock);
  if (part.code.assembler !== 'avr') return [first, plain];
  const valueOf = (line: string): string => line.slice(line.indexOf('=') + 1, line.lastIndexOf(';')).trim();
  const operand = (line: string): string => `"r" ((uint8_t)(${valueOf(line)}))`;
  return [
    '/* The chip takes the second store for four cycles after the first. */',
    `__asm__ __volatile__ ("sts %0, %1\\n\\tsts %0, %2" : : "n" (_SFR_MEM_ADDR(${register})), ${operand(first)}, ${operand(plain)});`,
  ];
}

/**
 * The clocks: dividers for parts whose headers name their registers (elsewhere start-up code has set the path up), and
 * for all parts the steps that start and select a clock which is not there after reset.
 */
function clockLines(part: Part, path: ClockPath): string[] {
  const dividers = part.code.setsClock ? path.writes : [];
  const factors = dividers.flatMap(({ node, by, writes }) => {
    const target = fieldWrites(writes);
    const [first] = target;
    if (!first) return [];
    const unlock = fieldWrites(node.unlock ?? {});
    return [
      `/* ${commentText(node.name)}: ${by}. ${commentText(node.note ?? '')} */`,
      ...unlocked(part, first.register, unlock, target),
      '',
    ];
  });
  const starts = path.starts.flatMap(({ name, steps }) => [
    `/* ${commentText(name)} */`,
    ...steps.flatMap((step) =>
      'set' in step ? changes(part, plainWrites([step.set])) : [waitFor(part, step.until)],
    ),
    '',
  ]);
  return [...factors, ...starts];
}

/** A store of a whole register at once: an order to it rather than bits of it. */
function commandLine(part: Part, order: Writes): string[] {
  const writes = plainWrites([order]);
  const registers = [...new Set(writes.map((write) => write.register))];
  return registers.map((name) => {
    const { value } = registerWrite(
      part,
      name,
      writes.filter((write) => write.register === name),
    );
    return `${name} = ${hexText(value)};`;
  });
}

/** Stores that enable clocks, read back where the part needs it before what they feed may be used. */
function withReadBack(part: Part, writes: readonly FieldWrite[]): string[] {
  const read = part.code.readsBack ? [...new Set(writes.map(({ register }) => register))] : [];
  return [...changes(part, writes), ...read.map((register) => `(void)${register};`)];
}

/** Power for the timers and pins, then the pins as they are to be before their timers run, with their outputs selected. */
function pinsBefore(part: Part, signals: readonly CodeSignal[]): string[] {
  const timers = new Set(timersOf(part, signals));
  const power = withReadBack(part, plainWrites([...timers].map((timer) => timer.power)));
  const waits = [...new Set([...timers].flatMap((timer) => timer.ready ?? []))].map((place) =>
    waitFor(part, place),
  );
  const orders = [...timers].flatMap((timer) => timer.commands ?? []);
  const commands = [...new Set(orders.flatMap((order) => commandLine(part, order)))];
  const pins = pinsOf(part, signals);
  const idle = withReadBack(part, plainWrites(pins.map((pin) => pin.idle)));
  const awake = [...new Set(pins.flatMap((pin) => pin.ready ?? []))].map((place) => waitFor(part, place));
  const own = plainWrites(signals.map(({ setting }) => driveOf(setting).pinWrites(part, setting)));
  return [
    ...(power.length > 0 ? ['/* Clocks for the timers. */', ...power, ...commands, ...waits, ''] : []),
    '/* The pins, before their timers drive them. */',
    ...idle,
    ...awake,
    ...changes(part, own),
    '',
  ];
}

/** Timers that the signals use, in the part's order. */
function timersOf(part: Part, signals: readonly CodeSignal[]): Timer[] {
  return part.timers.filter((timer) => signals.some(({ setting }) => timerIdOf(setting) === timer.id));
}

function pinsOf(part: Part, signals: readonly CodeSignal[]): Pin[] {
  const ids = new Set(signals.flatMap(({ setting }) => pinsOfSetting(setting)));
  return [...ids].map((id) => pinOf(part, id));
}

function derivation(part: Part, path: ClockPath, { sentence, setting }: CodeSignal): string[] {
  const outcome = outcomeUnder(part, path, setting);
  const rungs = ladderOf(part, path, setting).map((rung) => {
    const formula = rungText(rung);
    const hz = exactText(rung.hz);
    const result =
      rung.id === 'compare'
        ? printPercent(outcome.duty.valueOf())
        : hz.includes('/')
          ? `${printHz(rung.hz.valueOf(), 9)} (${hz} Hz)`
          : `${hz} Hz`;
    return `     ${rung.label.padEnd(18)} ${formula.padEnd(27)} ${result}`;
  });
  return [sentence, `     ${driveOf(setting).method(part, setting)}`, ...rungs, ''];
}

function sourceText(
  part: Part,
  path: ClockPath,
  name: string,
  signals: readonly CodeSignal[],
  writes: readonly FieldWrite[],
  options: CodeOptions,
): string {
  const stem = identifier(name);
  const { leftOut = [] } = options;
  const driven = pinsOf(
    part,
    signals.filter(({ setting }) => isOutput(setting)),
  );
  const handlers = handlerLines(part, signals);
  const timers = timersOf(part, signals);
  const body = [
    ...clockLines(part, path),
    ...pinsBefore(part, signals),
    ...timers.flatMap((timer) => timerLines(part, timer, writes, signals)),
    ...changes(part, plainWrites(driven.map((pin) => pin.enable))),
    ...enableLines(part, signals, options.allowInterrupts === true),
  ];
  const header = [
    name,
    `${part.name}, ${clockPhrase(path, part.cpu.clock)}`,
    ...(part.code.setsClock ? [] : ['The start-up code must have set this clock up; it is not done here.']),
    '',
    ...signals.flatMap((signal) => derivation(part, path, signal)),
    ...(leftOut.length > 0 ? ['Not in this code:', ...leftOut.map((line) => `- ${line}`)] : []),
  ];
  return [
    '/*',
    ...header.map((line) => ` * ${commentText(line)}`.trimEnd()),
    ' */',
    `#include "${stem}.h"`,
    '',
    ...handlers,
    `void ${stem}_start(void)`,
    '{',
    ...body.map((line) => (line === '' ? '' : `    ${line}`)),
    '}',
    '',
    `void ${stem}_stop(void)`,
    '{',
    ...stopLines(part, signals).map((line) => `    ${line}`),
    '}',
    '',
  ].join('\n');
}

/**
 * A C file and its header that put the settings into the registers, with the derivation in the comment. Register and
 * bit names are those of the part's own headers. What the code leaves out of the plan stands in its head.
 * @throws CodeError when two signals want different values in one register.
 */
export function cFiles(
  part: Part,
  path: ClockPath,
  name: string,
  signals: readonly CodeSignal[],
  options: CodeOptions = {},
): CodeFile[] {
  const { writes, conflicts } = mergeWrites(
    signals.map((signal) => ({ name: signal.name, writes: settingWrites(part, signal.setting) })),
  );
  const [conflict] = conflicts;
  if (conflict) throw new CodeError(conflictSentence(conflict));
  const stem = identifier(name);
  const source = sourceText(part, path, name, signals, writes, options);
  return [
    { name: `${stem}.c`, text: source },
    { name: `${stem}.h`, text: headerText(part, path, name, signals, source) },
  ];
}
