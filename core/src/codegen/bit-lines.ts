import { indented } from './steps.ts';
import { registerOf } from '../part/find.ts';
import type { BitLoop, Part } from '../part/types.ts';
import type { Bits, BitWork } from '../timer/drives/actions.ts';
import { fieldBits } from '../timer/fields.ts';
import { softwarePin } from '../timer/tick.ts';
import { workCycles } from '../timer/drives/bit-loop.ts';
import { keptTogether } from './statement.ts';

/** What is done once a byte, in the words of the assembler for AVR; it reads a byte as it takes it. */
const WORK: Record<BitWork, string> = {
  count: 'subi %A[count], 1',
  carry: 'sbci %B[count], 0',
  read: '',
  fetch: 'ld %[byte], %a[bytes]+',
};

/** Instructions that only take so many cycles. */
function pause(cycles: number): string[] {
  const pairs = Math.floor(cycles / 2);
  const waits = pairs > 2 ? [`.rept ${pairs}`, 'rjmp .+0', '.endr'] : Array<string>(pairs).fill('rjmp .+0');
  return [...waits, ...(cycles % 2 === 1 ? ['nop'] : [])];
}

/** A stretch of a bit: what is done in it, then what is left to wait. */
function stretch(loop: BitLoop, cycles: number, work: readonly BitWork[]): string[] {
  const taken = work.reduce((sum, one) => sum + workCycles(loop, one), 0);
  return [...work.map((one) => WORK[one]), ...pause(cycles - taken)];
}

/** The instructions that send the bytes, from the first bit, the highest, to the last. */
function instructions(loop: BitLoop, { pauses, work }: Bits, store: string): string[] {
  const bitOf = (bit: number): string[] => {
    const own = work[7 - bit] ?? [];
    const [before, between, after] = pauses.map((cycles, at) =>
      stretch(loop, bit === 0 && at === 2 ? cycles - loop.back : cycles, own[at] ?? []),
    );
    return [
      `${store} %[port], %[high]`,
      ...(before ?? []),
      `sbrs %[byte], ${bit}`,
      `${store} %[port], %[low]`,
      ...(between ?? []),
      `${store} %[port], %[low]`,
      ...(after ?? []),
    ];
  };
  const bits = [7, 6, 5, 4, 3, 2, 1, 0].flatMap(bitOf);
  return [WORK.fetch, '1:', ...bits, 'breq 2f', 'rjmp 1b', '2:'];
}

function timesComment({ bit, zero, one }: Bits): string {
  return `/* A bit is ${bit} cycles, high for ${zero} in a zero and for ${one} in a one, between writes. */`;
}

/** The head of the function that sends bytes. */
function headOf(label: string): string {
  return `void ${label}_send(const uint8_t *bytes, uint16_t count)`;
}

/** What the header says of it. `outside` where the loop is in an assembler file. */
export function bitDeclaration(label: string, { bit }: Bits, outside: boolean): string[] {
  return [
    '/*',
    ' * Sends bytes, the highest bit first, each LED in the order of colours that the string wants. Interrupts wait until the',
    ` * last bit: ${8 * bit} cycles of the processor a byte. Then keep the line low for the reset time of the string.`,
    ' * The byte after the last one is read, too, and not sent.',
    ...(outside
      ? [' * The bytes are in RAM: from the program memory they would be read in more cycles.']
      : []),
    ' */',
    `${headOf(label)};`,
  ];
}

/** The function in C around a loop that is in an assembler file, to which it hands the first byte and how many come after it. */
function outsideLines(part: Part, label: string, bits: Bits): string[] {
  const call = keptTogether(part, [
    `${label}_from = (uint16_t)(uintptr_t)bytes;`,
    `${label}_left = (uint16_t)(count - 1u);`,
    `${label}_bits();`,
  ]);
  return [
    timesComment(bits),
    '/* In the assembler file. */',
    `extern volatile uint16_t ${label}_from, ${label}_left;`,
    `void ${label}_bits(void);`,
    headOf(label),
    '{',
    ...indented(['if (count == 0) return;', ...call]),
    '}',
    '',
  ];
}

/** The function that sends bytes in a loop of which every cycle is counted: in assembler between lines of C, or in a file of its own. */
export function bitLines(part: Part, label: string, bits: Bits): string[] {
  if (part.code.assembly) return outsideLines(part, label, bits);
  const loop = part.cpu.bitLoop;
  const [key = ''] = Object.keys(softwarePin(part, bits.pin).software.high);
  const [name = '', field = null] = key.split('.');
  const register = registerOf(part, name);
  if (!loop) throw new RangeError(`${part.name} has no loop that sends bits`);
  const near = register.address <= loop.store.last;
  const place = near ? `"I" (_SFR_IO_ADDR(${name}))` : `"n" (_SFR_MEM_ADDR(${name}))`;
  const mask = field === null ? `${fieldBits(register, field).mask}` : `(1 << ${field})`;
  const text = instructions(loop, bits, near ? 'out' : 'sts').map((one) => `"${one}\\n\\t"`);
  return [
    timesComment(bits),
    headOf(label),
    '{',
    ...indented([
      'uint8_t status = SREG;',
      'uint8_t byte;',
      'if (count == 0) return;',
      'cli();',
      `uint8_t high = (uint8_t)(${name} | ${mask});`,
      `uint8_t low = (uint8_t)(${name} & (uint8_t)~${mask});`,
      '__asm__ __volatile__ (',
      ...indented([
        ...text,
        ': [byte] "=&r" (byte), [bytes] "+e" (bytes), [count] "+d" (count)',
        `: [port] ${place}, [high] "r" (high), [low] "r" (low)`,
        ': "memory"',
      ]),
      ');',
      'SREG = status;',
    ]),
    '}',
    '',
  ];
}
