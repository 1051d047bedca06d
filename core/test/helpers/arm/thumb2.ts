import { bit, signed, ThumbCpu, type Flags } from './thumb.ts';

/** What a 12-bit immediate of a data instruction stands for, and the carry that its rotation leaves. */
function expanded(code: number): { value: number; carry: boolean | undefined } {
  const low = code & 0xff;
  const copies = [low, low * 0x10001, low * 0x1000100, low * 0x1010101];
  if (code >>> 10 === 0) return { value: (copies[code >>> 8] ?? 0) >>> 0, carry: undefined };
  const [held, by] = [0x80 | (code & 0x7f), code >>> 7];
  const value = ((held >>> by) | (held << (32 - by))) >>> 0;
  return { value, carry: bit(value, 31) };
}

/**
 * A Cortex-M4 processor without floating point: beside what a Cortex-M0+ has, the 32-bit instructions that compilers make of C over
 * registers, compare-and-branch, and blocks of conditional instructions. A load takes two cycles, a division the twelve of its longest.
 */
export class Thumb2Cpu extends ThumbCpu {
  protected override readonly way = { entry: 12, exit: 12 };
  /** Conditions of the instructions to come. */
  private block: number[] = [];

  /** Whether an interrupt may come here: blocks run to their end. */
  get between(): boolean {
    return this.block.length === 0;
  }

  override step(): void {
    const condition = this.block.shift();
    if (condition === undefined) return super.step();
    const word = this.bus.read(this.pc, 2);
    const wide = word >> 11 > 0x1c;
    if (!this.holds(condition)) {
      this.cycle += 1;
      this.regs[15] = this.pc + (wide ? 4 : 2);
      return;
    }
    // Short instructions of such a block leave the flags as they are, unless they compare.
    const compares = word >> 11 === 5 || (word >> 10 === 0x10 && [8, 10, 11].includes((word >> 6) & 15));
    const keeps = !wide && !compares && (word >> 12 < 4 || word >> 10 === 0x10);
    const before = { ...this.flags };
    super.step();
    if (keeps) this.flags = before;
  }

  protected override various(word: number): void {
    if ((word & 0xf500) === 0xb100) {
      const far = ((bit(word, 9) ? 64 : 0) | ((word >> 2) & 0x3e)) + 2;
      if ((this.get(word & 7) === 0) === !bit(word, 11)) {
        this.cycle += 1;
        this.jump(this.pc + far);
      }
    } else if (word >> 8 === 0xbf && (word & 15) !== 0) {
      const first = (word >> 4) & 15;
      const count = 4 - (31 - Math.clz32(word & 15 & -(word & 15)));
      this.block = Array.from({ length: count }, (_, at) =>
        at === 0 ? first : (first & 14) | ((word >> (4 - at)) & 1),
      );
    } else super.various(word);
  }

  protected override wide(word: number, next: number): void {
    const [n, d] = [word & 15, (next >> 8) & 15];
    if (word >> 11 === 0x1e && bit(next, 15)) return this.branches(word, next);
    this.regs[15] = (this.pc + 2) >>> 0;
    if (word >> 11 === 0x1e) {
      const code = (bit(word, 10) ? 0x800 : 0) | ((next >> 4) & 0x700) | (next & 0xff);
      if (bit(word, 9)) return this.plain((word >> 4) & 31, n, d, code, next);
      const { value, carry } = expanded(code);
      return this.operate((word >> 5) & 15, bit(word, 4), n, d, value, carry ?? this.flags.c);
    }
    if (word >> 9 === 0x75) {
      const by = ((next >> 10) & 0x1c) | ((next >> 6) & 3);
      const { value, carry } = this.shifted((next >> 4) & 3, this.get(next & 15), by);
      return this.operate((word >> 5) & 15, bit(word, 4), n, d, value, carry);
    }
    if (word >> 9 === 0x7c) return this.single(word, next);
    if ((word & 0xfe40) === 0xe840) return this.double(word, next);
    if ((word & 0xfe40) === 0xe800) return this.many(word, next);
    if ((word & 0xff80) === 0xfa80 || (word & 0xff80) === 0xfa00) return this.extended(word, next);
    if (word >> 8 === 0xfb) return this.products((word >> 4) & 15, n, next);
    throw new RangeError(`no instruction ${word.toString(16)} ${next.toString(16)}`);
  }

  /** Branches with a condition or far ones; the others are those of the smaller processor. */
  private branches(word: number, next: number): void {
    if (bit(next, 14) || (!bit(next, 12) && ((word >> 6) & 15) >= 14)) return super.wide(word, next);
    const from = (this.pc + 2) >>> 0;
    const s = (word >> 10) & 1;
    const low = (next & 0x7ff) << 1;
    if (bit(next, 12)) {
      const [i1, i2] = [(next >> 13) & 1, (next >> 11) & 1].map((one) => 1 - (one ^ s));
      const far = (s << 24) | ((i1 ?? 0) << 23) | ((i2 ?? 0) << 22) | ((word & 0x3ff) << 12) | low;
      this.cycle += 1;
      return this.jump(from + signed(far >>> 0, 25));
    }
    const [j1, j2] = [(next >> 13) & 1, (next >> 11) & 1];
    const far = (s << 20) | (j2 << 19) | (j1 << 18) | ((word & 0x3f) << 12) | low;
    this.regs[15] = from;
    if (!this.holds((word >> 6) & 15)) return;
    this.cycle += 1;
    this.jump(from + signed(far >>> 0, 21));
  }

  /** A value shifted by an immediate, and the carry that is left. */
  private shifted(kind: number, value: number, by: number): { value: number; carry: boolean } {
    const before: Flags = { ...this.flags };
    if (by === 0 && kind === 0) return { value, carry: before.c };
    if (kind === 3) {
      const turned = by === 0 ? ((before.c ? 0x80000000 : 0) | (value >>> 1)) >>> 0 : undefined;
      const result = turned ?? ((value >>> by) | (value << (32 - by))) >>> 0;
      return { value: result, carry: by === 0 ? bit(value, 0) : bit(result, 31) };
    }
    const result = this.shift(kind, value, by === 0 ? 32 : by);
    const { c: carry } = this.flags;
    this.flags = before;
    return { value: result, carry };
  }

  private operate(op: number, sets: boolean, n: number, d: number, value: number, carry: boolean): void {
    const before = { ...this.flags };
    const one = n === 15 && (op === 2 || op === 3) ? 0 : this.get(n);
    const old = before.c ? 1 : 0;
    const results: Readonly<Record<number, () => number>> = {
      0: () => this.nz(one & value),
      1: () => this.nz(one & ~value),
      2: () => this.nz(one | value),
      3: () => this.nz(one | ~value),
      4: () => this.nz(one ^ value),
      8: () => this.sum(one, value, 0),
      10: () => this.sum(one, value, old),
      11: () => this.less(one, value, old),
      13: () => this.less(one, value),
      14: () => this.less(value, one),
    };
    const operation = results[op];
    if (!operation) throw new RangeError(`no operation ${op}`);
    const result = operation();
    if (op < 5) this.flags.c = carry;
    if (!sets) this.flags = before;
    // Tests and comparisons keep only the flags.
    if (d !== 15) this.set(d, result);
  }

  /** Immediates as they are, and fields of bits. */
  private plain(op: number, n: number, d: number, code: number, next: number): void {
    const least = ((next >> 10) & 0x1c) | ((next >> 6) & 3);
    const size = next & 31;
    const field = (bits: number): number => (bits > 31 ? 0xffffffff : 2 ** bits - 1);
    if (op === 0 || op === 10) {
      const one = n === 15 ? (this.pc & ~3) >>> 0 : this.get(n);
      this.set(d, op === 0 ? one + code : one - code);
    } else if (op === 4) this.set(d, (n << 12) | code);
    else if (op === 12) this.set(d, (this.get(d) & 0xffff) | (((n << 12) | code) << 16));
    else if (op === 20 || op === 28) {
      const held = (this.get(n) >>> least) & field(size + 1);
      this.set(d, op === 20 ? signed(held >>> 0, size + 1) : held);
    } else if (op === 22) {
      const mask = field(size - least + 1) << least;
      const put = n === 15 ? 0 : this.get(n) << least;
      this.set(d, (this.get(d) & ~mask) | (put & mask));
    } else throw new RangeError(`no immediate ${op}`);
  }

  /** One register loaded or stored. */
  private single(word: number, next: number): void {
    const n = word & 15;
    const load = bit(word, 4);
    const bytes = ([1, 2, 4] as const)[(word >> 5) & 3];
    if (bytes === undefined) throw new RangeError(`no size ${word.toString(16)}`);
    const base = n === 15 ? this.pc & ~3 : this.get(n);
    let at = base;
    if (n === 15) at += bit(word, 7) ? next & 0xfff : -(next & 0xfff);
    else if (bit(word, 7)) at += next & 0xfff;
    else if (!bit(next, 11)) at += this.get(next & 15) * 2 ** ((next >> 4) & 3);
    else {
      const off = bit(next, 9) ? next & 0xff : -(next & 0xff);
      if (bit(next, 10)) at += off;
      if (bit(next, 8)) this.set(n, base + off);
    }
    const to = next >> 12;
    if (to === 15) {
      this.cycle += 1;
      return this.branchTo(this.bus.read(at >>> 0, 4));
    }
    this.memory(load, bytes, at, to, bit(word, 8));
  }

  /** Two registers loaded or stored, and branches by a table. */
  private double(word: number, next: number): void {
    const n = word & 15;
    if ((word & 0xfff0) === 0xe8d0 && (next & 0xffe0) === 0xf000) {
      const half = bit(next, 4);
      const at = (n === 15 ? this.pc : this.get(n)) + this.get(next & 15) * (half ? 2 : 1);
      this.cycle += 2;
      return this.jump(this.pc + 2 * this.bus.read(at >>> 0, half ? 2 : 1));
    }
    const off = (bit(word, 7) ? 4 : -4) * (next & 0xff);
    const base = this.get(n);
    const at = bit(word, 8) ? base + off : base;
    this.memory(bit(word, 4), 4, at, next >> 12);
    this.memory(bit(word, 4), 4, at + 4, (next >> 8) & 15);
    if (bit(word, 5)) this.set(n, base + off);
  }

  /** A list of registers, up from a base or down to it. */
  private many(word: number, next: number): void {
    const n = word & 15;
    const load = bit(word, 4);
    const list = Array.from({ length: 16 }, (_, at) => at).filter((at) => bit(next, at));
    const down = bit(word, 8);
    const base = this.get(n);
    let at = down ? base - 4 * list.length : base;
    if (bit(word, 5)) this.set(n, down ? at : base + 4 * list.length);
    this.cycle += list.length;
    for (const one of list) {
      if (!load) this.bus.write(at >>> 0, this.get(one), 4);
      else if (one === 15) {
        this.cycle += 1;
        return this.branchTo(this.bus.read(at >>> 0, 4));
      } else this.set(one, this.bus.read(at >>> 0, 4));
      at += 4;
    }
  }

  /** Shifts by registers, extensions, leading zeros. */
  private extended(word: number, next: number): void {
    const [n, d, m] = [word & 15, (next >> 8) & 15, next & 15];
    const value = this.get(m);
    if ((word & 0xff80) === 0xfa80 && (next & 0xf0f0) === 0xf080) return this.set(d, Math.clz32(value));
    if ((word & 0xff80) !== 0xfa00) throw new RangeError(`no instruction ${word.toString(16)}`);
    if ((next & 0xf0) === 0) {
      const before = { ...this.flags };
      const kind = (word >> 5) & 3;
      if (kind === 3) throw new RangeError('no rotation by a register');
      this.set(d, this.shift(kind, this.get(n), value & 0xff));
      if (!bit(word, 4)) this.flags = before;
      return;
    }
    const by = 8 * ((next >> 4) & 3);
    const turned = by === 0 ? value : (value >>> by) | (value << (32 - by));
    const bits = bit(word, 6) ? 8 : 16;
    const low = turned & (2 ** bits - 1);
    const own = bit(word, 4) ? low : signed(low, bits);
    this.set(d, n === 15 ? own : this.get(n) + own);
  }

  /** Products, sums of products, divisions. */
  private products(op: number, n: number, next: number): void {
    const [a, d, m] = [next >> 12, (next >> 8) & 15, next & 15];
    const [one, other] = [this.get(n), this.get(m)];
    const kind = (next >> 4) & 15;
    const pair = (whole: bigint): void => {
      this.set(a, Number(whole & 0xffffffffn));
      this.set(d, Number((whole >> 32n) & 0xffffffffn));
    };
    const held = (): bigint => (BigInt(this.get(d)) << 32n) | BigInt(this.get(a));
    if (op === 0 && kind < 2) {
      const product = Math.imul(one, other);
      this.set(d, kind === 1 ? this.get(a) - product : product + (a === 15 ? 0 : this.get(a)));
    } else if (op === 8) pair(BigInt(one | 0) * BigInt(other | 0));
    else if (op === 10) pair(BigInt(one) * BigInt(other));
    else if (op === 12) pair(held() + BigInt(one | 0) * BigInt(other | 0));
    else if (op === 14) pair(held() + BigInt(one) * BigInt(other));
    else if (op === 9 || op === 11) {
      this.cycle += 11;
      const [top, by] = op === 9 ? [one | 0, other | 0] : [one, other];
      this.set(d, by === 0 ? 0 : Math.trunc(top / by));
    } else throw new RangeError(`no product ${op}`);
  }
}
