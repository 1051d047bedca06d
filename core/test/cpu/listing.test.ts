import { cyclesInListing } from '../../src/cpu/listing.ts';

/** A listing line: address, bytes, mnemonic, operands. */
function line(at: number, bytes: number, mnemonic: string, operands = ''): string {
  const shown = Array.from({ length: bytes }, () => '00').join(' ');
  return `  ${at.toString(16).padStart(2, ' ')}:\t${shown} \t${mnemonic}${operands ? `\t${operands}` : ''}`;
}

function listing(name: string, lines: readonly string[]): string {
  return [`00000000 <${name}>:`, ...lines, ''].join('\n');
}

const PUSHED = [
  line(0, 2, 'push', 'r24'),
  line(2, 2, 'in', 'r24, 0x3f\t; 63'),
  line(4, 2, 'push', 'r24'),
  line(6, 4, 'lds', 'r24, 0x0100'),
];

describe('cycles of a disassembly', () => {
  it('adds up a straight handler: 2 + 1 + 2 + 2 and 2 + 1 + 2, the return not counted', () => {
    const text = listing('h', [
      ...PUSHED,
      line(10, 2, 'pop', 'r24'),
      line(12, 2, 'out', '0x3f, r24'),
      line(14, 2, 'pop', 'r24'),
      line(16, 2, 'reti'),
    ]);
    expect(cyclesInListing(text, 'h')).toEqual({ ok: true, value: { min: 12, max: 12, calls: [] } });
  });

  it('takes the shorter and the longer way at a branch: 7 + 2, or 7 + 1 + 2 + 1', () => {
    const text = listing('h', [
      ...PUSHED,
      line(10, 2, 'brne', '.+4      \t; 0x10 <h+0x10>'),
      line(12, 2, 'sbi', '0x05, 5'),
      line(14, 2, 'nop'),
      line(16, 2, 'reti'),
    ]);
    expect(cyclesInListing(text, 'h')).toEqual({ ok: true, value: { min: 9, max: 11, calls: [] } });
  });

  it('follows what the linker will bind a branch to', () => {
    // 1 and over the sts (2 + 2), or 2: the assembler leaves ".+0" in the operand.
    const text = listing('h', [
      `${line(0, 2, 'brcc', '.+0      \t; 0x2 <h+0x2>')}\n\t\t\t0: R_AVR_7_PCREL\t.text+0x6`,
      line(2, 4, 'sts', '0x0100, r24'),
      line(6, 2, 'reti'),
    ]);
    expect(cyclesInListing(text, 'h')).toEqual({ ok: true, value: { min: 2, max: 3, calls: [] } });
  });

  it('skips an instruction of two words in three cycles', () => {
    // sbrc 1 and lds 2, or sbrc 3.
    const text = listing('h', [
      line(0, 2, 'sbrc', 'r24, 3'),
      line(2, 4, 'lds', 'r24, 0x0100'),
      line(6, 2, 'reti'),
    ]);
    expect(cyclesInListing(text, 'h')).toEqual({ ok: true, value: { min: 3, max: 3, calls: [] } });
  });

  it('counts a function it has, and a call and a return for one it has not', () => {
    const callee = listing('inner', [line(32, 2, 'nop'), line(34, 2, 'ret')]);
    const call = `${line(0, 4, 'call', '0\t; 0x0 <h>')}\n\t\t\t0: R_AVR_CALL\tinner`;
    const other = `${line(4, 4, 'call', '0\t; 0x0 <h>')}\n\t\t\t4: R_AVR_CALL\tbeat_tick`;
    const text = `${listing('h', [call, other, line(8, 2, 'reti')])}${callee}`;
    // call 4 + nop 1 + ret 4, then call 4 + ret 4.
    expect(cyclesInListing(text, 'h')).toEqual({
      ok: true,
      value: { min: 17, max: 17, calls: ['beat_tick'] },
    });
    expect(cyclesInListing(text, 'h', true)).toEqual({
      ok: true,
      value: { min: 21, max: 21, calls: ['beat_tick'] },
    });
  });

  it('refuses loops, unknown instructions and missing functions with a sentence', () => {
    const loop = listing('h', [line(0, 2, 'nop'), line(2, 2, 'rjmp', '.-4      \t; 0x0 <h>')]);
    const sentence = (text: string, name: string): string => {
      const read = cyclesInListing(text, name);
      return read.ok ? '' : read.fault.sentence;
    };
    expect(sentence(loop, 'h')).toBe('h has a loop, which has no bound.');
    expect(sentence(listing('h', [line(0, 2, 'frob')]), 'h')).toBe('The instruction frob is not known.');
    expect(sentence(loop, 'other')).toBe('There is no other in the listing.');
  });
});
