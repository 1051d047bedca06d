import { registerOf } from '../part/find.ts';
import type { BitLoop, Part } from '../part/types.ts';
import type { Bits, BitWork } from '../timer/drives/actions.ts';
import { placeOf } from '../timer/fields.ts';
import { softwarePin } from '../timer/tick.ts';
import { indented } from './action-lines.ts';

/** What is done once a byte, in the assembler's words. */
const WORK: Record<BitWork, string> = {
  count: 'subi %A[count], 1',
  carry: 'sbci %B[count], 0',
  fetch: 'ld %[byte], %a[bytes]+',
};

/** Instructions that only take so many cycles. */
function pause(cycles: number): string[] {
  const pairs = Math.floor(cycles / 2);
  const waits = pairs > 2 ? [`.rept ${pairs}`, 'rjmp .+0', '.endr'] : Array<string>(pairs).fill('rjmp .+0');
  return [...waits, ...(cycles % 2 === 1 ? ['nop'] : [])];
}

/** A stretch of the last bit of a byte: what is done in it, then what is left to wait. */
function stretch(loop: BitLoop, cycles: number, work: readonly BitWork[]): string[] {
  const taken = work.reduce((sum, one) => sum + (one === 'fetch' ? loop.fetch : loop.count), 0);
  return [...work.map((one) => WORK[one]), ...pause(cycles - taken)];
}

/** The instructions that send the bytes, from the first bit, the highest, to the last. */
function instructions(loop: BitLoop, { pauses, last }: Bits, store: string): string[] {
  const bitOf = (bit: number): string[] => {
    const work = bit === 0 ? last : [];
    const [before, between, after] = pauses.map((cycles, at) =>
      stretch(loop, bit === 0 && at === 2 ? cycles - loop.back : cycles, work[at] ?? []),
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

/** The head of the function that sends bytes. */
function headOf(label: string): string {
  return `void ${label}_send(const uint8_t *bytes, uint16_t count)`;
}

/** What the header says of it. */
export function bitDeclaration(label: string, { bit }: Bits): string[] {
  return [
    '/*',
    ' * Sends bytes, the highest bit first, each LED in the order of colours that the string wants. Interrupts wait until the',
    ` * last bit: ${8 * bit} cycles of the processor a byte. Then keep the line low for the reset time of the string.`,
    ' * The byte after the last one is read, too, and not sent.',
    ' */',
    `${headOf(label)};`,
  ];
}

/** The function that sends bytes in a loop of which every cycle is counted. Its loop is written in assembler for AVR. */
export function bitLines(part: Part, label: string, bits: Bits): string[] {
  const loop = part.cpu.bitLoop;
  const [key = ''] = Object.keys(softwarePin(part, bits.pin).software.high);
  const [name = '', field = null] = key.split('.');
  const register = registerOf(part, name);
  if (!loop) throw new RangeError(`${part.name} has no loop that sends bits`);
  const near = register.address <= loop.store.last;
  const place = near ? `"I" (_SFR_IO_ADDR(${name}))` : `"n" (_SFR_MEM_ADDR(${name}))`;
  const mask = field === null ? `${placeOf(register, field).mask}` : `(1 << ${field})`;
  const text = instructions(loop, bits, near ? 'out' : 'sts').map((one) => `"${one}\\n\\t"`);
  return [
    `/* A bit is ${bits.bit} cycles, high for ${bits.zero} in a zero and for ${bits.one} in a one, from store to store. */`,
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
