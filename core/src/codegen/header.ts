import { clockOf, type ClockPath } from '../clock/path.ts';
import { timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { exact } from '../quantity/exact.ts';
import { maxCompare } from '../timer/count.ts';
import { hasTimer, type Setting } from '../timer/setting.ts';
import { commentText, identifier, labelsOf, type CodeSignal } from './names.ts';
import { compareStores, definitions } from './statement.ts';
import { handlerDeclarations } from './handlers.ts';
import { stillInterrupted } from './stop.ts';
import { unitSetters, unsignedFor } from './setters.ts';
import { driveOf, hasFreeDuty, isOutput, outcomeUnder, resolveSetting } from '../timer/drives/index.ts';

function loopCall(setting: Setting, label: string): string[] {
  if (!driveOf(setting).loop) return [];
  return ['/* Makes one period of the signal; everything else waits. */', `void ${label}_period(void);`];
}

/** What the handlers of a signal want from the user, or give: a function to write, a count to read. */
function handlerCalls(part: Part, path: ClockPath, setting: Setting, label: string): string[] {
  const actions = driveOf(setting)
    .handlers(part, setting)
    .flatMap((use) => use.actions);
  return actions.flatMap((action) => {
    if (action.do === 'call')
      return ['/* Yours to write: called from the interrupt at each tick. */', `void ${label}_tick(void);`];
    if (action.do !== 'measure' || !hasTimer(setting)) return [];
    const clock = clockOf(path, timerOf(part, setting.timer).clock);
    const rate = Math.round(clock.mul(1000).div(exact(setting.prescaler)).valueOf());
    return [
      `/* Counts between the last two rising edges; the frequency is the timer's clock / (${setting.prescaler} * counts). */`,
      `extern volatile uint32_t ${label}_counts;`,
      '/* The frequency in mHz; 0 until two edges were seen. An interrupt may come while it reads. */',
      `static inline uint32_t ${label}_millihertz(void)`,
      '{',
      '    uint32_t counts;',
      `    do { counts = ${label}_counts; } while (counts != ${label}_counts);`,
      `    return counts == 0u ? 0u : (uint32_t)(${rate}ull / counts);`,
      '}',
    ];
  });
}

/** What the header says of a signal that interrupts or a loop make. */
function softwareBlock(
  part: Part,
  path: ClockPath,
  title: string,
  label: string,
  setting: Setting,
): string[] {
  const upper = label.toUpperCase();
  const pin = setting.pin === undefined ? '' : ` on ${setting.pin}`;
  const numbers = (['prescaler', 'top', 'compare', 'postscale', 'divider'] as const).flatMap((key) => {
    const value = (setting as Partial<Record<typeof key, number>>)[key];
    return value === undefined ? [] : [`#define ${upper}_${key.toUpperCase()} ${value}`];
  });
  const call = [...loopCall(setting, label), ...handlerCalls(part, path, setting, label)];
  return [`/* ${commentText(title)}${pin} */`, ...numbers, ...call, ''];
}

/** What stopping does, and which interrupts the program has to mask itself. */
function stopComment(part: Part, signals: readonly CodeSignal[]): string[] {
  const names = stillInterrupted(part, signals);
  return [
    '/* Stops the signals: interrupts disabled, pins low. Starting begins anew. */',
    ...(names.length > 0
      ? [`/* Mask the interrupts of ${commentText(names.join(', '))} before: they are not disabled here. */`]
      : []),
  ];
}

/** The header: registers, the numbers of each signal, and what may be called. */
export function headerText(
  part: Part,
  path: ClockPath,
  name: string,
  signals: readonly CodeSignal[],
  body: string,
): string {
  const stem = identifier(name);
  const labels = labelsOf(signals);
  const guard = `${stem.toUpperCase()}_H`;
  const blocks = signals.map(({ name: title, setting, span }, at) => {
    const label = labels[at] ?? identifier(title);
    if (!isOutput(setting)) return softwareBlock(part, path, title, label, setting);
    const timer = timerOf(part, setting.timer);
    const channel = timer.channels.find((one) => one.id === setting.channel);
    const upper = label.toUpperCase();
    const lines = [
      `/* ${commentText(title)}: ${setting.channel} on ${setting.pin} */`,
      `#define ${upper}_PRESCALER ${setting.prescaler}`,
      `#define ${upper}_TOP ${setting.top}`,
      `#define ${upper}_COMPARE ${setting.compare}`,
    ];
    if (!hasFreeDuty(setting) || !channel) return [...lines, ''];
    const resolved = resolveSetting(part, setting);
    const { mode } = resolved;
    const max = maxCompare(mode, setting.top, timer.width);
    const type = unsignedFor(max);
    const { frequency } = outcomeUnder(part, path, setting);
    const twoSteps = part.code.bytewise && timer.width > 8;
    const guard16 = twoSteps ? ' Not interrupt-safe: disable interrupts that use this timer around it.' : '';
    const when = mode.update.compare === 'immediate' ? 'at once' : 'when the running period ends';
    return [
      ...lines,
      `/* Sets the width, 0 to ${max}; taken over ${when}.${guard16} */`,
      `static inline void ${label}_set(${type} compare)`,
      '{',
      ...compareStores(part, channel.compare).map((line) => `    ${line}`),
      '}',
      ...unitSetters(label, resolved, frequency, span, type),
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
    '#ifdef __cplusplus',
    'extern "C" {',
    '#endif',
    '',
    ...blocks.flat(),
    ...handlerDeclarations(part, signals),
    '/* Sets up the clock, the timers and the pins; call once at the start. */',
    `void ${stem}_start(void);`,
    ...stopComment(part, signals),
    `void ${stem}_stop(void);`,
    '',
    '#ifdef __cplusplus',
    '}',
    '#endif',
    '',
    '#endif',
    '',
  ].join('\n');
}
