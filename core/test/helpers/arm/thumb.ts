/** What the processor reads and writes beside its registers: words, half words and bytes of the memory and of peripherals. */
export type Bus = {
  read: (address: number, bytes: 1 | 2 | 4) => number;
  write: (address: number, value: number, bytes: 1 | 2 | 4) => void;
};

/** What a return from a handler looks like in the program counter. */
const RETURN = 0xfffffff9;

export const signed = (value: number, bits: number): number =>
  value >= 2 ** (bits - 1) ? value - 2 ** bits : value;
export const bit = (value: number, at: number): boolean => ((value >>> at) & 1) === 1;

/** The flags of the last result. */
export type Flags = { n: boolean; z: boolean; c: boolean; v: boolean };

/**
 * A Cortex-M0+ processor: the 16-bit instructions and the call of ARMv6-M, in the cycles of its manual (a taken branch two, a load or store
 * two, one each for a list and its first). Exceptions save eight words.
 */
export class ThumbCpu {
  readonly regs = new Uint32Array(16);
  cycle = 0;
  masked = false;
  /** Handlers that run, one within the other. */
  depth = 0;
  protected flags: Flags = { n: false, z: false, c: false, v: false };
  /** Cycles from an interrupt to the first instruction of its handler, and back. */
  protected readonly way: { entry: number; exit: number } = { entry: 15, exit: 10 };

  constructor(protected readonly bus: Bus) {}

  get pc(): number {
    return this.regs[15] ?? 0;
  }

  protected set(at: number, value: number): void {
    this.regs[at] = value >>> 0;
  }

  protected get(at: number): number {
    return at === 15 ? (this.pc + 4) >>> 0 : (this.regs[at] ?? 0);
  }

  protected nz(value: number): number {
    const result = value >>> 0;
    this.flags.n = bit(result, 31);
    this.flags.z = result === 0;
    return result;
  }

  protected sum(one: number, other: number, carry: number): number {
    const whole = one + other + carry;
    const result = whole >>> 0;
    this.flags.c = whole > 0xffffffff;
    this.flags.v = bit(~(one ^ other) & (one ^ result), 31);
    return this.nz(result);
  }

  protected less(one: number, other: number, carry = 1): number {
    return this.sum(one, ~other >>> 0, carry);
  }

  protected shift(kind: number, value: number, by: number): number {
    if (by === 0) return this.nz(value);
    if (kind === 0) {
      this.flags.c = by <= 32 && bit(value, 32 - by);
      return this.nz(by > 31 ? 0 : value << by);
    }
    if (kind === 1) {
      this.flags.c = by <= 32 && bit(value, by - 1);
      return this.nz(by > 31 ? 0 : value >>> by);
    }
    const amount = Math.min(by, 32);
    this.flags.c = bit(value, Math.min(amount, 32) - 1);
    return this.nz(amount > 31 ? (bit(value, 31) ? 0xffffffff : 0) : value >> amount);
  }

  protected holds(condition: number): boolean {
    const { n, z, c, v } = this.flags;
    const tests = [z, c, n, v, c && !z, n === v, !z && n === v, true];
    return (tests[condition >> 1] ?? true) !== bit(condition, 0);
  }

  protected jump(to: number): void {
    this.regs[15] = (to & ~1) >>> 0;
  }

  protected push(list: readonly number[]): void {
    let at = (this.get(13) - 4 * list.length) >>> 0;
    this.set(13, at);
    for (const one of list) {
      this.bus.write(at, this.regs[one] ?? 0, 4);
      at += 4;
    }
  }

  /** Enters a handler: eight words are saved. */
  enter(handler: number): void {
    const at = (this.get(13) - 32) >>> 0;
    const { n, z, c, v } = this.flags;
    const flags = (n ? 8 : 0) | (z ? 4 : 0) | (c ? 2 : 0) | (v ? 1 : 0);
    const saved = [0, 1, 2, 3, 12, 14].map((one) => this.regs[one] ?? 0);
    [...saved, this.pc, flags].forEach((value, k) => this.bus.write(at + 4 * k, value, 4));
    this.set(13, at);
    this.set(14, RETURN);
    this.depth += 1;
    this.cycle += this.way.entry;
    this.jump(handler);
  }

  private leave(): void {
    const at = this.get(13);
    [0, 1, 2, 3, 12, 14].forEach((one, k) => this.set(one, this.bus.read(at + 4 * k, 4)));
    const pc = this.bus.read(at + 24, 4);
    const flags = this.bus.read(at + 28, 4);
    this.flags = { n: bit(flags, 3), z: bit(flags, 2), c: bit(flags, 1), v: bit(flags, 0) };
    this.set(13, at + 32);
    this.depth -= 1;
    this.cycle += this.way.exit;
    this.jump(pc);
  }

  protected branchTo(to: number): void {
    this.cycle += 1;
    if (to >>> 0 >= 0xfffffff0) this.leave();
    else this.jump(to);
  }

  /** Instructions of two low registers by their four bits. */
  private data(op: number, d: number, m: number): void {
    const [one, other] = [this.get(d), this.get(m)];
    const carry = this.flags.c ? 1 : 0;
    const results: (() => number | undefined)[] = [
      () => this.nz(one & other),
      () => this.nz(one ^ other),
      () => this.shift(0, one, other & 0xff),
      () => this.shift(1, one, other & 0xff),
      () => this.shift(2, one, other & 0xff),
      () => this.sum(one, other, carry),
      () => this.less(one, other, carry),
      () => {
        const by = other & 31;
        return this.nz(by === 0 ? one : (one >>> by) | (one << (32 - by)));
      },
      () => void this.nz(one & other),
      () => this.less(0, other),
      () => void this.less(one, other),
      () => void this.sum(one, other, 0),
      () => this.nz(one | other),
      () => this.nz(Math.imul(one, other)),
      () => this.nz(one & ~other),
      () => this.nz(~other),
    ];
    const result = results[op]?.();
    if (result !== undefined) this.set(d, result);
  }

  protected memory(load: boolean, bytes: 1 | 2 | 4, at: number, d: number, sign = false): void {
    this.cycle += 1;
    const address = at >>> 0;
    if (!load) this.bus.write(address, this.get(d), bytes);
    else {
      const value = this.bus.read(address, bytes);
      this.set(d, sign ? signed(value, 8 * bytes) : value);
    }
  }

  /** Instructions that begin with 1011: the stack, extensions, masks, hints. */
  protected various(word: number): void {
    const list = [0, 1, 2, 3, 4, 5, 6, 7].filter((one) => bit(word, one));
    const [d, m] = [word & 7, (word >> 3) & 7];
    if (word >> 8 === 0xb0) this.set(13, this.get(13) + (bit(word, 7) ? -4 : 4) * (word & 0x7f));
    else if ((word & 0xfe00) === 0xb400) {
      const all = bit(word, 8) ? [...list, 14] : list;
      this.cycle += all.length;
      this.push(all);
    } else if ((word & 0xfe00) === 0xbc00) {
      let at = this.get(13);
      for (const one of list) {
        this.set(one, this.bus.read(at, 4));
        at += 4;
      }
      this.cycle += list.length;
      if (!bit(word, 8)) return this.set(13, at);
      const to = this.bus.read(at, 4);
      this.set(13, at + 4);
      this.cycle += 2;
      this.branchTo(to);
    } else if (word >> 6 === 0x2c8) this.set(d, signed(this.get(m) & 0xffff, 16));
    else if (word >> 6 === 0x2c9) this.set(d, signed(this.get(m) & 0xff, 8));
    else if (word >> 6 === 0x2ca) this.set(d, this.get(m) & 0xffff);
    else if (word >> 6 === 0x2cb) this.set(d, this.get(m) & 0xff);
    else if (word === 0xb672) this.masked = true;
    else if (word === 0xb662) this.masked = false;
    else if (word >> 8 !== 0xbf) throw new RangeError(`no instruction ${word.toString(16)}`);
  }

  /** Instructions of four bytes: the call, barriers, and moves to and from the mask. */
  protected wide(word: number, next: number): void {
    this.regs[15] = (this.pc + 2) >>> 0;
    if ((next & 0xd000) === 0xd000) {
      const s = (word >> 10) & 1;
      const [i1, i2] = [(next >> 13) & 1, (next >> 11) & 1].map((one) => 1 - (one ^ s));
      const far =
        (s << 24) | ((i1 ?? 0) << 23) | ((i2 ?? 0) << 22) | ((word & 0x3ff) << 12) | ((next & 0x7ff) << 1);
      const from = this.pc;
      this.set(14, from | 1);
      this.cycle += 2;
      this.jump(from + signed(far >>> 0, 25));
      return;
    }
    this.cycle += 2;
    // mrs and msr of PRIMASK, and barriers.
    if ((word & 0xfff0) === 0xf3e0) this.set((next >> 8) & 15, this.masked ? 1 : 0);
    else if ((word & 0xfff0) === 0xf380) this.masked = bit(this.get(word & 15), 0);
    else if ((word & 0xfff0) !== 0xf3b0) throw new RangeError(`no instruction ${word.toString(16)}`);
  }

  private transfers(word: number): void {
    const load = bit(word, 11);
    const [d, n, m] = [word & 7, (word >> 3) & 7, (word >> 6) & 7];
    const immediate = (word >> 6) & 31;
    switch (word >> 12) {
      case 5: {
        const at = this.get(n) + this.get(m);
        const kind = (word >> 9) & 7;
        const sizes = [4, 2, 1, 1, 4, 2, 1, 2] as const;
        return this.memory(kind >= 3, sizes[kind] ?? 4, at, d, kind === 3 || kind === 7);
      }
      case 6:
        return this.memory(load, 4, this.get(n) + 4 * immediate, d);
      case 7:
        return this.memory(load, 1, this.get(n) + immediate, d);
      case 8:
        return this.memory(load, 2, this.get(n) + 2 * immediate, d);
      default:
        return this.memory(load, 4, this.get(13) + 4 * (word & 0xff), (word >> 8) & 7);
    }
  }

  private lists(word: number): void {
    const n = (word >> 8) & 7;
    const list = [0, 1, 2, 3, 4, 5, 6, 7].filter((one) => bit(word, one));
    let at = this.get(n);
    for (const one of list) {
      if (bit(word, 11)) this.set(one, this.bus.read(at, 4));
      else this.bus.write(at, this.get(one), 4);
      at += 4;
    }
    this.cycle += list.length;
    if (!bit(word, 11) || !list.includes(n)) this.set(n, at);
  }

  /** Instructions that begin with 010001: any register. */
  private high(word: number): void {
    const d = (word & 7) | ((word >> 4) & 8);
    const m = (word >> 3) & 15;
    const value = this.get(m);
    switch ((word >> 8) & 3) {
      case 0:
        return d === 15 ? this.branchTo(this.get(15) + value) : this.set(d, this.get(d) + value);
      case 1:
        return void this.less(this.get(d), value);
      case 2:
        return d === 15 ? this.branchTo(value) : this.set(d, value);
      default:
        if (bit(word, 7)) this.set(14, this.pc | 1);
        return this.branchTo(value);
    }
  }

  private arithmetic(word: number): void {
    const [d, n, m] = [word & 7, (word >> 3) & 7, (word >> 6) & 7];
    const kind = (word >> 11) & 3;
    if (word >> 13 === 1) {
      const [at, k] = [(word >> 8) & 7, word & 0xff];
      if (kind === 0) this.set(at, this.nz(k));
      else if (kind === 1) this.less(this.get(at), k);
      else this.set(at, kind === 2 ? this.sum(this.get(at), k, 0) : this.less(this.get(at), k));
      return;
    }
    if (kind < 3) {
      const by = (word >> 6) & 31;
      this.set(d, this.shift(kind, this.get(n), kind > 0 && by === 0 ? 32 : by));
      return;
    }
    const other = bit(word, 10) ? m : this.get(m);
    this.set(d, bit(word, 9) ? this.less(this.get(n), other) : this.sum(this.get(n), other, 0));
  }

  /** Runs one instruction. */
  step(): void {
    const at = this.pc;
    const word = this.bus.read(at, 2);
    this.cycle += 1;
    const top = word >> 12;
    // Branches are relative to four bytes on, which `get(15)` gives while the counter still stands here.
    const here = this.get(15);
    this.regs[15] = (at + 2) >>> 0;
    if (top < 4) return this.arithmetic(word);
    if (word >> 10 === 0x10) return this.data((word >> 6) & 15, word & 7, (word >> 3) & 7);
    if (word >> 10 === 0x11) {
      this.regs[15] = at;
      const before = this.pc;
      const d = (word & 7) | ((word >> 4) & 8);
      this.highAt(word, before, d);
      return;
    }
    if (word >> 11 === 9) {
      this.cycle += 1;
      return this.set((word >> 8) & 7, this.bus.read(((here & ~3) >>> 0) + 4 * (word & 0xff), 4));
    }
    if (top < 10) return this.transfers(word);
    if (top === 10)
      return this.set((word >> 8) & 7, (bit(word, 11) ? this.get(13) : here & ~3) + 4 * (word & 0xff));
    if (top === 11) return this.various(word);
    if (top === 12) return this.lists(word);
    if (top === 13) {
      if (!this.holds((word >> 8) & 15)) return undefined;
      this.cycle += 1;
      return this.jump(here + 2 * signed(word & 0xff, 8));
    }
    if (word >> 11 === 0x1c) {
      this.cycle += 1;
      return this.jump(here + 2 * signed(word & 0x7ff, 11));
    }
    return this.wide(word, this.bus.read(at + 2, 2));
  }

  /** An instruction of any register at its place, after which the counter goes on unless it branched. */
  private highAt(word: number, at: number, d: number): void {
    const branches = ((word >> 8) & 3) === 3 || (d === 15 && ((word >> 8) & 3) !== 1);
    if (branches) {
      this.regs[15] = at + 2;
      // The value of the counter itself is not used by what is compiled here.
      return this.high(word);
    }
    this.high(word);
    this.regs[15] = at + 2;
  }

  /** Whether it stands in a branch to itself. */
  get idle(): boolean {
    return this.bus.read(this.pc, 2) === 0xe7fe;
  }
}
