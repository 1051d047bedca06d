import { Unreadable, way, type Instruction, type InstructionSet, type Way } from './instruction-set.ts';

/**
 * Cycles of the instructions of the AVR cores with 16-bit program counters, from the instruction set manual: the least and
 * the most that one takes. Skips and branches are distinguished by the listing's reader; `wide` program counters (22 bits) take
 * a cycle more to call and return.
 */
type InstructionCycles = (mnemonic: string, wide: boolean) => number | undefined;

const ONE = (
  'add adc sub subi sbc sbci and andi or ori eor com neg sbr cbr inc dec tst clr ser mov movw ldi in out swap bst bld cp cpc ' +
  'cpi lsl lsr rol ror asr nop cli sei sec clc sen cln sez clz ses cls sev clv set clt seh clh bset bclr wdr sleep'
).split(' ');
const TWO =
  'adiw sbiw mul muls mulsu fmul fmuls fmulsu ld ldd lds st std sts push pop sbi cbi rjmp ijmp'.split(' ');
const THREE = 'jmp lpm elpm'.split(' ');

const CYCLES = new Map<string, number>([
  ...ONE.map((name) => [name, 1] as const),
  ...TWO.map((name) => [name, 2] as const),
  ...THREE.map((name) => [name, 3] as const),
]);

const CALLS = new Map([
  ['rcall', 3],
  ['icall', 3],
  ['call', 4],
  ['ret', 4],
  ['reti', 4],
]);

/** Cycles of an instruction that does not skip or branch on a condition; undefined for one that is not known. */
export const avrCycles: InstructionCycles = (mnemonic, wide) => {
  const call = CALLS.get(mnemonic);
  return call === undefined ? CYCLES.get(mnemonic) : call + (wide ? 1 : 0);
};

/** Instructions that skip the next one if a condition holds. */
const SKIPS: ReadonlySet<string> = new Set(['cpse', 'sbrc', 'sbrs', 'sbic', 'sbis']);

/** Whether an instruction branches on a condition: one cycle if it does not, two if it does. */
function branches(mnemonic: string): boolean {
  return mnemonic.startsWith('br') && mnemonic !== 'break';
}

/** Where a jump leads: to what the linker binds it to, else ".+8" counts from the next instruction. */
function targetOf({ at, bytes, operands, symbol, target }: Instruction): number | undefined {
  if (target !== undefined || symbol !== undefined) return target;
  const by = /\.([+-]\d+)/.exec(operands);
  return by ? at + bytes + Number(by[1]) : undefined;
}

function waysOn(own: Instruction, next: Instruction | undefined, wide: boolean): Way[] {
  const { mnemonic, at, bytes } = own;
  const after = at + bytes;
  if (SKIPS.has(mnemonic)) {
    const skipped = next?.bytes ?? 2;
    return [way(after, 1), way(after + skipped, 1 + skipped / 2)];
  }
  if (branches(mnemonic)) {
    const target = targetOf(own);
    if (target === undefined) throw new Unreadable(`${mnemonic} at ${at.toString(16)} leads nowhere.`);
    return [way(after, 1), way(target, 2)];
  }
  const cycles = avrCycles(mnemonic, wide);
  if (cycles === undefined) throw new Unreadable(`The instruction ${mnemonic} is not known.`);
  if (mnemonic === 'reti') return [way('end', 0)];
  if (mnemonic === 'ret') return [way('end', cycles)];
  if (mnemonic !== 'rjmp' && mnemonic !== 'jmp') return [way(after, cycles)];
  const target = targetOf(own);
  if (target === undefined) throw new Unreadable(`${mnemonic} at ${at.toString(16)} leaves the function.`);
  return [way(target, cycles)];
}

/** The AVR cores; those with more than 128 KiB of flash have `wide` program counters. */
export function avrSet(wide = false): InstructionSet {
  const back = avrCycles('ret', wide) ?? 0;
  return {
    relocation: /: R_AVR_(?:CALL|13_PCREL|7_PCREL)\t(\S+)/,
    ways: (own, next) => waysOn(own, next, wide),
    isCall: ({ mnemonic }) => mnemonic === 'call' || mnemonic === 'rcall',
    back: { min: back, max: back },
  };
}
