import { Memory } from '../arm/memory.ts';
import { Thumb2Cpu } from '../arm/thumb2.ts';
import { F401Timer, type TimerForm } from './timer.ts';

const FLASH = 0x08000000;
const [SYSTICK, SET_ENABLE, PRIORITY, SYSTEM_PRIORITY] = [0xe000e010, 0xe000e100, 0xe000e400, 0xe000ed20];

/** Timers by their base addresses, with the interrupts of their updates and of their matches. */
const TIMERS: readonly { base: number; form: TimerForm; update: number; match: number }[] = (
  [
    [0x40010000, 16, 4, true, true, 25, 27],
    [0x40000000, 32, 4, true, false, 28, 28],
    [0x40000400, 16, 4, true, false, 29, 29],
    [0x40000800, 16, 4, true, false, 30, 30],
    [0x40000c00, 32, 4, true, false, 50, 50],
    [0x40014000, 16, 2, false, false, 24, 24],
    [0x40014400, 16, 1, false, false, 25, 25],
    [0x40014800, 16, 1, false, false, 26, 26],
  ] as const
).map(([base, bits, channels, centers, main, update, match]) => ({
  ...{ base, form: { bits, channels, centers, main }, update, match },
}));

/** Outputs by pin and alternate function: the timer's place in the list, its channel, and whether it is the second output of it. */
const ROUTES: Readonly<Record<string, readonly (readonly [number, number, number, boolean?])[]>> = {
  ...{
    PA0: [
      [1, 1, 0],
      [2, 4, 0],
    ],
    PA1: [
      [1, 1, 1],
      [2, 4, 1],
    ],
    PA2: [
      [1, 1, 2],
      [2, 4, 2],
      [3, 5, 0],
    ],
  },
  ...{
    PA3: [
      [1, 1, 3],
      [2, 4, 3],
      [3, 5, 1],
    ],
    PA5: [[1, 1, 0]],
    PA6: [[2, 2, 0]],
  },
  ...{
    PA7: [
      [1, 0, 0, true],
      [2, 2, 1],
    ],
    PA8: [[1, 0, 0]],
    PA9: [[1, 0, 1]],
    PA10: [[1, 0, 2]],
  },
  ...{
    PA11: [[1, 0, 3]],
    PA15: [[1, 1, 0]],
    PB0: [
      [1, 0, 1, true],
      [2, 2, 2],
    ],
    PB1: [
      [1, 0, 2, true],
      [2, 2, 3],
    ],
  },
  ...{ PB3: [[1, 1, 1]], PB4: [[2, 2, 0]], PB5: [[2, 2, 1]], PB6: [[2, 3, 0]], PB7: [[2, 3, 1]] },
  ...{
    PB8: [
      [2, 3, 2],
      [3, 6, 0],
    ],
    PB9: [
      [2, 3, 3],
      [3, 7, 0],
    ],
    PB10: [[1, 1, 2]],
  },
  ...{ PB13: [[1, 0, 0, true]], PB14: [[1, 0, 1, true]], PB15: [[1, 0, 2, true]] },
  ...{ PC6: [[2, 2, 0]], PC7: [[2, 2, 1]], PC8: [[2, 2, 2]], PC9: [[2, 2, 3]] },
};

/** The lowest interrupt of the highest urgency that waits. */
type Waiting = { number: number; urgency: number };

/**
 * An STM32F401 as far as its timers and pins go, written from its reference manual: eight timers, the system timer, ports A to C, the
 * interrupt controller with urgencies. All timers run at the clock of the processor, as with the usual dividers.
 */
export class F401Board {
  readonly cpu: Thumb2Cpu;
  readonly edges = new Map<string, number[]>();
  private readonly memory: Memory;
  private readonly others = new Map<number, number>();
  private readonly timers = TIMERS.map(({ form }) => new F401Timer(form));
  private readonly ports = [0, 1, 2].map(() => ({ modes: 0, out: 0, low: 0, high: 0 }));
  private readonly levels = new Map<string, 0 | 1>();
  private readonly system = { control: 0, reload: 0, zeroAt: Infinity, waits: false };
  private readonly active: number[] = [];
  private waiting: Waiting | undefined;
  private ran = 0;
  private event = 0;

  constructor(program: Uint8Array) {
    this.memory = new Memory(program, FLASH);
    this.cpu = new Thumb2Cpu({
      read: (address, bytes) => this.read(address, bytes),
      write: (address, value, bytes) => this.write(address, value, bytes),
    });
    this.cpu.regs[13] = this.read(FLASH, 4);
    this.cpu.regs[15] = (this.read(FLASH + 4, 4) & ~1) >>> 0;
  }

  private timerAt(address: number): { timer: F401Timer; offset: number } | undefined {
    const at = TIMERS.findIndex(({ base }) => address >= base && address < base + 0x50);
    const timer = this.timers[at];
    return timer && { timer, offset: address - (TIMERS[at]?.base ?? 0) };
  }

  private read(address: number, bytes: 1 | 2 | 4): number {
    const held = this.memory.read(address, bytes);
    if (held !== undefined) return held;
    this.runTo(this.cpu.cycle);
    const own = this.timerAt(address);
    if (own) return own.timer.read(own.offset) >>> 0;
    const port = this.ports[(address - 0x40020000) / 0x400];
    if (port) return port.modes;
    const place = (address & 0xfff) % 0x400;
    const near = this.ports[Math.floor((address - 0x40020000) / 0x400)];
    if (near) return { 0x14: near.out, 0x20: near.low, 0x24: near.high }[place] ?? 0;
    if (address === SYSTICK) return this.system.control;
    return this.others.get(address) ?? 0;
  }

  private write(address: number, value: number, bytes: 1 | 2 | 4): void {
    if (this.memory.write(address, value, bytes)) return;
    if (bytes === 1) throw new RangeError('a peripheral is not written by bytes here');
    this.runTo(this.cpu.cycle);
    const own = this.timerAt(address);
    if (own) own.timer.write(own.offset, value >>> 0);
    else this.writeOther(address, value >>> 0);
    this.look(this.cpu.cycle);
  }

  private writeOther(address: number, value: number): void {
    const port = this.ports[Math.floor((address - 0x40020000) / 0x400)];
    if (port) {
      const place = (address & 0xfff) % 0x400;
      if (place === 0) port.modes = value;
      else if (place === 0x18) port.out = (port.out & ~(value >>> 16)) | (value & 0xffff);
      else if (place === 0x20) port.low = value;
      else if (place === 0x24) port.high = value;
      else throw new RangeError(`a port has no register at ${place}`);
    } else if (address === SYSTICK) this.switchSystem(value);
    else if (address === SYSTICK + 4) this.system.reload = value;
    else if (address === SYSTICK + 8) this.beginSystem();
    else if (address === SET_ENABLE || address === SET_ENABLE + 4)
      this.others.set(address, ((this.others.get(address) ?? 0) | value) >>> 0);
    else this.others.set(address, value);
  }

  private switchSystem(value: number): void {
    const ran = (this.system.control & 1) === 1;
    this.system.control = value;
    if ((value & 1) === 0) this.system.zeroAt = Infinity;
    else if (!ran) this.beginSystem();
  }

  /** The counter is cleared: it takes its reload value with the next clock and comes to 0 after that many. */
  private beginSystem(): void {
    const runs = (this.system.control & 1) === 1;
    this.system.zeroAt = runs ? this.cpu.cycle + this.systemPeriod : Infinity;
  }

  private get systemPeriod(): number {
    return (this.system.reload + 1) * ((this.system.control & 4) === 0 ? 8 : 1);
  }

  private nextEvent(): number {
    return Math.min(this.system.zeroAt, ...this.timers.map(({ next }) => next));
  }

  private runTo(cycle: number): void {
    if (cycle <= this.ran) return;
    for (;;) {
      const next = this.nextEvent();
      if (next > cycle) break;
      for (const timer of this.timers) timer.runTo(next);
      if (this.system.zeroAt === next) {
        this.system.zeroAt += this.systemPeriod;
        if ((this.system.control & 2) !== 0) this.system.waits = true;
      }
      this.ran = next;
      this.look(next);
    }
    for (const timer of this.timers) timer.runTo(cycle);
    this.ran = cycle;
  }

  private levelOf(name: string, port: number, bit: number): 0 | 1 {
    const own = this.ports[port];
    if (!own) return 0;
    const mode = (own.modes >>> (2 * bit)) & 3;
    if (mode === 1) return ((own.out >>> bit) & 1) as 0 | 1;
    if (mode !== 2) return 0;
    const code = ((bit < 8 ? own.low : own.high) >>> (4 * (bit % 8))) & 15;
    const route = ROUTES[name]?.find(([alternate]) => alternate === code);
    const timer = route && this.timers[route[1]];
    return timer ? timer.level(route[2], route[3] ?? false) : 0;
  }

  /** Notes what the pins and the interrupts have become. */
  private look(cycle: number): void {
    for (const [port, { modes }] of this.ports.entries()) {
      if (modes === 0) continue;
      for (let bit = 0; bit < 16; bit += 1) {
        if (((modes >>> (2 * bit)) & 3) === 0) continue;
        const name = `P${'ABC'[port] ?? ''}${bit}`;
        const level = this.levelOf(name, port, bit);
        if (level === (this.levels.get(name) ?? 0)) continue;
        this.levels.set(name, level);
        const seen = this.edges.get(name) ?? [];
        seen.push(cycle);
        this.edges.set(name, seen);
      }
    }
    this.event = this.nextEvent();
    this.waiting = this.mostUrgent();
  }

  private urgencyOf(number: number): number {
    if (number < 0) return ((this.others.get(SYSTEM_PRIORITY) ?? 0) >>> 24) >>> 4;
    const word = this.others.get(PRIORITY + 4 * Math.floor(number / 4)) ?? 0;
    return ((word >>> (8 * (number % 4))) & 255) >>> 4;
  }

  private mostUrgent(): Waiting | undefined {
    const lines = new Set<number>();
    this.timers.forEach(({ flags, enables }, at) => {
      const raised = flags & enables;
      const timer = TIMERS[at];
      if (timer && (raised & 1) !== 0) lines.add(timer.update);
      if (timer && (raised & 30) !== 0) lines.add(timer.match);
    });
    const enabled = [...lines].filter(
      (one) => ((this.others.get(SET_ENABLE + 4 * (one >> 5)) ?? 0) >>> (one & 31)) & 1,
    );
    const all = [...(this.system.waits ? [-1] : []), ...enabled];
    return all
      .map((number) => ({ number, urgency: this.urgencyOf(number) }))
      .sort((one, other) => one.urgency - other.urgency || one.number - other.number)[0];
  }

  /** Enters the handler that waits, if it is more urgent than the one that runs. */
  private interrupts(): boolean {
    const { cpu, waiting } = this;
    while (this.active.length > cpu.depth) this.active.pop();
    if (!waiting || cpu.masked || !cpu.between) return false;
    if (waiting.urgency >= (this.active.at(-1) ?? Infinity)) return false;
    const handler = this.read(FLASH + 4 * (16 + waiting.number), 4);
    if (waiting.number < 0) this.system.waits = false;
    this.active.push(waiting.urgency);
    cpu.enter((handler & ~1) >>> 0);
    this.look(this.ran);
    return true;
  }

  runUntil(end: number): void {
    const { cpu } = this;
    while (cpu.cycle < end) {
      if (cpu.cycle >= this.event) this.runTo(cpu.cycle);
      if (this.interrupts()) continue;
      if (cpu.depth === 0 && cpu.idle && this.event > cpu.cycle + 4) {
        cpu.cycle += 2 * Math.max(1, Math.floor((Math.min(this.event, end) - cpu.cycle) / 2) - 1);
        continue;
      }
      cpu.step();
    }
    this.runTo(end);
  }
}
