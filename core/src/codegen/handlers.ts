import { priorityPlace, sharesHandlers } from '../part/find.ts';
import type { Interrupt, Part } from '../part/types.ts';
import { handlersOf, statesOf } from '../program/handlers.ts';
import { identifier, labelsOf } from '../program/names.ts';
import { followingOf, sequenceRoutines, sequenceVariables, tableOf } from '../program/sequence.ts';
import type { ProgramSequence, ProgramSignal } from '../program/signal.ts';
import type { AtFlag, Handler, Routine, State, Step, Table } from '../program/step.ts';
import { level } from '../program/actions.ts';
import { tablesOf } from '../part/tables.ts';
import { driveOf, type Loop } from '../timer/drives/index.ts';
import type { FieldWrite } from '../timer/fields.ts';
import type { Setting } from '../timer/setting.ts';
import { bitLines } from './bit-lines.ts';
import { flagExpression } from './interrupt-lines.ts';
import { byteReloads, reloadName } from './reload-assembly.ts';
import { sendLines } from './send-lines.ts';
import { block, inC, indented } from './steps.ts';
import { waitLines } from './wait.ts';

/** Statements that put a pin high or low as the program's own. */
function pinLines(part: Part, pin: string, high: boolean): string[] {
  return inC(part, [level(part, pin, high)]);
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
      ...pinLines(part, pin, true),
      ...waitLines(part, highPasses),
      ...pinLines(part, pin, false),
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
  sequence: ProgramSequence | undefined,
): string[] {
  if (!sequence || pin === undefined) return [];
  const rows = sequence.entries.flatMap(({ periods, top, compare }) => {
    const waits = (passes: number): string[] => (passes === 0 ? [] : waitLines(part, passes));
    const once = [
      ...(compare === 0 ? [] : [...pinLines(part, pin, true), ...waits(compare)]),
      ...(compare === top ? [] : [...pinLines(part, pin, false), ...waits(top - compare)]),
    ];
    return block(`for (uint32_t period = 0; period < ${periods}u; period += 1) {`, once);
  });
  const end = pinLines(part, pin, false);
  return [`void ${label}_pass(void)`, '{', ...indented([...rows, ...end]), '}', ''];
}

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

/** The interrupt that stands for a handler; one handler serves all of its flags. */
function anyOf({ vector, flags: [first] }: Handler): Interrupt {
  if (!first) throw new RangeError(`the handler of ${vector} serves no flag`);
  return first.interrupt;
}

/** The steps of a flag, asked for first where others come by the same vector. */
function atFlag({ interrupt, steps }: AtFlag, alone: boolean): Step[] {
  const { flag, status = flag } = interrupt;
  return alone ? steps : [{ do: 'if', test: { flag: status }, then: steps }];
}

function tableLines(part: Part, { name, says, members, rows }: Table): string[] {
  const fields = members.map(({ type, name: member }) => `${type} ${member};`);
  return [
    `/* ${says} */`,
    `static const struct { ${fields.join(' ')} } ${name}[]${tablesOf(part.code).mark} = {`,
    ...indented(rows.map((row) => `{ ${row.map((value) => `${value}u`).join(', ')} },`)),
    '};',
  ];
}

function stateLine({ type, kept, shared, told }: State): string {
  return `${told ? '' : 'static '}${told || shared ? 'volatile ' : ''}${type} ${kept};`;
}

function routineLines(part: Part, { name, argument, steps, inner }: Routine): string[] {
  const taken = argument ? `${argument.type} ${argument.local}` : 'void';
  return [`${inner ? 'static ' : ''}void ${name}(${taken})`, '{', ...indented(inC(part, steps)), '}', ''];
}

/** Tables and state machines of all sequences. */
function sequenceLines(part: Part, signals: readonly ProgramSignal[]): string[] {
  return followingOf(signals).flatMap((following) => [
    ...tableLines(part, tableOf(following)),
    ...sequenceVariables(following).map(stateLine),
    '',
    ...sequenceRoutines(part, following).flatMap((routine) => routineLines(part, routine)),
  ]);
}

/** The handlers of all interrupts the settings need, one for each vector, and the functions of delay loops. */
export function handlerLines(
  part: Part,
  signals: readonly ProgramSignal[],
  priorities: readonly FieldWrite[],
): string[] {
  const all = handlersOf(part, signals);
  const handlers = all.flatMap((handler) => {
    const alone = handler.flags.length === 1;
    const lines = inC(
      part,
      handler.flags.flatMap((one) => atFlag(one, alone)),
    );
    return [handlerHead(part, anyOf(handler)), '{', ...indented(lines), '}', ''];
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
  const states = statesOf(part, signals).map(stateLine);
  return [
    ...states,
    ...(states.length > 0 ? [''] : []),
    ...sequenceLines(part, signals),
    ...handlers,
    ...loops,
    ...dispatchers(part, all, priorities).flatMap(({ name, handlers: own }) =>
      dispatcherLines(part, name, own),
    ),
  ];
}

/** Declarations of what the assembler file does for the handlers. */
function reloadDeclarations(part: Part, signals: readonly ProgramSignal[]): string[] {
  const reloads = part.code.assembly ? byteReloads(part, signals) : [];
  if (reloads.length === 0) return [];
  return [
    '/* In the assembler file, in counted cycles; with RELOAD_IN_C the handlers do it in C, in cycles that the compiler decides. */',
    ...reloads.map(({ timer }) => `void ${reloadName(timer)}(void);`),
  ];
}

/** Declarations of the handlers, for the program's table of vectors; where one handler is all, of what it calls. */
export function handlerDeclarations(
  part: Part,
  signals: readonly ProgramSignal[],
  priorities: readonly FieldWrite[],
): string[] {
  const all = handlersOf(part, signals);
  // A macro that makes a handler declares it too.
  if (all.length === 0 || !part.code.handler.startsWith('void ')) return [];
  const shared = dispatchers(part, all, priorities).map(({ name }) => name);
  return [
    ...reloadDeclarations(part, signals),
    shared.length === 0
      ? '/* Interrupt handlers: the table of vectors must lead to them. */'
      : sharedComment(part, priorities, shared),
    ...all.map((handler) => `${handlerHead(part, anyOf(handler))};`),
    ...shared.map((name) => `void ${name}(void);`),
    '',
  ];
}

/** What the handlers of the vectors have to call where interrupts share them. */
function sharedComment(part: Part, priorities: readonly FieldWrite[], names: readonly string[]): string {
  if (part.cpu.priorities.fields === undefined || priorities.length === 0)
    return '/* Interrupt handlers; the one handler of all interrupts calls interrupts(). */';
  const calls = names.map((name) => {
    const which = name === 'interrupts' ? 'high' : 'low';
    return `the handler of the ${which}-priority vector calls ${name}()`;
  });
  return `/* Interrupt handlers; ${calls.join(', ')}. */`;
}

/** A function through which the interrupts of a level come. */
type Dispatcher = { name: string; handlers: readonly Handler[] };

/** The functions through which all interrupts come, where they share handlers: one, or another one for those of the lower level. */
function dispatchers(part: Part, all: readonly Handler[], priorities: readonly FieldWrite[]): Dispatcher[] {
  if (!sharesHandlers(part.cpu) || all.length === 0) return [];
  const { fields } = part.cpu.priorities;
  const isLow = (handler: Handler): boolean => {
    const place = fields && priorityPlace(fields, anyOf(handler));
    const own = priorities.find(({ register, field }) => `${register}.${field}` === place);
    return own !== undefined && own.value !== (fields?.most ?? 0);
  };
  const levels = [
    { name: 'interrupts', handlers: all.filter((one) => !isLow(one)) },
    { name: 'interrupts_low', handlers: all.filter(isLow) },
  ];
  return levels.filter(({ handlers }) => handlers.length > 0);
}

/** Such a function asks each flag in turn; one of the lower level is interrupted by the other. */
function dispatcherLines(part: Part, name: string, handlers: readonly Handler[]): string[] {
  const tests = handlers.flatMap(({ vector, flags }) => {
    const call = part.code.call.replace('%', vector);
    return flags.map(
      ({ interrupt: { flag, status = flag } }) => `if (${flagExpression(part, status)}) ${call};`,
    );
  });
  return [`void ${name}(void)`, '{', ...indented(tests), '}', ''];
}
