import type { ProgramSignal } from '../program/signal.ts';
import { commentText } from './comment.ts';
import { divisionOf } from '../part/division.ts';
import { modeOf, registerOf, timerOf } from '../part/find.ts';
import type { Assembly, Part } from '../part/types.ts';
import { hasTimer } from '../timer/setting.ts';
import { accessOf, bankLines, bankOf, definitionLines, hexByte } from './pic-assembly.ts';

/** A counter of two bytes that its interrupt reloads: its registers, the value it adds, and the cycles that this must take. */
export type ByteReload = {
  timer: string;
  upper: string;
  lower: string;
  reload: number;
  cycles: number;
  /** Counts before the end of the lower byte from which on the reload waits; 0 where the bytes are read and written as one. */
  guard: number;
};

/** Cycles from the look at the lower byte, whether it is near its end, to the read that counts. */
const LOOK = 4;

/** The counters of some signals that are reloaded byte by byte, once each. */
export function byteReloads(part: Part, signals: readonly ProgramSignal[]): ByteReload[] {
  const found = signals.flatMap(({ setting }): [string, ByteReload][] => {
    if (!hasTimer(setting)) return [];
    const timer = timerOf(part, setting.timer);
    const { top } = modeOf(timer, setting.mode);
    if (top.kind !== 'reload' || !top.bytes) return [];
    const reload = 2 ** timer.width - (setting.top + 1);
    const { upper, lower, cycles, latched } = top.bytes;
    const { n, scale } = divisionOf(timer.prescaler, setting.prescaler) ?? { n: 1, scale: 1 };
    const passed = Math.ceil(((LOOK + cycles) * scale) / n) + (n > scale ? 1 : 0);
    const guard = latched ? 0 : passed;
    return [[timer.id, { timer: timer.id, upper, lower, cycles, reload, guard }]];
  });
  return [...new Map(found).values()];
}

/** What the function is called that reloads a counter in assembler. */
export function reloadName(timer: string): string {
  return `reload_${timer.toLowerCase()}`;
}

/** The variable that keeps the lower byte of a sum. */
function sumName({ timer }: ByteReload): string {
  return `lower_${timer.toLowerCase()}`;
}

/** Carry, in the status register of all families. */
const CARRY = 0;

/**
 * Waits while the lower byte is so near its end that it would pass it between the read of one byte and the write of the other: what is
 * added would be 256 counts off. The counter runs on, so that nothing is lost.
 */
function guardLines(family: Assembly['family'], { timer, lower, guard }: ByteReload): string[] {
  if (guard === 0) return [];
  const label = `look${timer.toLowerCase()}`;
  const access = accessOf(family);
  const jump = family === 'pic18' ? 'bra' : 'goto';
  const look = [`movf ${lower}, W${access}`, `addlw ${hexByte(guard)}`];
  return [label, ...[...look, `btfsc STATUS, ${CARRY}${access}`, `${jump} ${label}`].map(indented)];
}

function indented(line: string): string {
  return `        ${line}`;
}

/**
 * Adds a reload value to a running counter: the lower byte first, as it moves on while the upper one is read. From the read of the
 * lower byte through its write it takes the same cycles whatever is carried.
 */
function reloadLines(family: Assembly['family'], own: ByteReload): string[] {
  const { upper, lower, reload, cycles } = own;
  const sum = sumName(own);
  const [high, low] = [Math.floor(reload / 256), reload % 256];
  const access = accessOf(family);
  const added =
    family === 'pic14'
      ? [
          `movlw ${hexByte(high)}`,
          `btfsc STATUS, ${CARRY}`,
          `movlw ${hexByte((high + 1) % 256)}`,
          `addwf ${upper}, F`,
        ]
      : [`movlw ${hexByte(high)}`, `addwfc ${upper}, F${access}`];
  const begin = [`movf ${lower}, W${access}`, `addlw ${hexByte(low)}`, `movwf ${sum}${access}`, ...added];
  const end = [`movf ${sum}, W${access}`, `movwf ${lower}${access}`];
  const waits = Array.from({ length: cycles - begin.length - end.length }, () => 'nop');
  return [...begin, ...waits, ...end];
}

/**
 * The assembler file with a function for each counter that is reloaded byte by byte, in the cycles that its period counts with.
 * Undefined where there is none, or the part has no assembler for it.
 */
export function reloadAssembly(
  part: Part,
  name: string,
  signals: readonly ProgramSignal[],
): string | undefined {
  const { assembly } = part.code;
  const reloads = byteReloads(part, signals);
  if (!assembly || reloads.length === 0) return undefined;
  const { family } = assembly;
  const names = [...new Set(reloads.flatMap(({ upper, lower }) => [upper, lower]))];
  const functions = reloads.flatMap((own) => {
    const label = `_${reloadName(own.timer)}`;
    const bank = bankLines(family, bankOf(family, registerOf(part, own.lower).address));
    return [
      '',
      `; ${own.reload} more counts, ${own.cycles} cycles from the read of the lower byte through its write.`,
      `${label}`,
      ...bank.map(indented),
      ...guardLines(family, own),
      ...[...reloadLines(family, own), 'return', `global ${label}`].map(indented),
    ];
  });
  return [
    `; ${commentText(name)}: what the interrupts of ${part.name} do first, in cycles that are counted.`,
    `; Changes W, the status register${family === 'pic18' ? '' : ' and the bank'}.`,
    ...definitionLines(
      assembly,
      names.map((register) => registerOf(part, register)),
    ),
    '',
    `        ${family === 'pic18' ? 'udata_acs' : 'udata_shr'}`,
    // One to a counter: a handler of a higher level may come between.
    ...reloads.map((own) => `${sumName(own).padEnd(10)} res 1`),
    '',
    '        code',
    ...functions,
    '        end',
    '',
  ].join('\n');
}
