import { exactText } from '../quantity/exact.ts';
import { printHz, printPercent } from '../quantity/print.ts';
import { clockOf, clockPhrase, type ClockPath } from '../clock/path.ts';
import { pinOf, timerOf } from '../part/find.ts';
import type { Part, Timer } from '../part/schema.ts';
import { ladderOf, rungText } from '../timer/derive.ts';
import { fieldWrites, registerWrite, settingWrites, type FieldWrite } from '../timer/encode.ts';
import { produce } from '../timer/produce.ts';
import type { Setting } from '../timer/setting.ts';
import { conflictSentence, mergeWrites } from './merge.ts';

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

function bit(field: string, value = 1): string {
  return `(${value} << ${field})`;
}

/** A store of the named bits, from the most significant down; bits of zero are left out. */
function store(part: Part, register: string, writes: readonly FieldWrite[]): string {
  const { value, fields } = registerWrite(part, register, writes);
  if (fields.some(({ field }) => field === null)) return `${register} = ${value};`;
  const set = fields.filter((one) => one.value !== 0).map((one) => bit(one.field ?? '', one.value));
  return `${register} = ${set.length > 0 ? set.join(' | ') : '0'};`;
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

function clockLines(part: Part, path: ClockPath): string[] {
  return path.dividers.flatMap(({ node, divide }) => {
    const option = node.options.find((one) => one.divide === divide);
    const target = fieldWrites(option?.writes ?? {}, undefined);
    const [first] = target;
    if (!first) return [];
    const unlock = fieldWrites(node.unlock ?? {}, undefined);
    return [
      `/* ${commentText(node.name)}: ${divide}. ${commentText(node.note ?? '')} */`,
      ...(unlock.length > 0 ? [store(part, first.register, unlock)] : []),
      store(part, first.register, target),
      '',
    ];
  });
}

function pinLines(part: Part, pins: readonly string[], which: 'latch' | 'direction'): string[] {
  return pins.map((id) => {
    const [register = '', field = ''] = pinOf(part, id)[which].split('.');
    return which === 'latch' ? `${register} &= (uint8_t)~${bit(field)};` : `${register} |= ${bit(field)};`;
  });
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
    '/* Outputs low before they are outputs. */',
    ...pinLines(part, pins, 'latch'),
    '',
    ...timers.flatMap((timer) => timerLines(part, timer, writes)),
    ...pinLines(part, pins, 'direction'),
  ];
  const header = [
    name,
    `${part.name}, ${clockPhrase(path)}`,
    '',
    ...signals.flatMap((signal) => derivation(part, path, signal)),
  ];
  return [
    '/*',
    ...header.map((line) => ` * ${commentText(line)}`.trimEnd()),
    ' */',
    ...part.code.headers.map((include) => `#include ${include}`),
    '#include <stdint.h>',
    `#include "${stem}.h"`,
    '',
    `void ${stem}_start(void)`,
    '{',
    ...body.map((line) => (line === '' ? '' : `    ${line}`)),
    '}',
    '',
  ].join('\n');
}

function headerText(part: Part, name: string, signals: readonly CodeSignal[]): string {
  const stem = identifier(name);
  const guard = `${stem.toUpperCase()}_H`;
  const taken = new Set<string>();
  const blocks = signals.map(({ name: title, setting }) => {
    const base = identifier(title);
    const label = taken.has(base) ? `${base}_${identifier(setting.channel)}` : base;
    taken.add(base);
    const timer = timerOf(part, setting.timer);
    const channel = timer.channels.find((one) => one.id === setting.channel);
    const type = timer.width > 8 ? 'uint16_t' : 'uint8_t';
    const upper = label.toUpperCase();
    const lines = [
      `/* ${commentText(title)}: ${setting.channel} on ${setting.pin} */`,
      `#define ${upper}_PRESCALER ${setting.prescaler}`,
      `#define ${upper}_TOP ${setting.top}`,
      `#define ${upper}_COMPARE ${setting.compare}`,
    ];
    if (setting.drive !== 'compare' || !channel) return [...lines, ''];
    const guard16 =
      timer.width > 8 ? ' Not from code that an interrupt using this timer may break into.' : '';
    return [
      ...lines,
      `/* Sets the width, 0 to ${setting.top}; taken over when the running period ends.${guard16} */`,
      `static inline void ${label}_set(${type} compare)`,
      '{',
      `    ${channel.compareRegister} = compare;`,
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
  return [
    { name: `${stem}.c`, text: sourceText(part, path, name, signals, writes) },
    { name: `${stem}.h`, text: headerText(part, name, signals) },
  ];
}
