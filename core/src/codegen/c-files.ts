import { exactText } from '../quantity/exact.ts';
import { printHz, printPercent } from '../quantity/print.ts';
import { clockPhrase, type ClockPath } from '../clock/path.ts';
import { modeOf, pinOf } from '../part/find.ts';
import type { Part, Pin, Timer, Writes } from '../part/types.ts';
import { driveOf, isOutput, ladderOf, outcomeUnder } from '../timer/drives/index.ts';
import { bringUpOps } from './bring-up-ops.ts';
import { claimedWrites } from '../timer/encode.ts';
import { fieldWrites, interruptWrites, type FieldWrite } from '../timer/fields.ts';
import { rungText } from '../timer/rungs.ts';
import { hasTimer, pinsOfSetting, timerIdOf } from '../timer/setting.ts';
import { clockLines, startupNeeds } from './clock-lines.ts';
import { courseStart } from './course-lines.ts';
import { handlerLines, resetLines } from './handlers.ts';
import { headerText } from './header.ts';
import { enableOps } from './enable-ops.ts';
import { commentText, identifier, type CodeSignal } from './names.ts';
import { registerName } from '../part/register-names.ts';
import { reloadAssembly } from './reload-assembly.ts';
import { routeLines, routeOf } from './route-lines.ts';
import { sendAssembly } from './send-assembly.ts';
import { setUpAssembly } from './set-up-assembly.ts';
import { stopLines } from './stop.ts';
import { inC, type Op, type SetUp } from './ops.ts';
import { hexText, plainWrites } from './statement.ts';
import { conflictSentence, mergeWrites } from '../timer/merge.ts';

/** A generated file. */
export type CodeFile = { name: string; text: string };

/** What the code leaves out of the plan, a sentence each, and whether starting lets the processor take interrupts. */
export type CodeOptions = {
  leftOut?: readonly string[];
  allowInterrupts?: boolean;
  /** Also functions for what start-up code does else: the clock path from the state after reset, the lines of interrupts. */
  startUp?: boolean;
  /** What gives the interrupts their priorities. */
  priorities?: readonly FieldWrite[];
};

/** Thrown when the settings cannot be one program; the message names the signals and the register. */
export class CodeError extends Error {}

/** Matches that run along with a free counter start one period after where it stands now. */
function movedStarts(part: Part, timer: Timer, signals: readonly CodeSignal[]): Map<string, string> {
  const starts = signals.flatMap(({ setting }): [string, string][] => {
    if (!hasTimer(setting) || setting.timer !== timer.id) return [];
    const { top } = modeOf(timer, setting.mode);
    if (top.kind !== 'moved') return [];
    const now = timer.counter === undefined ? '0u' : registerName(part, timer.counter);
    return Object.keys(top.writes).map((register) => [
      register,
      `${registerName(part, register)} = ${now} + ${setting.top + 1}u;`,
    ]);
  });
  return new Map(starts);
}

/** Where the counter begins: at 0, where its signals want it, or at what it is loaded with where it counts up from that. */
function firstCount(part: Part, timer: Timer, signals: readonly CodeSignal[]): string {
  const settings = signals.map((signal) => signal.setting).filter((one) => timerIdOf(one) === timer.id);
  for (const one of settings) {
    if ('begin' in one && one.begin) return `${one.begin}u`;
  }
  const [setting] = settings;
  const start = setting && hasTimer(setting) ? modeOf(timer, setting.mode).start : undefined;
  if (!setting || !start) return '0';
  const [first] = fieldWrites(start, driveOf(setting).numbers(part, setting));
  return first ? hexText(first.value) : '0';
}

function timerOps(
  part: Part,
  timer: Timer,
  writes: readonly FieldWrite[],
  signals: readonly CodeSignal[],
): Op[] {
  const moved = movedStarts(part, timer, signals);
  const steps = timer.sequence.flatMap(({ register, without, until }): Op[] => {
    const own = writes.filter((write) => write.register === register);
    if (register === timer.counter)
      return [{ do: 'count', register, value: firstCount(part, timer, signals) }];
    const start = moved.get(register);
    if (start !== undefined) return [{ do: 'words', lines: [start] }];
    if (own.length === 0) return [];
    // Bits that come with a later step are zero in this one.
    const kept = own.map((write) => (without?.includes(write.field ?? '') ? { ...write, value: 0 } : write));
    return [
      { do: 'store', register, writes: kept, ...(without ? { note: 'not running yet' } : {}) },
      ...(until === undefined ? [] : [{ do: 'wait', until } as const]),
    ];
  });
  return [{ do: 'say', text: timer.name }, ...steps, { do: 'gap' }];
}

/** Stores that enable clocks, read back where the part needs it before what they feed may be used. */
function withReadBack(part: Part, writes: readonly FieldWrite[]): Op[] {
  if (writes.length === 0) return [];
  const read = part.code.readsBack ? [...new Set(writes.map(({ register }) => register))] : [];
  return [{ do: 'change', writes }, ...read.map((register) => ({ do: 'read', register }) as const)];
}

/** The writes that lead signals to and from their pins: those of outputs come once the timer is set, others before. */
function pinWrites(part: Part, signals: readonly CodeSignal[], outputs: boolean): FieldWrite[] {
  const own = signals.filter(({ setting }) => isOutput(setting) === outputs);
  return plainWrites(own.map(({ setting }) => driveOf(setting).pinWrites(part, setting)));
}

/** Power for the timers and pins, then the pins as they are to be before their timers drive them. */
function pinsBefore(part: Part, signals: readonly CodeSignal[]): Op[] {
  const timers = new Set(timersOf(part, signals));
  const power = withReadBack(part, plainWrites([...timers].map((timer) => timer.power)));
  const conditions = [...new Set([...timers].flatMap((timer) => timer.ready ?? []))];
  const waits = conditions.map((until): Op => ({ do: 'wait', until }));
  const orders = [...timers].flatMap((timer) => timer.commands ?? []);
  const commands = uniqueOrders(orders).map((order): Op => ({ do: 'order', order }));
  const pins = pinsOf(part, signals);
  const idle = withReadBack(part, plainWrites(pins.map((pin) => pin.idle)));
  const awake = [...new Set(pins.flatMap((pin) => pin.ready ?? []))].map((until): Op => ({
    do: 'wait',
    until,
  }));
  const inputs = pinWrites(part, signals, false);
  const prepared: Op[] = [
    ...idle,
    ...awake,
    ...(inputs.length > 0 ? [{ do: 'change', writes: inputs } as const] : []),
  ];
  const said = (text: string, ops: readonly Op[]): Op[] =>
    ops.length > 0 ? [{ do: 'say', text }, ...ops] : [];
  return [
    ...(power.length > 0
      ? said('Clocks for the timers.', [...power, ...commands, ...waits, { do: 'gap' }])
      : []),
    ...said('The pins, before their timers drive them.', prepared),
  ];
}

/** Orders once each: several timers may want the same. */
function uniqueOrders(orders: readonly Writes[]): Writes[] {
  return orders.filter(
    (order, at) => at === orders.findIndex((other) => JSON.stringify(other) === JSON.stringify(order)),
  );
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
    const hz = exactText(rung.hz);
    const result =
      rung.id === 'compare'
        ? printPercent(outcome.duty.valueOf())
        : hz.includes('/')
          ? `${printHz(rung.hz.valueOf(), 9)} (${hz} Hz)`
          : `${hz} Hz`;
    return { label: rung.label, formula: rungText(rung), result };
  });
  const [labels, formulas] = (['label', 'formula'] as const).map((key) =>
    Math.max(...rungs.map((rung) => rung[key].length)),
  );
  const lines = rungs.map(
    ({ label, formula, result }) =>
      `     ${label.padEnd(labels ?? 0)}  ${formula.padEnd(formulas ?? 0)}  ${result}`,
  );
  return [sentence, `     ${driveOf(setting).method(part, setting)}`, ...lines, ''];
}

/** A function without arguments; no empty line before its end. */
function routine(name: string, lines: readonly string[]): string[] {
  const kept = lines.filter((line, at) => line !== '' || (lines[at + 1] ?? '') !== '');
  const body = kept.map((line) => (line === '' ? '' : `    ${line}`));
  return [`void ${name}(void)`, '{', ...body, '}', ''];
}

/** The steps that set everything up. */
function setUpOf(
  part: Part,
  path: ClockPath,
  signals: readonly CodeSignal[],
  writes: readonly FieldWrite[],
  options: CodeOptions,
): SetUp {
  const driven = pinsOf(
    part,
    signals.filter(({ setting }) => isOutput(setting)),
  );
  const outputs = [pinWrites(part, signals, true), plainWrites(driven.map((pin) => pin.enable))].flatMap(
    (own): Op[] => (own.length > 0 ? [{ do: 'change', writes: own }] : []),
  );
  const settings = signals.map(({ setting }) => setting);
  const clocks = options.startUp === true ? bringUpOps(part, path, settings) : undefined;
  return {
    ...(clocks ? { clocks } : {}),
    init: pinsBefore(part, signals),
    start: [
      ...timersOf(part, signals).flatMap((timer) => timerOps(part, timer, writes, signals)),
      ...(outputs.length > 0
        ? [{ do: 'say', text: 'The timers run: now they get their pins.' } as const, ...outputs]
        : []),
    ],
    enable: enableOps(part, signals, options.priorities ?? [], options.allowInterrupts === true),
  };
}

/** A title and its lines, with an empty line before; nothing where there are none. */
function listed(title: string, lines: readonly string[]): string[] {
  return lines.length > 0 ? ['', title, ...lines.map((line) => `- ${line}`)] : [];
}

function sourceText(
  part: Part,
  path: ClockPath,
  name: string,
  signals: readonly CodeSignal[],
  ops: SetUp,
  options: CodeOptions,
): string {
  const stem = identifier(name);
  const { leftOut = [] } = options;
  const handlers = handlerLines(part, signals);
  const begun = courseStart(signals);
  const sequences = begun.length > 0 ? ['', '/* The sequences begin with the next period. */', ...begun] : [];
  const reset = resetLines(part, signals);
  const init = [...clockLines(part, path, signals), ...inC(part, ops.init)];
  const start = [
    ...(reset.length > 0 ? ['/* What the interrupts keep. */', ...reset, ''] : []),
    ...inC(part, ops.start),
    ...sequences,
    ...inC(part, ops.enable),
  ];
  const needs = startupNeeds(part, path, signals);
  const route = options.startUp === true ? routeOf(part, signals) : undefined;
  const before = [...needs.fixed, ...(ops.clocks ? [] : needs.clocks), ...(route ? [] : needs.interrupts)];
  const header = [
    name,
    `${part.name}, ${clockPhrase(path, part.cpu.clock)}`,
    ...listed('Start-up code must have done this before:', before),
    ...(ops.clocks ? listed(`Set by ${stem}_clocks:`, needs.clocks) : []),
    '',
    ...signals.flatMap((signal) => derivation(part, path, signal)),
    ...(leftOut.length > 0 ? ['Not in this code:', ...leftOut.map((line) => `- ${line}`)] : []),
  ];
  if (header.at(-1) === '') header.pop();
  return [
    '/*',
    ...header.map((line) => ` * ${commentText(line)}`.trimEnd()),
    ' */',
    `#include "${stem}.h"`,
    '',
    ...handlers,
    ...(ops.clocks ? routine(`${stem}_clocks`, inC(part, ops.clocks)) : []),
    ...(route ? routeLines(part, stem, route) : []),
    ...routine(`${stem}_init`, init),
    ...routine(`${stem}_start`, start),
    ...routine(`${stem}_stop`, stopLines(part, signals)),
  ].join('\n');
}

/** What a signal starts with: one that follows a sequence or sends bits is low at first, and periods are counted. */
function startWrites(part: Part, { setting, course, sending }: CodeSignal): FieldWrite[] {
  const low = course ?? sending;
  if (!low || !isOutput(setting)) return claimedWrites(part, setting);
  return [
    ...claimedWrites(part, { ...setting, compare: low.rest }),
    ...(course?.tick ? fieldWrites(interruptWrites(course.tick), { postscale: 1 }) : []),
  ];
}

/**
 * A C file and its header that put the settings into the registers, with the derivation in the comment, and an assembler file where
 * code must take counted cycles. Register and
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
    signals.map((signal) => ({ name: signal.name, writes: startWrites(part, signal) })),
  );
  const [conflict] = conflicts;
  if (conflict) throw new CodeError(conflictSentence(conflict));
  const stem = identifier(name);
  const ops = setUpOf(part, path, signals, writes, options);
  const source = sourceText(part, path, name, signals, ops, options);
  const reload = reloadAssembly(part, name, signals);
  const send = sendAssembly(part, name, signals);
  const setUp = setUpAssembly(part, name, ops);
  return [
    { name: `${stem}.c`, text: source },
    { name: `${stem}.h`, text: headerText(part, path, name, signals, source, options.startUp === true) },
    ...(reload === undefined ? [] : [{ name: `${stem}_reload.asm`, text: reload }]),
    ...(send === undefined ? [] : [{ name: `${stem}_send.asm`, text: send }]),
    ...(setUp === undefined ? [] : [{ name: `${stem}_init.asm`, text: setUp }]),
  ];
}
