/**
 * Cycles of the instructions of the AVR cores with 16-bit program counters, from the instruction set manual: the least and
 * the most that one takes. Skips and branches are told apart by the listing's reader; `wide` program counters (22 bits) take
 * a cycle more to call and return.
 */
export type InstructionCycles = (mnemonic: string, wide: boolean) => number | undefined;

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
export const SKIPS: ReadonlySet<string> = new Set(['cpse', 'sbrc', 'sbrs', 'sbic', 'sbis']);

/** Whether an instruction branches on a condition: one cycle if it does not, two if it does. */
export function branches(mnemonic: string): boolean {
  return mnemonic.startsWith('br') && mnemonic !== 'break';
}
