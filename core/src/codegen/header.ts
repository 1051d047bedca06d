import type { SetUpOptions } from '../program/set-up.ts';
import { unsignedFor } from '../program/step.ts';
import { levelKept, stillInterrupted } from '../program/stop.ts';
import { valueType } from '../program/sequence.ts';
import type { ProgramSignal } from '../program/signal.ts';
import { identifier, labelsOf } from '../program/names.ts';
import { commentText } from './comment.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import { timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { exact } from '../quantity/exact.ts';
import { maxCompare, togglesTwice } from '../timer/count.ts';
import { aloneOnTimers, hasTimer } from '../timer/setting.ts';
import { canExclude, keptTogether } from './statement.ts';
import { bitDeclaration } from './bit-lines.ts';
import { declared } from './declared.ts';
import { sendDeclaration, sentBit } from './send-lines.ts';
import { handlerDeclarations } from './handlers.ts';
import { routeDeclaration, routeOf } from './route-lines.ts';
import { knobSetter, readingsSetter } from './bench-setters.ts';
import { knobRateSetter, rateSetter } from './rate-setters.ts';
import { compareBody, NOT_SAFE, setterSafety } from './compare-body.ts';
import { movingSetters } from './moving-setters.ts';
import { movesBoth } from '../program/moving.ts';
import { outputAdjustable, unitSetters } from './setters.ts';
import { driveOf, hasFreeDuty, isOutput, outcomeUnder, resolveSetting } from '../timer/drives/index.ts';

function loopCall(part: Part, { setting, sequence }: ProgramSignal, label: string): string[] {
  const { loop, bits } = driveOf(setting);
  const sent = bits?.(part, setting);
  if (sent) return bitDeclaration(label, sent, part.code.assembly !== undefined);
  if (!loop) return [];
  return [
    '/* Makes one period of the signal; everything else waits. */',
    `void ${label}_period(void);`,
    ...(sequence
      ? ['/* Makes one pass through its sequence; everything else waits. */', `void ${label}_pass(void);`]
      : []),
  ];
}

/** Whether an input still has edges: asked once in a while, and the next reading after a loss begins anew. */
function lostLines(label: string, slowestHz: number | undefined): string[] {
  if (slowestHz === undefined) return [];
  // Two periods of the slowest input, so that one late edge is no loss.
  const ms = Math.ceil(2000 / slowestHz);
  return [
    `/* Whether no edge came since the last call: ask every ${ms} ms or less often. */`,
    `static inline uint8_t ${label}_lost(void)`,
    '{',
    `    if (${label}_fresh) {`,
    `        ${label}_fresh = 0;`,
    '        return 0;',
    '    }',
    `    ${label}_seen = 0;`,
    `    ${label}_counts = 0;`,
    '    return 1;',
    '}',
  ];
}

/** What the handlers of a signal want from the user, or give: a function to write, a count to read. */
function handlerCalls(
  part: Part,
  path: ClockPath,
  { setting, slowestHz }: ProgramSignal,
  label: string,
): string[] {
  const actions = driveOf(setting)
    .handlers(part, setting)
    .flatMap((use) => use.actions);
  return actions.flatMap((action) => {
    if (action.do === 'call')
      return [
        '/* To be implemented by the application: called from the interrupt at each tick. */',
        `void ${label}_tick(void);`,
      ];
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
      ...lostLines(label, slowestHz),
    ];
  });
}

/** Setters of a width that interrupts make: their handlers take it over. */
function softwareSetters(
  part: Part,
  path: ClockPath,
  { setting, span, sequence: followed }: ProgramSignal,
  label: string,
): string[] {
  const adjustable = driveOf(setting).adjustable?.(part, setting);
  if (!adjustable) return [];
  const { max } = adjustable;
  const type = followed ? valueType(followed) : unsignedFor(max);
  const { frequency } = outcomeUnder(part, path, setting);
  const store = `${label}_high = compare;`;
  // One store of the processor, or one in two that interrupts are kept out of.
  const guarded = canExclude(part) && part.code.bytewise && type !== 'uint8_t';
  const lines = guarded ? keptTogether(part, [store]) : [store];
  const safe = guarded || !part.code.bytewise || type === 'uint8_t';
  return [
    `/* Sets the width, 0 to ${max} of ${adjustable.whole}; taken over by the next interrupt. ${safe ? 'Interrupt-safe.' : NOT_SAFE} */`,
    `static inline void ${label}_set(${type} compare)`,
    '{',
    ...lines.map((line) => `    ${line}`),
    '}',
    ...unitSetters(label, adjustable, frequency, span, type),
  ];
}

/** What the header says of a signal that follows a sequence. */
function sequenceDeclaration(label: string): string[] {
  return [
    '/* Starts the sequence anew at the end of the running period; with 0 it ends there and the pin stays low. */',
    `void ${label}_play(uint8_t on);`,
  ];
}

/** What the header says of a signal that interrupts or a loop make. */
function softwareBlock(
  part: Part,
  path: ClockPath,
  title: string,
  label: string,
  signal: ProgramSignal,
): string[] {
  const { setting } = signal;
  const upper = label.toUpperCase();
  const pin = setting.pin === undefined ? '' : ` on ${setting.pin}`;
  const numbers = (['prescaler', 'top', 'compare', 'postscale', 'divider'] as const).flatMap((key) => {
    const value = (setting as Partial<Record<typeof key, number>>)[key];
    return value === undefined ? [] : [`#define ${upper}_${key.toUpperCase()} ${value}`];
  });
  const call = [
    ...loopCall(part, signal, label),
    ...handlerCalls(part, path, signal, label),
    ...softwareSetters(part, path, signal, label),
    ...(signal.sequence && hasTimer(setting) ? sequenceDeclaration(label) : []),
  ];
  return [`/* ${commentText(title)}${pin} */`, ...numbers, ...call, ''];
}

/** What stopping does, and which interrupts the program has to mask itself. */
function stopComment(part: Part, signals: readonly ProgramSignal[]): string[] {
  const names = stillInterrupted(part, signals);
  const kept = levelKept(part, signals);
  return [
    '/* Stops the signals: interrupts disabled, pins low. They can be started again. */',
    ...(names.length > 0
      ? [`/* Mask the interrupts of ${commentText(names.join(', '))} before: they are not disabled here. */`]
      : []),
    ...(kept.length > 0
      ? [
          `/* The timer keeps the level of ${commentText(kept.join(', '))}: after a stop, the next start may begin with the other half of a period. */`,
        ]
      : []),
  ];
}

/** The header: the numbers of each signal, and what may be called. With it the bodies of what it declares, for the source. */
export function headerOf(
  part: Part,
  path: ClockPath,
  name: string,
  signals: readonly ProgramSignal[],
  { startUp = false, priorities = [] }: SetUpOptions,
): { text: string; functions: string[] } {
  const stem = identifier(name);
  const labels = labelsOf(signals);
  const alones = aloneOnTimers(signals.map(({ setting }) => setting));
  const guard = `${stem.toUpperCase()}_H`;
  const blocks = signals.map((signal, at) => {
    const { name: title, setting, span } = signal;
    const label = labels[at] ?? identifier(title);
    if (!isOutput(setting)) return softwareBlock(part, path, title, label, signal);
    const timer = timerOf(part, setting.timer);
    const channel = timer.channels.find((one) => one.id === setting.channel);
    const upper = label.toUpperCase();
    const lines = [
      `/* ${commentText(title)}: ${setting.channel} on ${setting.pin} */`,
      `#define ${upper}_PRESCALER ${setting.prescaler}`,
      `#define ${upper}_TOP ${setting.top}`,
      `#define ${upper}_COMPARE ${setting.compare}`,
    ];
    if (!channel) return [...lines, ''];
    const resolved = resolveSetting(part, setting);
    const { frequency } = outcomeUnder(part, path, setting);
    const alone = alones[at] ?? false;
    const { mode } = resolved;
    if (hasFreeDuty(setting) && togglesTwice(mode)) {
      const why = 'match and overflow toggle the output, and a missed one inverts it';
      return [...lines, `/* No setter: it stays as it is while the timer runs; ${why}. */`, ''];
    }
    if (signal.sending)
      return [...lines, ...sendDeclaration(label, sentBit(part, path, setting), signal.sending), ''];
    const play = signal.sequence ? sequenceDeclaration(label) : [];
    if (movesBoth(signal, resolved, alone))
      return [...lines, ...movingSetters(part, path, label, signal, resolved, frequency, timer, channel), ''];
    // The rows of a sequence are values of one period, and a pulse between two widths has its frame.
    const fixed = signal.sequence !== undefined || span?.of === 'width';
    const rate = [
      ...(fixed ? [] : rateSetter(part, path, label, resolved, frequency, span, alone)),
      ...(signal.knob?.rate ? knobRateSetter(part, label, resolved, signal.knob, alone) : []),
    ];
    if (!hasFreeDuty(setting)) return [...lines, ...rate, ...play, ''];
    const max = maxCompare(mode, setting.top, timer.width);
    const type = unsignedFor(max);
    const adjustable = outputAdjustable(resolved);
    const safety = setterSafety(part, timer, channel);
    const when = mode.update.compare === 'immediate' ? 'at once' : 'when the running period ends';
    return [
      ...lines,
      `/* Sets the width, 0 to ${max}; taken over ${when}. ${safety} */`,
      `static inline void ${label}_set(${type} compare)`,
      '{',
      ...compareBody(part, timer, channel).map((line) => `    ${line}`),
      '}',
      ...(adjustable ? unitSetters(label, adjustable, frequency, span, type) : []),
      ...(signal.knob && !signal.knob.rate ? knobSetter(part, label, signal.knob, type) : []),
      ...(signal.readings
        ? readingsSetter(part, signal.readings, label, (value) => `${label}_set((${type})${value})`)
        : []),
      ...rate,
      ...play,
      '',
    ];
  });
  const clocks = startUp && Array.isArray(part.bringUp);
  const route = startUp ? routeOf(part, signals) : undefined;
  const { header, source } = declared(blocks.flat());
  const text = [
    `#ifndef ${guard}`,
    `#define ${guard}`,
    '',
    '#include <stdint.h>',
    '',
    '#ifdef __cplusplus',
    'extern "C" {',
    '#endif',
    '',
    ...header,
    ...handlerDeclarations(part, signals, priorities),
    ...(clocks
      ? [
          '/* Brings the clocks up from the state after reset; call it once, before all else, where start-up code does not. */',
          `void ${stem}_clocks(void);`,
        ]
      : []),
    ...(route ? routeDeclaration(stem, route) : []),
    `/* Clocks of the timers, power, and the pins low; call it once, ${clocks ? 'then' : 'first of all'}. */`,
    `void ${stem}_init(void);`,
    '/* Sets the timers, lets them run, gives them their pins, and enables the interrupts. */',
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
  return { text, functions: source };
}
