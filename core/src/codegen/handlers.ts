import type { Interrupt, Part } from '../part/types.ts';
import { modeOf, timerOf } from '../part/find.ts';
import { driveOf, type Loop } from '../timer/drives/index.ts';
import { hasTimer, type Setting, type TimerSetting } from '../timer/setting.ts';
import { actionLines, actionStates, block, high, indented, low, type State } from './action-lines.ts';
import { sequenceLines, sequenceStates, followedLines, outputTick } from './sequence-lines.ts';
import { bitLines } from './bit-lines.ts';
import { registerName } from '../part/register-names.ts';
import { byteReloads, reloadName } from './reload-assembly.ts';
import { clearFlag, flagExpression } from './interrupt-lines.ts';
import { sendLines } from './send-lines.ts';
import { identifier, labelsOf, type CodeSignal, type CodeSequence } from './names.ts';
import { waitLines } from './wait.ts';

/** What a handler does first for the counter: adds the reload value, or moves the match on. */
function keepRunning(part: Part, setting: TimerSetting): string[] {
  const timer = timerOf(part, setting.timer);
  const { top } = modeOf(timer, setting.mode);
  if (top.kind === 'moved')
    return Object.keys(top.writes).map((name) => `${registerName(part, name)} += ${setting.top + 1}u;`);
  if (top.kind !== 'reload') return [];
  const reload = 2 ** timer.width - (setting.top + 1);
  if (!top.bytes) return Object.keys(top.writes).map((name) => `${name} += ${reload}u;`);
  const { upper, lower } = top.bytes;
  const inC = [
    // The lower byte first: it moves on while the upper one is read, and the sum has to be of one moment.
    `uint8_t low = ${lower};`,
    `uint16_t count = (uint16_t)(((uint16_t)${upper} << 8 | low) + ${reload}u);`,
    `${upper} = (uint8_t)(count >> 8);`,
    `${lower} = (uint8_t)count;`,
  ];
  if (!part.code.assembly) return inC;
  return ['#ifdef RELOAD_IN_C', ...inC, '#else', `${reloadName(timer.id)}();`, '#endif'];
}

function loopLines(part: Part, label: string, { pin, highPasses, lowPasses }: Loop): string[] {
  const cycles = part.cpu.loopCycles;
  const comment =
    part.code.assembler === undefined
      ? `Each pass is meant to take ${cycles} cycles; what it takes depends on the compiler: measure it.`
      : `Each pass takes ${cycles} cycles, whatever the compiler's options; the pin's own statements come on top.`;
  return [
    `/* ${comment} */`,
    `void ${label}_period(void)`,
    '{',
    ...indented([
      ...high(part, pin),
      ...waitLines(part, highPasses),
      ...low(part, pin),
      ...waitLines(part, lowPasses),
    ]),
    '}',
    '',
  ];
}

/** One pass through the sequence of a signal that a loop makes: its rows one after the other. */
function passLines(
  part: Part,
  label: string,
  { pin }: Setting,
  sequence: CodeSequence | undefined,
): string[] {
  if (!sequence || pin === undefined) return [];
  const rows = sequence.entries.flatMap(({ periods, top, compare }) => {
    const waits = (passes: number): string[] => (passes === 0 ? [] : waitLines(part, passes));
    const once = [
      ...(compare === 0 ? [] : [...high(part, pin), ...waits(compare)]),
      ...(compare === top ? [] : [...low(part, pin), ...waits(top - compare)]),
    ];
    return block(`for (uint32_t period = 0; period < ${periods}u; period += 1) {`, once);
  });
  return [`void ${label}_pass(void)`, '{', ...indented([...rows, ...low(part, pin)]), '}', ''];
}

/** What happens at one flag: how it is cleared, and what all signals that use it do. */
type AtFlag = { interrupt: Interrupt; lines: string[] };

/** The head of a handler: "void TIM2_IRQHandler(void)". */
function handlerHead(part: Part, { vector, handler }: Interrupt): string {
  return handler === undefined ? part.code.handler.replace('%', vector) : `void ${handler}(void)`;
}

/**
 * What the compiler calls the handler of an interrupt in its listing: the macro of the AVR headers makes a name of the
 * vector's number, all others keep the name of the function.
 */
export function handlerSymbol(part: Part, interrupt: Interrupt): string {
  const named = /^void (\w+)\(void\)$/.exec(handlerHead(part, interrupt))?.[1];
  return named ?? `__vector_${interrupt.number}`;
}

/** The interrupts of some flags; one handler serves them all. */
function anyOf(flags: ReadonlyMap<string, AtFlag>): Interrupt {
  const [first] = flags.values();
  if (!first) throw new RangeError('a handler serves at least one flag');
  return first.interrupt;
}

/** By vector and flag, what the handlers do. */
function gather(part: Part, signals: readonly CodeSignal[]): Map<string, Map<string, AtFlag>> {
  const labels = labelsOf(signals);
  const vectors = new Map<string, Map<string, AtFlag>>();
  signals.forEach(({ name, setting, sequence }, at) => {
    const label = labels[at] ?? identifier(name);
    for (const { interrupt, keepsRunning, actions } of driveOf(setting).handlers(part, setting)) {
      const flags = vectors.get(interrupt.vector) ?? new Map<string, AtFlag>();
      vectors.set(interrupt.vector, flags);
      const runs = keepsRunning && hasTimer(setting) ? keepRunning(part, setting) : [];
      const first = [...clearFlag(part, interrupt), ...runs];
      const own = flags.get(interrupt.flag) ?? { interrupt, lines: first };
      flags.set(interrupt.flag, own);
      own.lines.push(
        ...(sequence
          ? followedLines(part, label, sequence, actions)
          : actions.flatMap((action) => actionLines(part, label, action))),
      );
    }
    if (sequence?.tick) {
      const { tick } = sequence;
      const flags = vectors.get(tick.vector) ?? new Map<string, AtFlag>();
      vectors.set(tick.vector, flags);
      const own = flags.get(tick.flag) ?? { interrupt: tick, lines: clearFlag(part, tick) };
      flags.set(tick.flag, own);
      own.lines.push(...outputTick(label, sequence));
    }
  });
  return vectors;
}

function flagTest(part: Part, { flag, status = flag }: Interrupt): string {
  return `if (${flagExpression(part, status)})`;
}

/** The handlers of all interrupts the settings need, one for each vector, and the functions of delay loops. */
export function handlerLines(part: Part, signals: readonly CodeSignal[]): string[] {
  const vectors = gather(part, signals);
  const handlers = [...vectors.values()].flatMap((flags) => {
    const pieces = [...flags.values()].flatMap(({ interrupt, lines }) =>
      flags.size === 1 ? lines : block(`${flagTest(part, interrupt)} {`, lines),
    );
    return [handlerHead(part, anyOf(flags)), '{', ...indented(pieces), '}', ''];
  });
  const labels = labelsOf(signals);
  const loops = signals.flatMap(({ name, setting, sending, sequence }, at) => {
    const label = labels[at] ?? identifier(name);
    const { loop, bits } = driveOf(setting);
    if (loop) return [...loopLines(part, label, loop(setting)), ...passLines(part, label, setting, sequence)];
    const sent = bits?.(part, setting);
    if (sent) return bitLines(part, label, sent);
    return sending ? sendLines(part, label, sending) : [];
  });
  const states = statesOf(part, signals).map(
    ({ type, name, shared, told }) =>
      `${told ? '' : 'static '}${told || shared ? 'volatile ' : ''}${type} ${name};`,
  );
  return [
    ...states,
    ...(states.length > 0 ? [''] : []),
    ...sequenceLines(part, signals),
    ...handlers,
    ...loops,
    ...dispatcher(part, vectors),
  ];
}

/** What the handlers of all signals keep from one interrupt to the next. */
function statesOf(part: Part, signals: readonly CodeSignal[]): State[] {
  const labels = labelsOf(signals);
  return signals.flatMap(({ name, setting, sequence }, at) => {
    const label = labels[at] ?? identifier(name);
    const states = driveOf(setting)
      .handlers(part, setting)
      .flatMap(({ actions }) => actions)
      .flatMap((action) => actionStates(label, action));
    return sequence && hasTimer(setting) ? sequenceStates(label, sequence, states) : states;
  });
}

/** Statements that put back what the handlers keep, so that starting begins anew. */
export function resetLines(part: Part, signals: readonly CodeSignal[]): string[] {
  return statesOf(part, signals).map(
    ({ name, initial }) => `${name} = ${initial === undefined ? 0 : `${initial}u`};`,
  );
}

/** Declarations of what the assembler file does for the handlers. */
function reloadDeclarations(part: Part, signals: readonly CodeSignal[]): string[] {
  const reloads = part.code.assembly ? byteReloads(part, signals) : [];
  if (reloads.length === 0) return [];
  return [
    '/* In the assembler file, in counted cycles; with RELOAD_IN_C the handlers do it in C, in cycles that the compiler decides. */',
    ...reloads.map(({ timer }) => `void ${reloadName(timer)}(void);`),
  ];
}

/** Declarations of the handlers, for the program's table of vectors; where one handler is all, of what it calls. */
export function handlerDeclarations(part: Part, signals: readonly CodeSignal[]): string[] {
  const vectors = gather(part, signals);
  // A macro that makes a handler declares it too.
  if (vectors.size === 0 || !part.code.handler.startsWith('void ')) return [];
  const handlers = [...vectors.values()].map((flags) => `${handlerHead(part, anyOf(flags))};`);
  const single = part.cpu.priorities.scheme === 'single';
  return [
    ...reloadDeclarations(part, signals),
    single
      ? '/* Interrupt handlers; the one handler of all interrupts calls interrupts(). */'
      : '/* Interrupt handlers: the table of vectors must lead to them. */',
    ...handlers,
    ...(single ? ['void interrupts(void);'] : []),
    '',
  ];
}

/** Where all interrupts come through one handler, it asks each flag in turn. */
function dispatcher(part: Part, vectors: ReadonlyMap<string, ReadonlyMap<string, AtFlag>>): string[] {
  if (part.cpu.priorities.scheme !== 'single' || vectors.size === 0) return [];
  const tests = [...vectors].flatMap(([vector, flags]) => {
    const call = part.code.call.replace('%', vector);
    return [...flags.values()].map(({ interrupt }) => `${flagTest(part, interrupt)} ${call};`);
  });
  return ['void interrupts(void)', '{', ...indented(tests), '}', ''];
}
