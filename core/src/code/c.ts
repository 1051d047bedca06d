import { exactText } from '../quantity/exact.ts';
import { printHz, printPercent } from '../quantity/print.ts';
import { clockOf, clockPhrase, type ClockPath } from '../clock/path.ts';
import { pinOf, timerOf } from '../part/find.ts';
import type { Part, Timer } from '../part/schema.ts';
import { ladderOf, rungText } from '../timer/derive.ts';
import { compareMost } from '../timer/count.ts';
import { fieldWrites, settingWrites, type FieldWrite } from '../timer/encode.ts';
import { produce } from '../timer/produce.ts';
import { resolveSetting, type Setting } from '../timer/setting.ts';
import { conflictSentence, mergeWrites } from './merge.ts';
import { changes, compareStores, definitions, hasHeaders, plainWrites, store, waitFor } from './statement.ts';

/** One signal as the code needs it: its name, its sentence, and the setting that produces it. */
export type CodeSignal = { name: string; sentence: string; setting: Setting };

/** A generated file. */
export type CodeFile = { name: string; text: string };

/** Thrown when the settings cannot be one program; the message names the signals and the register. */
export class CodeError extends Error {}

/** A name as a C identifier in lower case: "Mist pump" is mist_pump. */
export function identifier(name: string): string {
  const plain = name
    .normalize('NFKD')
    .replace(/[^a-zA-Z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '')
    .toLowerCase();
  return /^[a-z]/.test(plain) ? plain : `plan_${plain || 'unnamed'}`;
}

const PLAIN: readonly (readonly [RegExp, string])[] = [
  [/\*\//g, '* /'],
  [/\/\*/g, '/ *'],
  [/[\r\n\\]+/g, ' '],
  [/\?\?/g, '? ?'],
  [/\u202f/g, ''],
  [/÷/g, '/'],
  [/×/g, 'x'],
  [/−/g, '-'],
  [/±/g, '+-'],
  [/µ/g, 'u'],
];

/** Text that cannot end a C comment or start a line of its own; the signs of arithmetic in plain characters. */
function commentText(text: string): string {
  return PLAIN.reduce((plain, [sign, instead]) => plain.replace(sign, instead), text);
}

function timerLines(part: Part, timer: Timer, writes: readonly FieldWrite[]): string[] {
  const lines = timer.sequence.flatMap(({ register, without }) => {
    const own = writes.filter((write) => write.register === register);
    if (register === timer.counter) return [`${register} = 0;`];
    if (own.length === 0) return [];
    const kept = own.filter((write) => !without?.includes(write.field ?? ''));
    return [`${store(part, register, kept)}${without ? ' /* mode set, clock still stopped */' : ''}`];
  });
  return [`/* ${timer.name} */`, ...lines, ''];
}

/**
 * The clocks: dividers for parts whose headers name their registers (elsewhere start-up code has set the path up), and
 * for all parts the steps that start and select a clock which is not there after reset.
 */
function clockLines(part: Part, path: ClockPath): string[] {
  const dividers = hasHeaders(part) ? path.writes : [];
  const factors = dividers.flatMap(({ node, by, writes }) => {
    const target = fieldWrites(writes, undefined);
    const [first] = target;
    if (!first) return [];
    const unlock = fieldWrites(node.unlock ?? {}, undefined);
    return [
      `/* ${commentText(node.name)}: ${by}. ${commentText(node.note ?? '')} */`,
      ...(unlock.length > 0 ? [store(part, first.register, unlock)] : []),
      store(part, first.register, target),
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

/** Power for the timers and pins, then the pins as they are to be before their timers run, with their outputs selected. */
function pinsBefore(part: Part, signals: readonly CodeSignal[]): string[] {
  const timers = new Set(signals.map(({ setting }) => timerOf(part, setting.timer)));
  const power = changes(part, plainWrites([...timers].map((timer) => timer.power)));
  const waits = [...new Set([...timers].flatMap((timer) => timer.ready ?? []))].map((place) =>
    waitFor(part, place),
  );
  const idle = changes(part, plainWrites(signals.map(({ setting }) => pinOf(part, setting.pin).idle)));
  const own = signals.flatMap(({ setting }) => {
    const { output, timer } = resolveSetting(part, setting);
    const inSequence = new Set(timer.sequence.map((step) => step.register));
    return plainWrites([output.writes]).filter((write) => !inSequence.has(write.register));
  });
  return [
    ...(power.length > 0 ? ['/* Clocks for the timers. */', ...power, ...waits, ''] : []),
    '/* The pins, before their timers drive them. */',
    ...idle,
    ...changes(part, own),
    '',
  ];
}

function derivation(part: Part, path: ClockPath, { sentence, setting }: CodeSignal): string[] {
  const timer = timerOf(part, setting.timer);
  const outcome = produce(part, setting, clockOf(path, timer.clock));
  const mode = timer.modes.find((one) => one.id === setting.mode);
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
  return [
    sentence,
    `     ${timer.name}, ${setting.channel} on ${setting.pin}, ${mode?.name ?? ''}`,
    ...rungs,
    '',
  ];
}

function sourceText(
  part: Part,
  path: ClockPath,
  name: string,
  signals: readonly CodeSignal[],
  writes: readonly FieldWrite[],
): string {
  const stem = identifier(name);
  const pins = [...new Set(signals.map((signal) => signal.setting.pin))];
  const timers = part.timers.filter((timer) => signals.some((signal) => signal.setting.timer === timer.id));
  const body = [
    ...clockLines(part, path),
    ...pinsBefore(part, signals),
    ...timers.flatMap((timer) => timerLines(part, timer, writes)),
    ...changes(part, plainWrites(pins.map((pin) => pinOf(part, pin).enable))),
  ];
  const header = [
    name,
    `${part.name}, ${clockPhrase(path, part.cpu.clock)}`,
    ...(hasHeaders(part) ? [] : ['The start-up code must have set this clock up; it is not done here.']),
    '',
    ...signals.flatMap((signal) => derivation(part, path, signal)),
  ];
  return [
    '/*',
    ...header.map((line) => ` * ${commentText(line)}`.trimEnd()),
    ' */',
    `#include "${stem}.h"`,
    '',
    `void ${stem}_start(void)`,
    '{',
    ...body.map((line) => (line === '' ? '' : `    ${line}`)),
    '}',
    '',
  ].join('\n');
}

function headerText(part: Part, name: string, signals: readonly CodeSignal[], body: string): string {
  const stem = identifier(name);
  const guard = `${stem.toUpperCase()}_H`;
  const taken = new Set<string>();
  const blocks = signals.map(({ name: title, setting }) => {
    const base = identifier(title);
    const label = taken.has(base) ? `${base}_${identifier(setting.channel)}` : base;
    taken.add(base);
    const timer = timerOf(part, setting.timer);
    const channel = timer.channels.find((one) => one.id === setting.channel);
    const type = timer.width > 16 ? 'uint32_t' : timer.width > 8 ? 'uint16_t' : 'uint8_t';
    const upper = label.toUpperCase();
    const lines = [
      `/* ${commentText(title)}: ${setting.channel} on ${setting.pin} */`,
      `#define ${upper}_PRESCALER ${setting.prescaler}`,
      `#define ${upper}_TOP ${setting.top}`,
      `#define ${upper}_COMPARE ${setting.compare}`,
    ];
    if (setting.drive !== 'compare' || !channel) return [...lines, ''];
    const { mode } = resolveSetting(part, setting);
    const most = compareMost(mode, setting.top, timer.width);
    const taken16 = hasHeaders(part) && timer.width > 8;
    const guard16 = taken16 ? ' Not from code that an interrupt using this timer may break into.' : '';
    const when = mode.update.compare === 'immediate' ? 'at once' : 'when the running period ends';
    return [
      ...lines,
      `/* Sets the width, 0 to ${most}; taken over ${when}.${guard16} */`,
      `static inline void ${label}_set(${type} compare)`,
      '{',
      ...compareStores(part, channel.compare).map((line) => `    ${line}`),
      '}',
      '',
    ];
  });
  return [
    `#ifndef ${guard}`,
    `#define ${guard}`,
    '',
    ...part.code.headers.map((include) => `#include ${include}`),
    '#include <stdint.h>',
    '',
    ...definitions(part, `${body}\n${blocks.flat().join('\n')}`),
    '',
    ...blocks.flat(),
    '/* Sets up the clock, the timers and the pins; call once at the start. */',
    `void ${stem}_start(void);`,
    '',
    '#endif',
    '',
  ].join('\n');
}

/**
 * A C file and its header that put the settings into the registers, with the derivation in the comment. Register and
 * bit names are those of the part's own headers.
 * @throws CodeError when two signals want different values in one register.
 */
export function cFiles(
  part: Part,
  path: ClockPath,
  name: string,
  signals: readonly CodeSignal[],
): CodeFile[] {
  const { writes, conflicts } = mergeWrites(
    signals.map((signal) => ({ name: signal.name, writes: settingWrites(part, signal.setting) })),
  );
  const [conflict] = conflicts;
  if (conflict) throw new CodeError(conflictSentence(conflict));
  const stem = identifier(name);
  const source = sourceText(part, path, name, signals, writes);
  return [
    { name: `${stem}.c`, text: source },
    { name: `${stem}.h`, text: headerText(part, name, signals, source) },
  ];
}
