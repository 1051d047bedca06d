import type { ProgramSignal } from '../program/signal.ts';
import { identifier, labelsOf } from '../program/names.ts';
import { commentText } from './comment.ts';
import { registerOf } from '../part/find.ts';
import type { Assembly, BitLoop, Part } from '../part/types.ts';
import type { Bits, BitWork } from '../timer/drives/actions.ts';
import { workCycles } from '../timer/drives/bit-loop.ts';
import { driveOf } from '../timer/drives/index.ts';
import { fieldBits } from '../timer/fields.ts';
import { softwarePin } from '../timer/tick.ts';
import { accessOf, bankLines, bankOf, definitionLines } from './pic-assembly.ts';

type Family = Assembly['family'];

/** Carry, in the status register of all families; it is zero after a borrow. */
const CARRY = 0;

/** The registers through which bytes are read, by family. */
const POINTERS: Record<Family, readonly { name: string; address: number }[]> = {
  pic14: [
    { name: 'INDF', address: 0x00 },
    { name: 'FSR', address: 0x04 },
  ],
  pic14e: [
    // The pointer as a whole, as its instruction names it.
    { name: 'FSR0', address: 0x04 },
    { name: 'FSR0L', address: 0x04 },
    { name: 'FSR0H', address: 0x05 },
  ],
  pic18: [
    { name: 'POSTINC0', address: 0xfee },
    { name: 'FSR0L', address: 0xfe9 },
    { name: 'FSR0H', address: 0xfea },
  ],
};

/** Reads the byte that the pointer is at into the one ahead, and moves the pointer on. */
const READ: Record<Family, readonly string[]> = {
  pic14: ['movf INDF, W', 'movwf ahead', 'incf FSR, F'],
  pic14e: ['moviw FSR0++', 'movwf ahead'],
  pic18: ['movff POSTINC0, ahead'],
};

/** Steps that are done once a byte; `left` is the name of the count of bytes, two bytes. */
function workLines(family: Family, work: BitWork, left: string): readonly string[] {
  switch (work) {
    case 'read':
      return READ[family];
    case 'fetch':
      return family === 'pic18' ? ['movff ahead, byte'] : ['movf ahead, W', 'movwf byte'];
    case 'count':
      return family === 'pic18' ? [`decf ${left}, F, ACCESS`] : ['movlw 1', `subwf ${left}, F`];
    case 'carry':
      if (family === 'pic18') return [`btfss STATUS, ${CARRY}, ACCESS`, `decf ${left}+1, F, ACCESS`];
      return family === 'pic14e'
        ? ['movlw 0', `subwfb ${left}+1, F`]
        : ['movlw 1', `btfss STATUS, ${CARRY}`, `subwf ${left}+1, F`];
  }
}

function nops(cycles: number): string[] {
  return Array<string>(cycles).fill('nop');
}

/** The pointer set to the first byte, and that byte taken. */
function beginLines(family: Family, from: string): string[] {
  const begin: Record<Family, string[]> = {
    // The ninth bit of the address is in the status register.
    pic14: [`movf ${from}, W`, 'movwf FSR', 'bcf STATUS, 7', `btfsc ${from}+1, 0`, 'bsf STATUS, 7'],
    pic14e: [`movf ${from}, W`, 'movwf FSR0L', `movf ${from}+1, W`, 'movwf FSR0H'],
    pic18: [`movff ${from}, FSR0L`, `movff ${from}+1, FSR0H`],
  };
  return [...begin[family], ...READ[family], ...workLines(family, 'fetch', '')];
}

/** The function that sends the bytes of a signal, from the first bit, the highest, to the last of the last byte. */
function functionLines(part: Part, family: Family, loop: BitLoop, label: string, bits: Bits): string[] {
  const [key = ''] = Object.keys(softwarePin(part, bits.pin).software.high);
  const [name = '', field = null] = key.split('.');
  const register = registerOf(part, name);
  const { shift } = fieldBits(register, field);
  const access = accessOf(family);
  const left = `_${label}_left`;
  const stretch = (cycles: number, work: readonly BitWork[]): string[] => [
    ...work.flatMap((one) => workLines(family, one, left)),
    ...nops(cycles - work.reduce((sum, one) => sum + workCycles(loop, one), 0)),
  ];
  const bitOf = (bit: number): string[] => {
    const own = bits.work[7 - bit] ?? [];
    const [before, between, after] = bits.pauses.map((cycles, at) =>
      stretch(bit === 0 && at === 2 ? cycles - loop.back : cycles, own[at] ?? []),
    );
    return [
      `bsf ${name}, ${shift}${access}`,
      ...(before ?? []),
      `btfss byte, ${bit}${access}`,
      `bcf ${name}, ${shift}${access}`,
      ...(between ?? []),
      `bcf ${name}, ${shift}${access}`,
      ...(after ?? []),
    ];
  };
  const again = `_${label}_byte`;
  const lines = (all: readonly string[]): string[] => all.map((line) => `        ${line}`);
  return [
    '',
    `; Bytes of ${label}: ${bits.bit} cycles a bit, high for ${bits.zero} in a zero and for ${bits.one} in a one, between writes.`,
    `_${label}_bits`,
    ...lines([
      ...beginLines(family, `_${label}_from`),
      ...bankLines(family, bankOf(family, register.address)),
    ]),
    again,
    ...lines([
      ...[7, 6, 5, 4, 3, 2, 1, 0].flatMap(bitOf),
      `btfsc STATUS, ${CARRY}${access}`,
      `${family === 'pic18' ? 'bra' : 'goto'} ${again}`,
      'return',
      `global _${label}_bits`,
    ]),
  ];
}

/**
 * The assembler file with the loops that send bits, of which every cycle is counted. Undefined where there is none, or the part has no
 * assembler for it.
 */
export function sendAssembly(
  part: Part,
  name: string,
  signals: readonly ProgramSignal[],
): string | undefined {
  const { assembly } = part.code;
  const loop = part.cpu.bitLoop;
  if (!assembly || !loop) return undefined;
  const labels = labelsOf(signals);
  const senders = signals.flatMap(({ name: title, setting }, at) => {
    const bits = driveOf(setting).bits?.(part, setting);
    return bits ? [{ label: labels[at] ?? identifier(title), bits }] : [];
  });
  if (senders.length === 0) return undefined;
  const { family } = assembly;
  const ports = [
    ...new Set(
      senders.flatMap(
        ({ bits }) => Object.keys(softwarePin(part, bits.pin).software.high)[0]?.split('.')[0] ?? [],
      ),
    ),
  ].map((port) => registerOf(part, port));
  return [
    `; ${commentText(name)}: what sends bits on ${part.name}, in cycles that are counted. Interrupts have to wait meanwhile: call it by the C file.`,
    `; Changes W, the status register, the pointer${family === 'pic18' ? '' : ' and the bank'}.`,
    ...definitionLines(assembly, [...POINTERS[family], ...ports]),
    '',
    `        ${family === 'pic18' ? 'udata_acs' : 'udata_shr'}`,
    'byte       res 1',
    'ahead      res 1',
    ...senders.flatMap(({ label }) => [
      `_${label}_from res 2`,
      `_${label}_left res 2`,
      `        global _${label}_from`,
      `        global _${label}_left`,
    ]),
    '',
    '        code',
    ...senders.flatMap(({ label, bits }) => functionLines(part, family, loop, label, bits)),
    '        end',
    '',
  ].join('\n');
}
