import { C, H, I, N, S, T, V, Z, type Core } from './core.ts';

/** An instruction that is decoded: its words, its cycles, and what it does; what it takes beyond those cycles is given back. */
export type Executed = { words: number; cycles: number; run: (cpu: Core) => number | void };

const one = (run: Executed['run'], cycles = 1): Executed => ({ words: 1, cycles, run });
const two = (run: Executed['run'], cycles = 2): Executed => ({ words: 2, cycles, run });

const bit = (value: number, at: number): boolean => ((value >> at) & 1) === 1;

function add(cpu: Core, d: number, value: number, carry: number): void {
  const before = cpu.memory[d] ?? 0;
  const sum = before + value + carry;
  const result = sum & 0xff;
  cpu.memory[d] = result;
  cpu.flag(C, sum > 0xff);
  cpu.flag(H, (before & 15) + (value & 15) + carry > 15);
  cpu.results(result, bit(~(before ^ value) & (before ^ result), 7));
}

/** The flags of a difference, and the difference; Z only goes off where a borrow is taken along. */
function difference(cpu: Core, before: number, value: number, borrow: number, along: boolean): number {
  const result = (before - value - borrow) & 0xff;
  const kept = cpu.status & Z;
  cpu.flag(C, before < value + borrow);
  cpu.flag(H, (before & 15) < (value & 15) + borrow);
  cpu.results(result, bit((before ^ value) & (before ^ result), 7));
  if (along) cpu.flag(Z, result === 0 && kept !== 0);
  return result;
}

function logic(cpu: Core, d: number, result: number): void {
  cpu.memory[d] = result;
  cpu.results(result, false);
}

/** Flags of a shift to the right. */
function shifted(cpu: Core, d: number, result: number, out: number): void {
  cpu.memory[d] = result;
  const negative = (result & 0x80) !== 0;
  cpu.flag(C, out === 1);
  cpu.results(result, negative !== (out === 1));
}

function skipIf(cpu: Core, condition: boolean): number {
  if (!condition) return 0;
  const { words } = cpu;
  cpu.pc += words;
  return words;
}

const pair = (cpu: Core, low: number): number => (cpu.memory[low] ?? 0) | ((cpu.memory[low + 1] ?? 0) << 8);
const setPair = (cpu: Core, low: number, value: number): void => {
  cpu.memory[low] = value & 0xff;
  cpu.memory[low + 1] = (value >> 8) & 0xff;
};

/** Instructions of two registers, by the upper six bits. */
function ofTwo(word: number): Executed | undefined {
  const d = (word >> 4) & 31;
  const r = (word & 15) | ((word >> 5) & 16);
  const regs = (cpu: Core): [number, number, number] => [
    cpu.memory[d] ?? 0,
    cpu.memory[r] ?? 0,
    (cpu.status & C) === 0 ? 0 : 1,
  ];
  switch (word >> 10) {
    case 0x01:
      return one((cpu) => void difference(cpu, regs(cpu)[0], regs(cpu)[1], regs(cpu)[2], true));
    case 0x02:
      return one((cpu) => {
        cpu.memory[d] = difference(cpu, ...regs(cpu), true);
      });
    case 0x03:
      return one((cpu) => add(cpu, d, regs(cpu)[1], 0));
    case 0x04:
      return one((cpu) => skipIf(cpu, regs(cpu)[0] === regs(cpu)[1]));
    case 0x05:
      return one((cpu) => void difference(cpu, regs(cpu)[0], regs(cpu)[1], 0, false));
    case 0x06:
      return one((cpu) => {
        cpu.memory[d] = difference(cpu, regs(cpu)[0], regs(cpu)[1], 0, false);
      });
    case 0x07:
      return one((cpu) => add(cpu, d, regs(cpu)[1], regs(cpu)[2]));
    case 0x08:
      return one((cpu) => logic(cpu, d, regs(cpu)[0] & regs(cpu)[1]));
    case 0x09:
      return one((cpu) => logic(cpu, d, regs(cpu)[0] ^ regs(cpu)[1]));
    case 0x0a:
      return one((cpu) => logic(cpu, d, regs(cpu)[0] | regs(cpu)[1]));
    case 0x0b:
      return one((cpu) => {
        cpu.memory[d] = regs(cpu)[1];
      });
    case 0x27:
      return one((cpu) => {
        const [left, right] = regs(cpu);
        const product = left * right;
        setPair(cpu, 0, product);
        cpu.flag(C, bit(product, 15));
        cpu.flag(Z, product === 0);
      }, 2);
    default:
      return undefined;
  }
}

/** Instructions of a register from r16 on and a number, by the upper four bits. */
function ofNumber(word: number): Executed | undefined {
  const d = 16 + ((word >> 4) & 15);
  const k = (word & 15) | ((word >> 4) & 0xf0);
  const value = (cpu: Core): number => cpu.memory[d] ?? 0;
  switch (word >> 12) {
    case 3:
      return one((cpu) => void difference(cpu, value(cpu), k, 0, false));
    case 4:
      return one((cpu) => {
        cpu.memory[d] = difference(cpu, value(cpu), k, (cpu.status & C) === 0 ? 0 : 1, true);
      });
    case 5:
      return one((cpu) => {
        cpu.memory[d] = difference(cpu, value(cpu), k, 0, false);
      });
    case 6:
      return one((cpu) => logic(cpu, d, value(cpu) | k));
    case 7:
      return one((cpu) => logic(cpu, d, value(cpu) & k));
    case 14:
      return one((cpu) => {
        cpu.memory[d] = k;
      });
    default:
      return undefined;
  }
}

/** Loads and stores through pointers: X at 26, Y at 28, Z at 30. */
function pointed(word: number, next: number): Executed | undefined {
  const d = (word >> 4) & 31;
  const stores = bit(word, 9);
  const through = (low: number, before: number, after: number, offset = 0): Executed =>
    one((cpu) => {
      const at = (pair(cpu, low) + before) & 0xffff;
      if (before + after !== 0) setPair(cpu, low, at + after);
      if (stores) cpu.store(at + offset, cpu.memory[d] ?? 0);
      else cpu.memory[d] = cpu.load(at + offset);
    }, 2);
  if ((word & 0xd000) === 0x8000) {
    const offset = (word & 7) | ((word >> 7) & 0x18) | ((word >> 8) & 0x20);
    return through(bit(word, 3) ? 28 : 30, 0, 0, offset);
  }
  const byProgram = (after: number): Executed =>
    one((cpu) => {
      const at = pair(cpu, 30);
      const read = cpu.flash[at >> 1] ?? 0;
      cpu.memory[d] = at % 2 === 0 ? read & 0xff : read >> 8;
      if (after !== 0) setPair(cpu, 30, at + after);
    }, 3);
  if ((word & 0xfc00) !== 0x9000) return undefined;
  switch (word & 15) {
    case 0:
      return two((cpu) => {
        if (stores) cpu.store(next, cpu.memory[d] ?? 0);
        else cpu.memory[d] = cpu.load(next);
      });
    case 1:
      return through(30, 0, 1);
    case 2:
      return through(30, -1, 0);
    case 4:
      return byProgram(0);
    case 5:
      return byProgram(1);
    case 9:
      return through(28, 0, 1);
    case 10:
      return through(28, -1, 0);
    case 12:
      return through(26, 0, 0);
    case 13:
      return through(26, 0, 1);
    case 14:
      return through(26, -1, 0);
    case 15:
      return one((cpu) => {
        if (stores) cpu.push(cpu.memory[d] ?? 0);
        else cpu.memory[d] = cpu.pop();
      }, 2);
    default:
      return undefined;
  }
}

/** Instructions of one register, and those without any, that begin with 1001 010. */
function ofOne(word: number, next: number): Executed | undefined {
  if ((word & 0xfe00) !== 0x9400) return undefined;
  const d = (word >> 4) & 31;
  const value = (cpu: Core): number => cpu.memory[d] ?? 0;
  if ((word & 0xff0f) === 0x9408) {
    const mask = 1 << ((word >> 4) & 7);
    return one((cpu) => cpu.flag(mask, !bit(word, 7)));
  }
  const far = ((word & 1) << 16) | next;
  if ((word & 0x0e) === 0x0c) return two((cpu) => void (cpu.pc = far), 3);
  if ((word & 0x0e) === 0x0e)
    return two((cpu) => {
      cpu.pushPc();
      cpu.pc = far;
    }, 4);
  if (word === 0x9508) return one((cpu) => cpu.popPc(), 4);
  if (word === 0x9518)
    return one((cpu) => {
      cpu.popPc();
      cpu.flag(I, true);
    }, 4);
  if (word === 0x9509)
    return one((cpu) => {
      cpu.pushPc();
      cpu.pc = pair(cpu, 30);
    }, 3);
  if (word === 0x9409) return one((cpu) => void (cpu.pc = pair(cpu, 30)), 2);
  if (word === 0x95c8)
    return one((cpu) => {
      const at = pair(cpu, 30);
      cpu.memory[0] = ((cpu.flash[at >> 1] ?? 0) >> (at % 2 === 0 ? 0 : 8)) & 0xff;
    }, 3);
  switch (word & 15) {
    case 0:
      return one((cpu) => {
        logic(cpu, d, ~value(cpu) & 0xff);
        cpu.flag(C, true);
      });
    case 1:
      return one((cpu) => {
        cpu.memory[d] = difference(cpu, 0, value(cpu), 0, false);
      });
    case 2:
      return one((cpu) => {
        cpu.memory[d] = ((value(cpu) << 4) | (value(cpu) >> 4)) & 0xff;
      });
    case 3:
      return one((cpu) => {
        cpu.memory[d] = value(cpu) + 1;
        cpu.results(value(cpu), value(cpu) === 0x80);
      });
    case 5:
      return one((cpu) => shifted(cpu, d, (value(cpu) & 0x80) | (value(cpu) >> 1), value(cpu) & 1));
    case 6:
      return one((cpu) => shifted(cpu, d, value(cpu) >> 1, value(cpu) & 1));
    case 7:
      return one((cpu) =>
        shifted(cpu, d, ((cpu.status & C) === 0 ? 0 : 0x80) | (value(cpu) >> 1), value(cpu) & 1),
      );
    case 10:
      return one((cpu) => {
        cpu.memory[d] = value(cpu) - 1;
        cpu.results(value(cpu), value(cpu) === 0x7f);
      });
    default:
      return undefined;
  }
}

/** A word of 16 bits added to, or subtracted from. */
function ofWord(word: number): Executed | undefined {
  if ((word & 0xfe00) !== 0x9600) return undefined;
  const d = 24 + ((word >> 3) & 6);
  const k = (word & 15) | ((word >> 2) & 0x30);
  const down = bit(word, 8);
  return one((cpu) => {
    const before = pair(cpu, d);
    const result = (before + (down ? -k : k)) & 0xffff;
    setPair(cpu, d, result);
    const [was, is] = [bit(before, 15), bit(result, 15)];
    const overflow = down ? was && !is : !was && is;
    cpu.flag(C, down ? k > before : before + k > 0xffff);
    cpu.flag(Z, result === 0);
    cpu.flag(N, is);
    cpu.flag(V, overflow);
    cpu.flag(S, is !== overflow);
  }, 2);
}

/** Bits of the lower registers of the peripherals, and ports. */
function ofPorts(word: number): Executed | undefined {
  const at = 0x20 + ((word >> 3) & 31);
  const mask = 1 << (word & 7);
  switch (word >> 8) {
    case 0x98:
      return one((cpu) => cpu.store(at, cpu.load(at) & ~mask & 0xff), 2);
    case 0x99:
      return one((cpu) => skipIf(cpu, (cpu.load(at) & mask) === 0));
    case 0x9a:
      return one((cpu) => cpu.store(at, cpu.load(at) | mask), 2);
    case 0x9b:
      return one((cpu) => skipIf(cpu, (cpu.load(at) & mask) !== 0));
    default:
      break;
  }
  if ((word & 0xf000) !== 0xb000) return undefined;
  const port = 0x20 + ((word & 15) | ((word >> 5) & 0x30));
  const d = (word >> 4) & 31;
  return one((cpu) => {
    if (bit(word, 11)) cpu.store(port, cpu.memory[d] ?? 0);
    else cpu.memory[d] = cpu.load(port);
  });
}

const signed = (value: number, bits: number): number =>
  value >= 2 ** (bits - 1) ? value - 2 ** bits : value;

/** Jumps, branches, and skips by bits of a register. */
function jumps(word: number): Executed | undefined {
  const far = signed(word & 0xfff, 12);
  const d = (word >> 4) & 31;
  const mask = 1 << (word & 7);
  switch (word >> 12) {
    case 0xc:
      return one((cpu) => void (cpu.pc += far), 2);
    case 0xd:
      return one((cpu) => {
        cpu.pushPc();
        cpu.pc += far;
      }, 3);
    case 0xf:
      break;
    default:
      return undefined;
  }
  if (!bit(word, 11)) {
    const near = signed((word >> 3) & 0x7f, 7);
    const wants = bit(word, 10) ? 0 : mask;
    return one((cpu) => {
      if ((cpu.status & mask) !== wants) return 0;
      cpu.pc += near;
      return 1;
    });
  }
  switch ((word >> 9) & 3) {
    case 0:
      return one((cpu) => {
        const value = cpu.memory[d] ?? 0;
        cpu.memory[d] = (cpu.status & T) === 0 ? value & ~mask : value | mask;
      });
    case 1:
      return one((cpu) => cpu.flag(T, ((cpu.memory[d] ?? 0) & mask) !== 0));
    case 2:
      return one((cpu) => skipIf(cpu, ((cpu.memory[d] ?? 0) & mask) === 0));
    default:
      return one((cpu) => skipIf(cpu, ((cpu.memory[d] ?? 0) & mask) !== 0));
  }
}

/** An instruction by its word and the next one. @throws RangeError for one that this model does not know. */
export function decoded(word: number, next: number): Executed {
  if (word === 0) return one(() => 0);
  if (word >> 8 === 0x01) {
    const [d, r] = [2 * ((word >> 4) & 15), 2 * (word & 15)];
    return one((cpu) => setPair(cpu, d, pair(cpu, r)));
  }
  const found =
    ofTwo(word) ??
    ofNumber(word) ??
    pointed(word, next) ??
    ofOne(word, next) ??
    ofWord(word) ??
    ofPorts(word) ??
    jumps(word);
  if (!found) throw new RangeError(`no instruction ${word.toString(16)}`);
  return found;
}
