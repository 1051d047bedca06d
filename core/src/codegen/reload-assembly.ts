import type { ProgramSignal } from '../program/signal.ts';
import { commentText } from './comment.ts';
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
};

/** The counters of some signals that are reloaded byte by byte, once each. */
export function byteReloads(part: Part, signals: readonly ProgramSignal[]): ByteReload[] {
  const found = signals.flatMap(({ setting }): [string, ByteReload][] => {
    if (!hasTimer(setting)) return [];
    const timer = timerOf(part, setting.timer);
    const { top } = modeOf(timer, setting.mode);
    if (top.kind !== 'reload' || !top.bytes) return [];
    const reload = 2 ** timer.width - (setting.top + 1);
    return [[timer.id, { timer: timer.id, ...top.bytes, reload }]];
  });
  return [...new Map(found).values()];
}

/** What the function is called that reloads a counter in assembler. */
export function reloadName(timer: string): string {
  return `reload_${timer.toLowerCase()}`;
}

/** Carry, in the status register of all families. */
const CARRY = 0;

/**
 * Adds a reload value to a running counter: the lower byte first, as it moves on while the upper one is read. From the read of the
 * lower byte through its write it takes the same cycles whatever is carried.
 */
function reloadLines(family: Assembly['family'], { upper, lower, reload, cycles }: ByteReload): string[] {
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
  const begin = [`movf ${lower}, W${access}`, `addlw ${hexByte(low)}`, `movwf lower_sum${access}`, ...added];
  const end = [`movf lower_sum, W${access}`, `movwf ${lower}${access}`];
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
    const body = [
      ...bankLines(family, bankOf(family, registerOf(part, own.lower).address)),
      ...reloadLines(family, own),
      'return',
    ];
    return [
      '',
      `; ${own.reload} more counts, ${own.cycles} cycles from the read of the lower byte through its write.`,
      `${label}`,
      ...body.map((line) => `        ${line}`),
      `        global ${label}`,
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
    'lower_sum  res 1',
    '',
    '        code',
    ...functions,
    '        end',
    '',
  ].join('\n');
}
