import { resetSteps } from '../program/handlers.ts';
import { inC } from './steps.ts';
import { type SetUp, type SetUpOptions, setUpOf } from '../program/set-up.ts';
import type { ProgramSignal } from '../program/signal.ts';
import { identifier } from '../program/names.ts';
import { commentText } from './comment.ts';
import { sequenceStart } from '../program/sequence.ts';
import { exactText } from '../quantity/exact.ts';
import { printHz, printPercent } from '../quantity/print.ts';
import { clockPhrase, type ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { driveOf, isOutput, ladderOf, outcomeUnder } from '../timer/drives/index.ts';
import { laterWrites } from '../timer/clock-set-up.ts';
import { sendingWrites } from '../timer/sending.ts';
import { claimedWrites } from '../timer/encode.ts';
import { fieldWrites, interruptWrites, type FieldWrite } from '../timer/fields.ts';
import { rungText } from '../timer/rungs.ts';
import { clockLines, startupNeeds } from './clock-lines.ts';
import { handlerLines } from './handlers.ts';
import { headerOf } from './header.ts';
import { registerName } from '../part/register-names.ts';
import { tablesOf } from '../part/tables.ts';
import { continued } from './field-names.ts';
import { definitions } from './statement.ts';
import { reloadAssembly } from './reload-assembly.ts';
import { routeLines, routeOf } from './route-lines.ts';
import { sendAssembly } from './send-assembly.ts';
import { setUpAssembly } from './set-up-assembly.ts';
import { stopSteps } from '../program/stop.ts';
import { conflictSentence, mergeWrites } from '../timer/merge.ts';

/** A generated file. */
export type CodeFile = { name: string; text: string };

/**
 * What the code leaves out of the plan, a sentence each; whether starting lets the processor take interrupts; whether there are functions for
 * the start-up, too (the clock path from the state after reset, the lines of interrupts); and what gives the interrupts their priorities.
 */
/** `unverified` are registers and fields that no independent source confirms: the head names those that the code writes. */
export type CodeOptions = SetUpOptions & { leftOut?: readonly string[]; unverified?: readonly string[] };

/** Thrown when the settings cannot be one program; the message names the signals and the register. */
export class CodeError extends Error {}

function derivation(part: Part, path: ClockPath, { sentence, setting }: ProgramSignal): string[] {
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

/** A title and its lines, with an empty line before; nothing where there are none. */
function listed(title: string, lines: readonly string[]): string[] {
  return lines.length > 0 ? ['', title, ...lines.map((line) => `- ${line}`)] : [];
}

/** So many unconfirmed registers are named at the head of the code; of more only how many. */
const NAMED = 12;

/** The registers of a text that no independent source confirms, each once, as the head of the code says them. */
function unconfirmedIn(part: Part, body: string, unverified: readonly string[]): string[] {
  const open = new Set(unverified.map((place) => place.split('.')[0] ?? ''));
  const words = new Set(body.match(/[A-Za-z_]\w*/g));
  const inDevice = (name: string): boolean => body.includes(registerName(part, name));
  const names = part.registers
    .map(({ name }) => name)
    .filter((name) => open.has(name) && (words.has(name) || inDevice(name)));
  if (names.length === 0) return [];
  const more = names.length > NAMED ? ` and ${names.length - NAMED} more` : '';
  const text = `${names.slice(0, NAMED).join(', ')}${more}.`;
  return [
    '',
    'No independent source confirms these registers or fields of them; compare them with the datasheet:',
    `- ${text}`,
  ];
}

/** The header for tables that are kept out of RAM, where a text has some. */
function tableHeader(part: Part, text: string): string[] {
  const { mark, header } = tablesOf(part.code);
  return header !== undefined && text.includes(`[]${mark} =`) ? [`#include ${header}`] : [];
}

function sourceText(
  part: Part,
  path: ClockPath,
  name: string,
  signals: readonly ProgramSignal[],
  ops: SetUp,
  functions: readonly string[],
  options: CodeOptions,
): string {
  const stem = identifier(name);
  const { leftOut = [], priorities = [] } = options;
  const handlers = handlerLines(part, signals, priorities);
  const begun = inC(part, sequenceStart(signals));
  const sequences = begun.length > 0 ? ['', '/* The sequences begin with the next period. */', ...begun] : [];
  const reset = inC(part, resetSteps(part, signals));
  const init = [...clockLines(part, path, signals), ...inC(part, ops.init)];
  const start = [
    ...(reset.length > 0 ? ['/* What interrupts and setters keep. */', ...reset, ''] : []),
    ...inC(part, ops.start),
    ...sequences,
    ...inC(part, ops.enable),
  ];
  const needs = startupNeeds(part, path, signals);
  const route = options.startUp === true ? routeOf(part, signals) : undefined;
  const before = [...needs.fixed, ...(ops.clocks ? [] : needs.clocks), ...(route ? [] : needs.interrupts)];
  const body = [
    ...handlers,
    ...functions,
    ...(ops.clocks ? routine(`${stem}_clocks`, inC(part, ops.clocks)) : []),
    ...(route ? routeLines(part, stem, route) : []),
    ...routine(`${stem}_init`, init),
    ...routine(`${stem}_start`, start),
    ...routine(`${stem}_stop`, inC(part, stopSteps(part, signals))),
  ].join('\n');
  const header = [
    name,
    `${part.name}, ${clockPhrase(path, part.cpu.clock)}`,
    ...unconfirmedIn(part, body, options.unverified ?? []),
    ...listed('Start-up code must have done this before:', before),
    ...(ops.clocks ? listed(`Set by ${stem}_clocks:`, needs.clocks) : []),
    '',
    ...signals.flatMap((signal) => derivation(part, path, signal)),
    ...(leftOut.length > 0 ? ['Not in this code:', ...leftOut.map((line) => `- ${line}`)] : []),
  ];
  if (header.at(-1) === '') header.pop();
  const defined = definitions(part, body);
  return [
    '/*',
    ...header.map((line) => ` * ${commentText(line)}`.trimEnd()),
    ' */',
    ...part.code.headers.map((include) => `#include ${include}`),
    ...tableHeader(part, body),
    `#include "${stem}.h"`,
    '',
    ...(defined.length > 0 ? [...defined, ''] : []),
    continued(body),
  ].join('\n');
}

/** What a signal starts with: one that follows a sequence or sends bits is low at first, and periods are counted. */
function startWrites(part: Part, { setting, sequence, sending }: ProgramSignal): FieldWrite[] {
  const low = sequence ?? sending;
  if (!low || !isOutput(setting)) return claimedWrites(part, setting);
  return laterWrites([
    ...claimedWrites(part, sequence?.gate ? setting : { ...setting, compare: low.rest }),
    ...fieldWrites(sequence?.gate?.off ?? {}),
    ...(sending ? sendingWrites(sending) : []),
    ...(sequence?.tick ? fieldWrites(interruptWrites(sequence.tick), { postscale: 1 }) : []),
  ]);
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
  signals: readonly ProgramSignal[],
  options: CodeOptions = {},
): CodeFile[] {
  const { writes, conflicts } = mergeWrites(
    signals.map((signal) => ({ name: signal.name, writes: startWrites(part, signal) })),
  );
  const [conflict] = conflicts;
  if (conflict) throw new CodeError(conflictSentence(conflict));
  const stem = identifier(name);
  const ops = setUpOf(part, path, signals, writes, options);
  const header = headerOf(part, path, name, signals, options);
  const source = sourceText(part, path, name, signals, ops, header.functions, options);
  const reload = reloadAssembly(part, name, signals);
  const send = sendAssembly(part, name, signals);
  const setUp = setUpAssembly(part, name, ops);
  return [
    { name: `${stem}.c`, text: source },
    { name: `${stem}.h`, text: header.text },
    ...(reload === undefined ? [] : [{ name: `${stem}_reload.asm`, text: reload }]),
    ...(send === undefined ? [] : [{ name: `${stem}_send.asm`, text: send }]),
    ...(setUp === undefined ? [] : [{ name: `${stem}_init.asm`, text: setUp }]),
  ];
}
