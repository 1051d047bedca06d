import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Assembly } from '../../src/part/types.ts';

/** A linked program: its words by address, where its functions begin, and where its variables are. */
export type Linked = { words: Map<number, number>; labels: Map<string, number>; data: Map<string, number> };

/** Devices that the packaged assembler does not know, and one of the same instructions that it does. */
const STAND_INS: Readonly<Record<string, string>> = { '16f18875': '16f1939' };

/** Assembles and links a file with the packaged assembler; warnings are errors. */
export function assembled(text: string): Linked {
  const directory = mkdtempSync(join(tmpdir(), 'reload-'));
  const run = (command: string, args: string[]): string =>
    execFileSync(command, args, { cwd: directory, encoding: 'utf8' });
  try {
    const known = text.replace(/(?<=list p=)\w+/, (device) => STAND_INS[device] ?? device);
    writeFileSync(join(directory, 'own.asm'), known);
    const told = run('gpasm', ['-c', 'own.asm']);
    if (/warning|error/i.test(told)) throw new Error(told);
    run('gplink', ['-m', '-o', 'own.hex', 'own.o']);
    const map = readFileSync(join(directory, 'own.map'), 'utf8');
    const placed = (kind: string): Map<string, number> =>
      new Map(
        [...map.matchAll(new RegExp(`(_\\w+)\\s+0x([0-9a-f]+)\\s+${kind}`, 'g'))].map(
          ([, name = '', at = '']) => [name, Number.parseInt(at, 16)],
        ),
      );
    return {
      words: wordsOf(readFileSync(join(directory, 'own.hex'), 'utf8')),
      labels: placed('program'),
      data: placed('data'),
    };
  } finally {
    rmSync(directory, { recursive: true, force: true });
  }
}

/** The words of a file of hexadecimal records, by the address of their first byte. */
function wordsOf(hex: string): Map<number, number> {
  const words = new Map<number, number>();
  let base = 0;
  for (const line of hex.split(/\r?\n/)) {
    const bytes = [...(line.slice(1).match(/../g) ?? [])].map((pair) => Number.parseInt(pair, 16));
    const [count = 0, upper = 0, lower = 0, kind] = bytes;
    const data = bytes.slice(4, 4 + count);
    if (kind === 4) base = ((data[0] ?? 0) * 256 + (data[1] ?? 0)) * 65_536;
    if (kind !== 0) continue;
    for (let at = 0; at < data.length; at += 2) {
      words.set(base + upper * 256 + lower + at, (data[at] ?? 0) + 256 * (data[at + 1] ?? 0));
    }
  }
  return words;
}

/** A timer of 16 bits that counts instruction cycles: its two registers, and how it takes what is written. */
export type CountedTimer = {
  lower: number;
  upper: number;
  divide: number;
  /** Whether the upper register is a buffer, taken with the lower one; then a write also stops the timer for two cycles. */
  buffered: boolean;
};

/** What a processor is told of instructions: the operation, a file register or a literal, and whether the result stays in W. */
type Decoded = { does: string; operand: number; toFile: boolean; bit: number };

/** The instructions of 14 bits, with those that the enhanced ones add. */
export function decoded14(word: number): Decoded {
  const [file, toFile, bit] = [word & 0x7f, (word & 0x80) !== 0, (word >> 7) & 7];
  const made = (does: string, operand = file): Decoded => ({ does, operand, toFile, bit });
  if (word === 0x0008) return made('return');
  if (word === 0) return made('nop');
  if ((word & 0x3fe0) === 0x0020) return made('movlb', word & 0x1f);
  if ((word & 0x3f80) === 0x0080) return made('movwf');
  if ((word & 0x3f00) === 0x0800) return made('movf');
  if ((word & 0x3f00) === 0x0700) return made('addwf');
  if ((word & 0x3f00) === 0x3d00) return made('addwfc');
  if ((word & 0x3f00) === 0x3e00) return made('addlw', word & 0xff);
  if ((word & 0x3f00) === 0x3900) return made('andlw', word & 0xff);
  if ((word & 0x3f00) === 0x3800) return made('iorlw', word & 0xff);
  if ((word & 0x3f80) === 0x0180) return made('clrf');
  if ((word & 0x3f00) === 0x0200) return made('subwf');
  if ((word & 0x3f00) === 0x3b00) return made('subwfb');
  if ((word & 0x3f00) === 0x0a00) return made('incf');
  // The pointer 0, moved on afterwards.
  if (word === 0x0012) return made('moviw');
  if ((word & 0x3f00) === 0x3000) return made('movlw', word & 0xff);
  if ((word & 0x3c00) === 0x1800) return made('btfsc');
  if ((word & 0x3c00) === 0x1c00) return made('btfss');
  if ((word & 0x3800) === 0x2800) return made('goto', word & 0x7ff);
  if ((word & 0x3c00) === 0x1000) return made('bcf');
  if ((word & 0x3c00) === 0x1400) return made('bsf');
  throw new Error(`no instruction: ${word.toString(16)}`);
}

/** The instructions of 16 bits. */
export function decoded16(word: number): Decoded {
  const [low, top] = [word & 0xff, word >> 8];
  const made = (does: string): Decoded => ({ does, operand: low, toFile: (top & 2) !== 0, bit: 0 });
  if (word === 0x0012) return made('return');
  if (word === 0) return made('nop');
  if (top === 0x0e) return made('movlw');
  if (top === 0x0f) return made('addlw');
  if (top === 0x0b) return made('andlw');
  if (top === 0x09) return made('iorlw');
  if (top === 0x6a) return made('clrf');
  const bits = { 0x80: 'bsf', 0x90: 'bcf', 0xa0: 'btfss', 0xb0: 'btfsc' }[top & 0xf1];
  if (bits) return { ...made(bits), bit: (top >> 1) & 7 };
  if ((top & 0xfd) === 0x04) return made('decf');
  // Two words; the place of the second one is that of the first, four bits wider.
  if ((top & 0xf0) === 0xc0) return { ...made('movff'), operand: word & 0xfff };
  // A jump by so many words, forwards or back.
  if ((top & 0xf8) === 0xd0) return { ...made('bra'), operand: ((word & 0x7ff) ^ 0x400) - 0x400 };
  // The access bit is 0: the first half of the bank is memory, the second one the registers.
  if ((top & 0xfd) === 0x50) return made('movf');
  if ((top & 0xfd) === 0x20) return made('addwfc');
  if (top === 0x6e) return made('movwf');
  throw new Error(`no instruction: ${word.toString(16)}`);
}

const STATUS = 0x03;
/** In all banks, as the status register is. */
const INTCON = 0x0b;

/**
 * Runs a function from an overflow of a timer, `late` cycles after it, until the timer overflows again: the cycles between, and those to the
 * last read of the lower byte.
 * The instruction set is that of the family's data sheets, one cycle to an instruction, two where one is skipped.
 */
export function cyclesOfRun(
  family: Assembly['family'],
  { words, labels }: Linked,
  label: string,
  timer: CountedTimer,
  late: number,
): { run: number; readAt: number } {
  const memory = new Map<number, number>();
  let [count, divided, still, buffer] = [0, 0, 0, 0];
  let [w, carry, bank, cycles] = [0, 0, 3, 0];
  let at = labels.get(label) ?? -1;
  let [written, overflowed] = [false, false];
  let readAt = 0;
  const place = (file: number): number => {
    if (family === 'pic18') return file < 0x80 ? file : 0xf00 + file;
    return file >= 0x70 || file === STATUS ? file : bank * 0x80 + file;
  };
  const read = (address: number): number => {
    if (address === timer.lower) {
      buffer = count >> 8;
      return count & 0xff;
    }
    if (address === timer.upper) return timer.buffered ? buffer : count >> 8;
    return memory.get(address) ?? 0;
  };
  const write = (address: number, value: number): void => {
    if (address === timer.lower) {
      count = (timer.buffered ? buffer : count >> 8) * 256 + value;
      written = true;
    } else if (address === timer.upper && timer.buffered) buffer = value;
    else if (address === timer.upper) count = value * 256 + (count & 0xff);
    else memory.set(address, value);
  };
  const tick = (): void => {
    cycles += 1;
    if (written) {
      // The write decides what the counter holds after its cycle.
      [divided, written, still] = [0, false, timer.buffered ? 2 : 0];
      return;
    }
    if (still > 0) {
      still -= 1;
      return;
    }
    divided += 1;
    if (divided < timer.divide) return;
    divided = 0;
    count += 1;
    if (count > 0xffff) [count, overflowed] = [0, true];
  };
  const add = (one: number, other: number): number => {
    carry = one + other > 255 ? 1 : 0;
    return (one + other) & 0xff;
  };
  const decode = family === 'pic18' ? decoded16 : decoded14;
  const size = family === 'pic18' ? 1 : 2;
  let seen = false;
  for (let steps = 0; steps < 1000; steps += 1) {
    const { does, operand, toFile, bit } = decode(words.get(at * size) ?? 0);
    at += family === 'pic18' ? 2 : 1;
    // The way in ends where the counter is read.
    if (!seen && does === 'movf' && place(operand) === timer.lower) {
      seen = true;
      while (cycles < late) tick();
    }
    if (does === 'movf' && place(operand) === timer.lower) readAt = cycles;
    const own = (result: number): void => {
      if (toFile) write(place(operand), result);
      else w = result;
    };
    if (does === 'return') break;
    if (does === 'movlb') bank = operand;
    else if (does === 'bcf' && operand === STATUS) bank &= bit === 5 ? 2 : 1;
    else if (does === 'bsf' && operand === STATUS) bank |= bit === 5 ? 1 : 2;
    else if (does === 'movlw') w = operand;
    else if (does === 'addlw') w = add(w, operand);
    else if (does === 'movf') own(read(place(operand)));
    else if (does === 'addwf') own(add(w, read(place(operand))));
    else if (does === 'addwfc') own(add(w + carry, read(place(operand))));
    else if (does === 'movwf') write(place(operand), w);
    else if (does === 'btfsc' && carry === 0) {
      at += family === 'pic18' ? 2 : 1;
      tick();
    } else if (does === 'goto' || does === 'bra') {
      at = does === 'goto' ? operand : at + 2 * operand;
      tick();
    }
    tick();
  }
  while (!overflowed) tick();
  return { run: cycles, readAt };
}

/**
 * What a function writes to registers, in order, from what stands in them before: addresses and values. A bit that it waits for
 * changes with every look.
 */
export function writesOf(
  family: Assembly['family'],
  { words, labels }: Linked,
  label: string,
  memory: Map<number, number>,
): { address: number; value: number }[] {
  const writes: { address: number; value: number }[] = [];
  let at = labels.get(label) ?? -1;
  // Whichever bank was selected before, the code selects its own.
  let [w, bank, looks] = [0, 3, 0];
  const size = family === 'pic18' ? 2 : 1;
  const decode = family === 'pic18' ? decoded16 : decoded14;
  for (let steps = 0; steps < 2000; steps += 1) {
    const { does, operand, toFile, bit } = decode(words.get(at * (family === 'pic18' ? 1 : 2)) ?? 0);
    at += size;
    const core = family !== 'pic18' && (operand >= 0x70 || operand === STATUS || operand === INTCON);
    const address = family === 'pic18' ? 0xf00 + operand : core ? operand : bank * 0x80 + operand;
    const old = memory.get(address) ?? 0;
    const write = (value: number): void => {
      memory.set(address, value);
      writes.push({ address, value });
    };
    if (does === 'return') return writes;
    if (does === 'movlb') bank = operand;
    else if (family === 'pic14' && operand === STATUS && (does === 'bcf' || does === 'bsf')) {
      const mask = bit === 5 ? 1 : 2;
      bank = does === 'bsf' ? bank | mask : bank & ~mask;
    } else if (does === 'movlw') w = operand;
    else if (does === 'andlw') w &= operand;
    else if (does === 'iorlw') w |= operand;
    else if (does === 'movf' && !toFile) w = old;
    else if (does === 'movwf') write(w);
    else if (does === 'clrf') write(0);
    else if (does === 'bcf') write(old & ~(1 << bit));
    else if (does === 'bsf') write(old | (1 << bit));
    else if (does === 'btfss' || does === 'btfsc') {
      looks += 1;
      if ((looks % 2 === 0) === (does === 'btfss')) at += size;
    } else if (does === 'goto') at = operand;
    else if (does === 'bra') at += size * operand;
    else throw new Error(`${does} is not expected here`);
  }
  throw new Error(`${label} does not return`);
}
