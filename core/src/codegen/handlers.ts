import type { Interrupt, Part } from '../part/types.ts';
import { modeOf, registerOf, timerOf } from '../part/find.ts';
import { driveOf, isInput, type Action, type Loop } from '../timer/drives/index.ts';
import { placeOf } from '../timer/fields.ts';
import { hasTimer, type Setting, type TimerSetting } from '../timer/setting.ts';
import { softwarePin } from '../timer/tick.ts';
import { commentText, identifier, labelsOf, type CodeSignal } from './names.ts';
import { byName, changes, hexText, plainWrites } from './statement.ts';

function high(part: Part, pin: string): string[] {
  return changes(part, plainWrites([softwarePin(part, pin).software.high]));
}

function low(part: Part, pin: string): string[] {
  return changes(part, plainWrites([softwarePin(part, pin).software.low]));
}

function indented(lines: readonly string[]): string[] {
  return lines.map((line) => `    ${line}`);
}

function block(head: string, lines: readonly string[]): string[] {
  return [head, ...indented(lines), '}'];
}

function either(test: string, yes: readonly string[], no: readonly string[]): string[] {
  return [`if (${test}) {`, ...indented(yes), '} else {', ...indented(no), '}'];
}

function every(label: string, divider: number, lines: readonly string[]): string[] {
  if (divider === 1) return [...lines];
  return [
    `static uint32_t ${label}_count;`,
    ...block(`if (++${label}_count >= ${divider}u) {`, [`${label}_count = 0;`, ...lines]),
  ];
}

function toggled(part: Part, label: string, pin: string): string[] {
  return [
    `static uint8_t ${label}_level;`,
    `${label}_level ^= 1u;`,
    ...either(`${label}_level`, high(part, pin), low(part, pin)),
  ];
}

function counted(part: Part, label: string, pin: string, compare: number, divider: number): string[] {
  return [
    `static uint32_t ${label}_count;`,
    ...either(`${label}_count < ${compare}u`, high(part, pin), low(part, pin)),
    `if (++${label}_count >= ${divider}u) ${label}_count = 0;`,
  ];
}

/**
 * The difference of two captured counts, around the end of the counter's run where it lies between them. The first edge has
 * none before it.
 */
function measured(label: string, { registers, width, counts }: Extract<Action, { do: 'measure' }>): string[] {
  const type = width > 16 ? 'uint32_t' : 'uint16_t';
  const [lower = '', upper] = registers;
  const now = upper === undefined ? lower : `${lower} | ((uint16_t)${upper} << 8)`;
  const whole = counts === 2 ** (width > 16 ? 32 : 16);
  return [
    `static ${type} ${label}_last;`,
    `static uint8_t ${label}_seen;`,
    `${type} ${label}_now = (${type})(${now});`,
    whole
      ? `if (${label}_seen) ${label}_counts = (${type})(${label}_now - ${label}_last);`
      : `if (${label}_seen) ${label}_counts = ${label}_now + (${label}_now < ${label}_last ? ${counts}u : 0u) - ${label}_last;`,
    `${label}_seen = 1u;`,
    `${label}_last = ${label}_now;`,
  ];
}

/** An action as statements. A toggled pin declares its level before anything else in its block. */
function actionLines(part: Part, label: string, action: Action): string[] {
  switch (action.do) {
    case 'level':
      return action.high ? high(part, action.pin) : low(part, action.pin);
    case 'toggle':
      return every(label, action.every, toggled(part, label, action.pin));
    case 'count':
      return counted(part, label, action.pin, action.highFor, action.of);
    case 'call':
      return every(label, action.every, [`${label}_tick();`]);
    case 'measure':
      return measured(label, action);
  }
}

/** The statement that takes a flag away by software. */
function clearStatement(
  part: Part,
  flag: string,
  how: 'write-one' | 'write-zero' | 'write-zeros' | 'read',
): string {
  const [name = '', field = null] = flag.split('.');
  const register = registerOf(part, name);
  const { mask } = placeOf(register, field);
  const bits = byName(part) && field !== null ? `(1 << ${field})` : hexText(mask);
  if (how === 'read') return `(void)${name};`;
  if (how === 'write-one') return `${name} = ${bits};`;
  const others = `(uint${register.width}_t)~${bits}`;
  return how === 'write-zeros' ? `${name} = ${others};` : `${name} &= ${others};`;
}

/** The statement that takes an interrupt's flag away in its handler, where the hardware does not. */
function clearFlag(part: Part, { flag, clear }: Interrupt): string[] {
  if (clear === 'entry' || clear === 'entry-or-one' || clear === 'none') return [];
  return [clearStatement(part, flag, clear)];
}

/** The statement that takes a flag away before its interrupt is enabled; starting the timer may have set it. */
function clearFirst(part: Part, interrupt: Interrupt): string[] {
  return interrupt.clear === 'entry-or-one'
    ? [clearStatement(part, interrupt.flag, 'write-one')]
    : clearFlag(part, interrupt);
}

/** What a handler does first for the counter: adds the reload value, or moves the match on. */
function keepRunning(part: Part, setting: TimerSetting): string[] {
  const timer = timerOf(part, setting.timer);
  const { top } = modeOf(timer, setting.mode);
  if (top.kind === 'moved') return Object.keys(top.writes).map((name) => `${name} += ${setting.top + 1}u;`);
  if (top.kind !== 'reload') return [];
  const reload = 2 ** timer.width - (setting.top + 1);
  if (!top.bytes) return Object.keys(top.writes).map((name) => `${name} += ${reload}u;`);
  const { upper, lower } = top.bytes;
  return [
    `uint16_t count = (uint16_t)(${lower} | ((uint16_t)${upper} << 8)) + ${reload}u;`,
    `${upper} = (uint8_t)(count >> 8);`,
    `${lower} = (uint8_t)count;`,
  ];
}

function interruptsOf(part: Part, setting: Setting): Interrupt[] {
  return driveOf(setting)
    .handlers(part, setting)
    .map(({ interrupt }) => interrupt);
}

/**
 * Lets the interrupts of the settings happen, with the flags cleared that starting the timers may have set. Whether the
 * processor takes interrupts at all is left to the program, unless `allow` is set.
 */
export function enableLines(part: Part, signals: readonly CodeSignal[], allow: boolean): string[] {
  const interrupts = signals.flatMap(({ setting }) => interruptsOf(part, setting));
  if (interrupts.length === 0) return [];
  const cleared = [...new Set(interrupts.flatMap((one) => clearFirst(part, one)))];
  const enabled = changes(part, plainWrites(interrupts.map((one) => one.enable)));
  const last = allow
    ? part.code.allow
    : `/* They come once the program lets them: ${commentText(part.code.allow.replace(/\/\*.*/, '').trim())} */`;
  return ['', '/* Interrupts. */', ...cleared, ...enabled, ...(part.code.allow === '' ? [] : [last])];
}

/** The most passes that a counter of 16 bits makes. */
const MOST_PASSES = 65_535;

/** Statements that wait for so many passes of the part's loop. */
function waitLines(part: Part, passes: number): string[] {
  if (part.code.assembler !== 'avr') {
    return [`for (uint32_t pass = 0; pass < ${passes}u; pass += 1) __asm volatile ("");`];
  }
  // Two cycles each: sbiw counts down, brne goes back.
  const loop = (count: number): string[] =>
    count === 0
      ? []
      : block('{', [
          `uint16_t pass = ${count}u;`,
          '__asm__ __volatile__ ("1: sbiw %0, 1\\n\\tbrne 1b" : "+w" (pass));',
        ]);
  const whole = Math.floor(passes / MOST_PASSES);
  const rest = loop(passes % MOST_PASSES);
  if (whole === 0) return rest;
  return [...block(`for (uint16_t block = 0; block < ${whole}u; block += 1) {`, loop(MOST_PASSES)), ...rest];
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

/** What happens at one flag: how it is cleared, and what all signals that use it do. */
type AtFlag = { interrupt: Interrupt; lines: string[] };

/** The head of a handler: "void TIM2_IRQHandler(void)". */
function handlerHead(part: Part, { vector, handler }: Interrupt): string {
  return handler === undefined ? part.code.handler.replace('%', vector) : `void ${handler}(void)`;
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
  signals.forEach(({ name, setting }, at) => {
    const label = labels[at] ?? identifier(name);
    for (const { interrupt, keepsRunning, actions } of driveOf(setting).handlers(part, setting)) {
      const flags = vectors.get(interrupt.vector) ?? new Map<string, AtFlag>();
      vectors.set(interrupt.vector, flags);
      const runs = keepsRunning && hasTimer(setting) ? keepRunning(part, setting) : [];
      const first = [...clearFlag(part, interrupt), ...runs];
      const own = flags.get(interrupt.flag) ?? { interrupt, lines: first };
      flags.set(interrupt.flag, own);
      own.lines.push(...actions.flatMap((action) => actionLines(part, label, action)));
    }
  });
  return vectors;
}

function flagTest(part: Part, flag: string): string {
  const [name = '', field = null] = flag.split('.');
  const { mask } = placeOf(registerOf(part, name), field);
  return `if (${name} & ${byName(part) && field !== null ? `(1 << ${field})` : hexText(mask)})`;
}

/** The handlers of all interrupts the settings need, one for each vector, and the functions of delay loops. */
export function handlerLines(part: Part, signals: readonly CodeSignal[]): string[] {
  const vectors = gather(part, signals);
  const handlers = [...vectors.values()].flatMap((flags) => {
    const pieces = [...flags].flatMap(([flag, { lines }]) =>
      flags.size === 1 ? lines : block(`${flagTest(part, flag)} {`, lines),
    );
    return [handlerHead(part, anyOf(flags)), '{', ...indented(pieces), '}', ''];
  });
  const labels = labelsOf(signals);
  const loops = signals.flatMap(({ name, setting }, at) => {
    const loop = driveOf(setting).loop?.(setting);
    return loop ? loopLines(part, labels[at] ?? identifier(name), loop) : [];
  });
  const readings = signals.flatMap(({ name, setting }, at) =>
    isInput(setting) ? [`volatile uint32_t ${labels[at] ?? identifier(name)}_counts;`, ''] : [],
  );
  return [...readings, ...handlers, ...loops, ...dispatcher(part, vectors)];
}

/** Declarations of the handlers, for the program's table of vectors; where one handler is all, of what it calls. */
export function handlerDeclarations(part: Part, signals: readonly CodeSignal[]): string[] {
  const vectors = gather(part, signals);
  // A macro that makes a handler declares it too.
  if (vectors.size === 0 || !part.code.handler.startsWith('void ')) return [];
  const handlers = [...vectors.values()].map((flags) => `${handlerHead(part, anyOf(flags))};`);
  const single = part.cpu.priorities.scheme === 'single';
  return [
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
    return [...flags.keys()].map((flag) => `${flagTest(part, flag)} ${call};`);
  });
  return ['void interrupts(void)', '{', ...indented(tests), '}', ''];
}
