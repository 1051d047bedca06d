import type { Interrupt, Part } from '../part/types.ts';
import { modeOf, registerOf, timerOf } from '../part/find.ts';
import { placeOf } from '../timer/encode.ts';
import { captureCounts, resolveCapture } from '../timer/capture.ts';
import { resolveSoftware, softwarePin } from '../timer/software.ts';
import { isOutput, type CaptureSetting, type InterruptDriven, type Setting } from '../timer/setting.ts';
import { identifier, labelsOf, type CodeSignal } from './names.ts';
import { changes, hasHeaders, hexText, plainWrites } from './statement.ts';

/** A stretch of a handler: which interrupt it belongs to, and its lines. */
type Piece = { interrupt: Interrupt; lines: string[] };

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

/** What a setting has its interrupts do. A toggled pin declares its level before anything else in its block. */
function piecesOf(part: Part, label: string, setting: InterruptDriven): Piece[] {
  const { tick, match } = resolveSoftware(part, setting);
  if (setting.drive === 'interrupt-pair') {
    return [
      { interrupt: tick, lines: high(part, setting.pin) },
      ...(match ? [{ interrupt: match.interrupt, lines: low(part, setting.pin) }] : []),
    ];
  }
  if (setting.drive === 'software-pwm') {
    const { pin, compare, divider } = setting;
    return [{ interrupt: tick, lines: counted(part, label, pin, compare, divider) }];
  }
  const action = setting.pin === undefined ? [`${label}_tick();`] : toggled(part, label, setting.pin);
  return [{ interrupt: tick, lines: every(label, setting.divider, action) }];
}

/** The difference of two captured counts, around the end of the counter's run where it lies between them. */
function capturePiece(part: Part, label: string, setting: CaptureSetting): Piece {
  const resolved = resolveCapture(part, setting);
  const { capture, timer } = resolved;
  const type = timer.width > 16 ? 'uint32_t' : 'uint16_t';
  const [low = '', high] = capture.value;
  const now = high === undefined ? low : `${low} | ((uint16_t)${high} << 8)`;
  const counts = captureCounts(resolved);
  const whole = counts === 2 ** (timer.width > 16 ? 32 : 16);
  const lines = [
    `static ${type} ${label}_last;`,
    `${type} ${label}_now = (${type})(${now});`,
    whole
      ? `${label}_counts = (${type})(${label}_now - ${label}_last);`
      : `${label}_counts = ${label}_now + (${label}_now < ${label}_last ? ${counts}u : 0u) - ${label}_last;`,
    `${label}_last = ${label}_now;`,
  ];
  return { interrupt: capture.interrupt, lines };
}

/** The statement that takes an interrupt's flag away, where the hardware does not. */
function clearFlag(part: Part, { flag, clear }: Interrupt): string[] {
  if (clear === 'entry' || clear === 'none') return [];
  const [name = '', field = null] = flag.split('.');
  const { mask } = placeOf(registerOf(part, name), field);
  const bits = hasHeaders(part) && field !== null ? `(1 << ${field})` : hexText(mask);
  if (clear === 'read') return [`(void)${name};`];
  return [clear === 'write-one' ? `${name} = ${bits};` : `${name} &= ~${bits};`];
}

/** What a handler does first for the counter: adds the reload value, or moves the match on. */
function keepRunning(part: Part, setting: InterruptDriven): string[] {
  const timer = timerOf(part, setting.timer);
  const { top } = modeOf(timer, setting.mode);
  if (top.kind === 'moved') return Object.keys(top.writes).map((name) => `${name} += ${setting.top + 1}u;`);
  if (top.kind !== 'reload') return [];
  const reload = 2 ** timer.width - (setting.top + 1);
  const [first = '', second] = Object.keys(top.writes);
  if (second === undefined) return [`${first} += ${reload}u;`];
  const order = timer.sequence.map((step) => step.register).filter((name) => name in top.writes);
  const [upper = '', lower = ''] = order;
  return [
    `uint16_t count = (uint16_t)(${lower} | ((uint16_t)${upper} << 8)) + ${reload}u;`,
    `${upper} = (uint8_t)(count >> 8);`,
    `${lower} = (uint8_t)count;`,
  ];
}

function interruptsOf(part: Part, setting: Setting): Interrupt[] {
  if (isOutput(setting) || setting.drive === 'delay-loop') return [];
  if (setting.drive === 'capture') return [resolveCapture(part, setting).capture.interrupt];
  const { tick, match } = resolveSoftware(part, setting);
  return [tick, ...(match ? [match.interrupt] : [])];
}

/** Lets the interrupts of the settings happen, with the flags cleared that starting the timers may have set. */
export function enableLines(part: Part, signals: readonly CodeSignal[]): string[] {
  const interrupts = signals.flatMap(({ setting }) => interruptsOf(part, setting));
  if (interrupts.length === 0) return [];
  const cleared = [...new Set(interrupts.flatMap((one) => clearFlag(part, one)))];
  const enabled = changes(part, plainWrites(interrupts.map((one) => one.enable)));
  return ['', '/* Interrupts. */', ...cleared, ...enabled, part.code.allow];
}

function delayLoopLines(
  part: Part,
  label: string,
  setting: Extract<Setting, { drive: 'delay-loop' }>,
): string[] {
  const wait = (passes: number): string =>
    `for (uint32_t pass = 0; pass < ${passes}u; pass += 1) __asm volatile ("");`;
  return [
    `/* Each pass is meant to take ${part.cpu.loopCycles} cycles; what it takes depends on the compiler: measure it. */`,
    `void ${label}_period(void)`,
    '{',
    ...indented([
      ...high(part, setting.pin),
      wait(setting.compare),
      ...low(part, setting.pin),
      wait(setting.top - setting.compare),
    ]),
    '}',
    '',
  ];
}

/** What happens at one flag: how it is cleared, and what all signals that use it do. */
type AtFlag = { interrupt: Interrupt; lines: string[] };

/** By vector and flag, what the handlers do. */
function gather(part: Part, signals: readonly CodeSignal[]): Map<string, Map<string, AtFlag>> {
  const labels = labelsOf(signals);
  const vectors = new Map<string, Map<string, AtFlag>>();
  signals.forEach(({ name, setting }, at) => {
    if (isOutput(setting) || setting.drive === 'delay-loop') return;
    const label = labels[at] ?? identifier(name);
    const pieces =
      setting.drive === 'capture' ? [capturePiece(part, label, setting)] : piecesOf(part, label, setting);
    pieces.forEach(({ interrupt, lines }, piece) => {
      const flags = vectors.get(interrupt.vector) ?? new Map<string, AtFlag>();
      vectors.set(interrupt.vector, flags);
      const runs = piece === 0 && setting.drive !== 'capture' ? keepRunning(part, setting) : [];
      const first = [...clearFlag(part, interrupt), ...runs];
      const own = flags.get(interrupt.flag) ?? { interrupt, lines: first };
      flags.set(interrupt.flag, own);
      own.lines.push(...lines);
    });
  });
  return vectors;
}

function flagTest(part: Part, flag: string): string {
  const [name = '', field = null] = flag.split('.');
  const { mask } = placeOf(registerOf(part, name), field);
  return `if (${name} & ${hasHeaders(part) && field !== null ? `(1 << ${field})` : hexText(mask)})`;
}

/** The handlers of all interrupts the settings need, one for each vector, and the functions of delay loops. */
export function handlerLines(part: Part, signals: readonly CodeSignal[]): string[] {
  const vectors = gather(part, signals);
  const handlers = [...vectors].flatMap(([vector, flags]) => {
    const pieces = [...flags].flatMap(([flag, { lines }]) =>
      flags.size === 1 ? lines : block(`${flagTest(part, flag)} {`, lines),
    );
    return [part.code.handler.replace('%', vector), '{', ...indented(pieces), '}', ''];
  });
  const labels = labelsOf(signals);
  const loops = signals.flatMap(({ name, setting }, at) =>
    setting.drive === 'delay-loop' ? delayLoopLines(part, labels[at] ?? identifier(name), setting) : [],
  );
  const readings = signals.flatMap(({ name, setting }, at) =>
    setting.drive === 'capture' ? [`volatile uint32_t ${labels[at] ?? identifier(name)}_counts;`, ''] : [],
  );
  return [...readings, ...handlers, ...loops, ...dispatcher(part, vectors)];
}

/** Where all interrupts come through one handler, it asks each flag in turn. */
function dispatcher(part: Part, vectors: ReadonlyMap<string, ReadonlyMap<string, AtFlag>>): string[] {
  if (part.cpu.priorities.scheme !== 'single' || vectors.size === 0) return [];
  const tests = [...vectors].flatMap(([vector, flags]) => {
    const call = part.code.handler.replace('%', vector).replace('void ', '').replace('(void)', '()');
    return [...flags.keys()].map((flag) => `${flagTest(part, flag)} ${call};`);
  });
  const head = '/* To be called by the one handler of all interrupts. */';
  return [head, 'void interrupts(void)', '{', ...indented(tests), '}', ''];
}
