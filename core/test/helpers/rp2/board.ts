import { Memory } from '../arm/memory.ts';
import { ThumbCpu } from '../arm/thumb.ts';

const FLASH = 0x10000000;
const [RESETS, IO_BANK0, TIMER, PWM, SIO, NVIC] = [
  0x4000c000, 0x40014000, 0x40054000, 0x40050000, 0xd0000000, 0xe000e100,
];

/** One of the eight slices: a counter with a divider of sixteenths, two compare values that wait for its wrap, two outputs. */
type Slice = {
  csr: number;
  div: number;
  cc: number;
  top: number;
  /** What the counter goes by: taken over as it wraps. */
  live: { a: number; b: number; top: number };
  count: number;
  down: boolean;
  /** The cycle up to which it has run, and sixteenths of a clock that are left over. */
  now: number;
  rest: number;
};

/**
 * An RP2040 as far as its timers and pins go, written from its data sheet: eight slices of PWM, four alarms of the counter of microseconds, pins by function,
 * one core. Its clock is told, since the generated code leaves it to the start-up.
 */
export class PicoBoard {
  readonly cpu: ThumbCpu;
  readonly edges = new Map<string, number[]>();
  private readonly memory: Memory;
  private readonly others = new Map<number, number>();
  private readonly slices: Slice[] = Array.from({ length: 8 }, () => ({
    ...{ csr: 0, div: 0x10, cc: 0, top: 0xffff, count: 0, down: false, now: 0, rest: 0 },
    live: { a: 0, b: 0, top: 0xffff },
  }));
  private wraps = 0;
  private readonly alarms = new Map<number, number>();
  private rang = 0;
  private ran = 0;
  private event = 0;
  private readonly levels: (0 | 1)[] = Array.from({ length: 30 }, () => 0 as const);

  constructor(
    program: Uint8Array,
    private readonly cyclesPerMicrosecond: number,
  ) {
    this.memory = new Memory(program, FLASH);
    this.cpu = new ThumbCpu({
      read: (address, bytes) => this.read(address, bytes),
      write: (address, value, bytes) => this.write(address, value, bytes),
    });
    this.cpu.regs[13] = this.read(FLASH, 4);
    this.cpu.regs[15] = (this.read(FLASH + 4, 4) & ~1) >>> 0;
  }

  private read(address: number, bytes: 1 | 2 | 4): number {
    const held = this.memory.read(address, bytes);
    if (held !== undefined) return held;
    this.runTo(this.cpu.cycle);
    return this.readRegister(address);
  }

  private readRegister(address: number): number {
    if (address === RESETS + 8) return ~(this.others.get(RESETS) ?? 0x1ffffff) >>> 0;
    if (address === RESETS) return this.others.get(RESETS) ?? 0x1ffffff;
    if (address === TIMER + 0x28) return Math.floor(this.cpu.cycle / this.cyclesPerMicrosecond) >>> 0;
    if (address >= TIMER + 0x10 && address < TIMER + 0x20)
      return this.alarms.get((address - TIMER - 0x10) / 4) ?? 0;
    if (address === TIMER + 0x34) return this.rang;
    if (address === TIMER + 0x40) return this.rang & (this.others.get(TIMER + 0x38) ?? 0);
    if (address === PWM + 0xa4) return this.wraps;
    if (address === PWM + 0xb0) return this.wraps & (this.others.get(PWM + 0xa8) ?? 0);
    const slice = this.sliceAt(address);
    if (slice) {
      const { own, place } = slice;
      return [own.csr, own.div, own.count, own.cc, own.top][place] ?? 0;
    }
    return this.others.get(address) ?? 0;
  }

  private sliceAt(address: number): { own: Slice; place: number } | undefined {
    const at = address - PWM;
    if (at < 0 || at >= 0xa0) return undefined;
    const own = this.slices[Math.floor(at / 0x14)];
    return own && { own, place: (at % 0x14) / 4 };
  }

  private write(address: number, value: number, bytes: 1 | 2 | 4): void {
    if (this.memory.write(address, value, bytes)) return;
    if (bytes !== 4) throw new RangeError(`a peripheral is written in ${bytes} bytes`);
    this.runTo(this.cpu.cycle);
    this.writeRegister(address, value >>> 0);
    this.event = 0;
    this.look(this.cpu.cycle);
  }

  private writeRegister(address: number, value: number): void {
    const sets: Readonly<Record<number, (before: number) => number>> = {
      [SIO + 0x14]: (before) => before | value,
      [SIO + 0x18]: (before) => before & ~value,
      [SIO + 0x1c]: (before) => before ^ value,
    };
    const change = sets[address];
    if (change) this.others.set(SIO + 0x10, change(this.others.get(SIO + 0x10) ?? 0) >>> 0);
    else if (address === SIO + 0x24)
      this.others.set(SIO + 0x20, ((this.others.get(SIO + 0x20) ?? 0) | value) >>> 0);
    else if (address === TIMER + 0x34) this.rang &= ~value;
    else if (address === PWM + 0xa4) this.wraps &= ~value;
    else if (address === NVIC) this.others.set(NVIC, ((this.others.get(NVIC) ?? 0) | value) >>> 0);
    else if (address >= TIMER + 0x10 && address < TIMER + 0x20)
      this.alarms.set((address - TIMER - 0x10) / 4, value);
    else {
      const slice = this.sliceAt(address);
      if (slice) this.writeSlice(slice.own, slice.place, value);
      else this.others.set(address, value);
    }
  }

  private writeSlice(own: Slice, place: number, value: number): void {
    const stopped = (own.csr & 1) === 0;
    if (place === 0) own.csr = value;
    else if (place === 1) own.div = value;
    else if (place === 2) own.count = value & 0xffff;
    else if (place === 3) own.cc = value;
    else own.top = value & 0xffff;
    // A slice that stands takes them at once.
    if (stopped) this.take(own);
  }

  private take(own: Slice): void {
    own.live = { a: own.cc & 0xffff, b: own.cc >>> 16, top: own.top };
  }

  /** Sixteenths of a clock that one count takes. */
  private step({ div }: Slice): number {
    const sixteenths = div & 0xfff;
    return sixteenths < 16 ? 256 * 16 + sixteenths : sixteenths;
  }

  /** Counts until the next that changes an output or wraps. */
  private quiet({ count, down, csr, live: { a, b, top } }: Slice): number {
    const marks = down
      ? [count - a + 1, count - b + 1, count + 1].filter((one) => one > 0)
      : [a - count, b - count, top - count + 1].filter((one) => one > 0);
    return Math.max(1, Math.min(...marks, (csr & 2) === 0 ? Infinity : 0xffff));
  }

  private nextOf(own: Slice): number {
    if ((own.csr & 1) === 0) return Infinity;
    return own.now + Math.ceil((this.quiet(own) * this.step(own) - own.rest) / 16);
  }

  /** One count: phase-correct ones stay for two at each end, and wrap as they come to 0. */
  private count(own: Slice, at: number): void {
    const wrap = (): void => {
      this.wraps |= 1 << at;
      this.take(own);
    };
    if ((own.csr & 2) === 0) {
      if (own.count === own.live.top) {
        own.count = 0;
        wrap();
      } else own.count = (own.count + 1) & 0xffff;
      return;
    }
    if (own.down) {
      if (own.count === 0) {
        own.down = false;
        wrap();
      } else own.count -= 1;
    } else if (own.count >= own.live.top) own.down = true;
    else own.count += 1;
  }

  private runSlice(own: Slice, at: number, cycle: number): void {
    if ((own.csr & 1) !== 0) {
      let counts = Math.floor(((cycle - own.now) * 16 + own.rest) / this.step(own));
      own.rest = (cycle - own.now) * 16 + own.rest - counts * this.step(own);
      while (counts > 0) {
        const free = Math.min(counts, this.quiet(own)) - 1;
        if (free > 0) {
          own.count += own.down ? -free : free;
          counts -= free;
          continue;
        }
        this.count(own, at);
        counts -= 1;
      }
    }
    own.now = cycle;
  }

  /** The next cycle in which an alarm rings: when the counter of microseconds comes to it. */
  private nextAlarm(): number {
    const us = Math.floor(this.ran / this.cyclesPerMicrosecond);
    const left = [...this.alarms.values()].map((alarm) => {
      const ahead = (alarm - us) >>> 0;
      return (us + (ahead === 0 ? 2 ** 32 : ahead)) * this.cyclesPerMicrosecond;
    });
    return Math.min(Infinity, ...left);
  }

  private runTo(cycle: number): void {
    if (cycle <= this.ran) return;
    for (;;) {
      const next = Math.min(this.nextAlarm(), ...this.slices.map((one) => this.nextOf(one)));
      if (next > cycle) break;
      this.slices.forEach((one, at) => this.runSlice(one, at, next));
      const us = Math.floor(next / this.cyclesPerMicrosecond) >>> 0;
      if (next % this.cyclesPerMicrosecond === 0)
        for (const [n, alarm] of this.alarms) if (alarm === us) this.rang |= 1 << n;
      this.ran = next;
      this.look(next);
    }
    this.slices.forEach((one, at) => this.runSlice(one, at, cycle));
    this.ran = cycle;
    this.event = Math.min(this.nextAlarm(), ...this.slices.map((one) => this.nextOf(one)));
  }

  private look(cycle: number): void {
    const out = this.others.get(SIO + 0x10) ?? 0;
    const enabled = this.others.get(SIO + 0x20) ?? 0;
    for (let pin = 0; pin < 30; pin += 1) {
      const func = (this.others.get(IO_BANK0 + 8 * pin + 4) ?? 31) & 31;
      const own = this.slices[(pin >> 1) & 7];
      let level: number = 0;
      if (func === 5) level = ((enabled & out) >>> pin) & 1;
      else if (func === 4 && own) {
        const high = own.count < (pin % 2 === 0 ? own.live.a : own.live.b);
        const inverted = ((own.csr >> (pin % 2 === 0 ? 2 : 3)) & 1) === 1;
        level = high !== inverted ? 1 : 0;
      }
      if (level === this.levels[pin]) continue;
      this.levels[pin] = level as 0 | 1;
      const seen = this.edges.get(`GPIO${pin}`) ?? [];
      seen.push(cycle);
      this.edges.set(`GPIO${pin}`, seen);
    }
  }

  /** The handler of the lowest interrupt that waits and is enabled. */
  private pending(): number | undefined {
    const enabled = this.others.get(NVIC) ?? 0;
    const rings = this.rang & (this.others.get(TIMER + 0x38) ?? 0);
    const wraps = this.wraps & (this.others.get(PWM + 0xa8) ?? 0);
    const waiting = ((rings & 15) | (wraps !== 0 ? 16 : 0)) & enabled;
    if (waiting === 0) return undefined;
    const number = 31 - Math.clz32(waiting & -waiting);
    return this.read(FLASH + 4 * (16 + number), 4);
  }

  /** Runs until a cycle; handlers do not interrupt each other here, since all have one priority. */
  runUntil(end: number): void {
    const { cpu } = this;
    while (cpu.cycle < end) {
      if (cpu.cycle >= this.event) this.runTo(cpu.cycle);
      if (cpu.depth === 0 && !cpu.masked) {
        const handler = this.pending();
        if (handler !== undefined) {
          cpu.enter((handler & ~1) >>> 0);
          continue;
        }
        if (cpu.idle && this.event > cpu.cycle + 4) {
          cpu.cycle += 2 * Math.max(1, Math.floor((Math.min(this.event, end) - cpu.cycle) / 2) - 1);
          continue;
        }
      }
      cpu.step();
    }
    this.runTo(end);
  }
}
