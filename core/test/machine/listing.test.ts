import { avrSet } from '../../src/machine/avr-cycles.ts';
import { thumbSet } from '../../src/machine/thumb-cycles.ts';
import { cyclesInListing } from '../../src/machine/listing.ts';

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
    expect(cyclesInListing(text, 'h', avrSet())).toEqual({
      ok: true,
      value: { min: 12, max: 12, calls: [], waits: [] },
    });
  });

  it('takes the shorter and the longer way at a branch: 7 + 2, or 7 + 1 + 2 + 1', () => {
    const text = listing('h', [
      ...PUSHED,
      line(10, 2, 'brne', '.+4      \t; 0x10 <h+0x10>'),
      line(12, 2, 'sbi', '0x05, 5'),
      line(14, 2, 'nop'),
      line(16, 2, 'reti'),
    ]);
    expect(cyclesInListing(text, 'h', avrSet())).toEqual({
      ok: true,
      value: { min: 9, max: 11, calls: [], waits: [] },
    });
  });

  it('follows what the linker will bind a branch to', () => {
    // 1 and over the sts (2 + 2), or 2: the assembler leaves ".+0" in the operand.
    const text = listing('h', [
      `${line(0, 2, 'brcc', '.+0      \t; 0x2 <h+0x2>')}\n\t\t\t0: R_AVR_7_PCREL\t.text+0x6`,
      line(2, 4, 'sts', '0x0100, r24'),
      line(6, 2, 'reti'),
    ]);
    expect(cyclesInListing(text, 'h', avrSet())).toEqual({
      ok: true,
      value: { min: 2, max: 3, calls: [], waits: [] },
    });
  });

  it('skips an instruction of two words in three cycles', () => {
    // sbrc 1 and lds 2, or sbrc 3.
    const text = listing('h', [
      line(0, 2, 'sbrc', 'r24, 3'),
      line(2, 4, 'lds', 'r24, 0x0100'),
      line(6, 2, 'reti'),
    ]);
    expect(cyclesInListing(text, 'h', avrSet())).toEqual({
      ok: true,
      value: { min: 3, max: 3, calls: [], waits: [] },
    });
  });

  it('counts a function it has, and a call and a return for one it has not', () => {
    const callee = listing('inner', [line(32, 2, 'nop'), line(34, 2, 'ret')]);
    const call = `${line(0, 4, 'call', '0\t; 0x0 <h>')}\n\t\t\t0: R_AVR_CALL\tinner`;
    const other = `${line(4, 4, 'call', '0\t; 0x0 <h>')}\n\t\t\t4: R_AVR_CALL\tbeat_tick`;
    const text = `${listing('h', [call, other, line(8, 2, 'reti')])}${callee}`;
    // call 4 + nop 1 + ret 4, then call 4 + ret 4.
    expect(cyclesInListing(text, 'h', avrSet())).toEqual({
      ok: true,
      value: { min: 17, max: 17, calls: ['beat_tick'], waits: [] },
    });
    expect(cyclesInListing(text, 'h', avrSet(true))).toEqual({
      ok: true,
      value: { min: 21, max: 21, calls: ['beat_tick'], waits: [] },
    });
  });

  it('refuses loops, unknown instructions and missing functions with a sentence', () => {
    const loop = listing('h', [line(0, 2, 'nop'), line(2, 2, 'rjmp', '.-4      \t; 0x0 <h>')]);
    const sentence = (text: string, name: string): string => {
      const read = cyclesInListing(text, name, avrSet());
      return read.ok ? '' : read.fault.sentence;
    };
    expect(sentence(loop, 'h')).toBe('h has a loop that never ends.');
    expect(sentence(listing('h', [line(0, 2, 'frob')]), 'h')).toBe('The instruction frob is not known.');
    expect(sentence(loop, 'other')).toBe('There is no other in the listing.');
  });
});

/** A line as the binary utilities print Thumb code. */
function thumb(at: number, bytes: string, mnemonic: string, operands = ''): string {
  return `  ${at.toString(16)}:\t${bytes} \t${mnemonic}\t${operands}`;
}

describe('cycles of Thumb code', () => {
  // By hand for Cortex-M0+: movs 1, ldr 2, push of two 3, str 2, cmp 1, branch 1 or 2, bl 3, pop of two with pc 3.
  const counter = [
    thumb(0, '2201     ', 'movs', 'r2, #1'),
    thumb(2, '4b06     ', 'ldr', 'r3, [pc, #24]\t@ (1c <h+0x1c>)'),
    thumb(4, 'b510     ', 'push', '{r4, lr}'),
    thumb(6, '601a     ', 'str', 'r2, [r3, #0]'),
    thumb(8, '2b00     ', 'cmp', 'r3, #0'),
    thumb(10, 'd101     ', 'bne.n', '10 <h+0x10>'),
    `${thumb(12, 'f7ff fffe', 'bl', '0 <beat_tick>')}\n\t\t\tc: R_ARM_THM_CALL\tbeat_tick`,
    thumb(16, 'bd10     ', 'pop', '{r4, pc}'),
    thumb(18, '46c0     ', 'nop'),
    thumb(20, '4200282c ', '.word', '0x4200282c'),
  ];

  it('Cortex-M0+: 9 and the branch over the call 2, or 1 and the call 3 with its return 2; then 3', () => {
    expect(cyclesInListing(listing('h', counter), 'h', thumbSet('cortex-m0plus'))).toEqual({
      ok: true,
      value: { min: 14, max: 18, calls: ['beat_tick'], waits: [] },
    });
  });

  it('Cortex-M4 refills in 1 to 3 cycles and hides a load behind another', () => {
    // 1 + 1 + 3 + 1 + 1, 1 + 2 + 2, 3 at least would pass the call; the least is over it: 7 + 2 + 3.
    const read = cyclesInListing(listing('h', counter), 'h', thumbSet('cortex-m4'));
    // 1 + 2 + 3 + 2 + 1, 1 + 4 + 4, 3.
    expect(read).toEqual({ ok: true, value: { min: 12, max: 21, calls: ['beat_tick'], waits: [] } });
  });

  it('takes a jump to the user’s function as a call whose return is its own, and IT blocks both ways', () => {
    const lines = [
      thumb(0, 'bf18     ', 'it', 'ne'),
      thumb(2, '4770     ', 'bxne', 'lr'),
      `${thumb(4, 'f7ff bffe', 'b.w', '0 <beat_tick>')}\n\t\t\t4: R_ARM_THM_JUMP24\tbeat_tick`,
    ];
    // it 1 and the return from the interrupt, or it 1, passed over 1, jump 2 to 4 and the return 2 to 4.
    expect(cyclesInListing(listing('h', lines), 'h', thumbSet('cortex-m4'))).toEqual({
      ok: true,
      value: { min: 1, max: 10, calls: ['beat_tick'], waits: [] },
    });
  });

  it('passes a wait for a peripheral once, and names it', () => {
    const lines = [
      thumb(0, '681a     ', 'ldr', 'r2, [r3, #0]'),
      thumb(2, '2a00     ', 'cmp', 'r2, #0'),
      thumb(4, 'd1fc     ', 'bne.n', '0 <h>'),
      thumb(6, '4770     ', 'bx', 'lr'),
    ];
    expect(cyclesInListing(listing('h', lines), 'h', thumbSet('cortex-m0plus'))).toEqual({
      ok: true,
      value: { min: 4, max: 4, calls: [], waits: ['h'] },
    });
  });
});
