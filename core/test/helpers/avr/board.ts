import { I } from './core.ts';
import { AvrCpu } from './cpu.ts';
import { AvrTimer, ICF, OCFA, OCFB, TOV, type TimerPlan } from './timer.ts';

const PORT_B = 0x23;
const PORT_D = 0x29;

/** The three timers of an ATmega328P. */
const TIMERS: readonly TimerPlan[] = [
  {
    ...{
      wide: false,
      tccrA: 0x44,
      tccrB: 0x45,
      forced: 0x45,
      tcnt: 0x46,
      ocrA: 0x47,
      ocrB: 0x48,
      tifr: 0x35,
      timsk: 0x6e,
    },
    divisions: [0, 1, 8, 64, 256, 1024],
    outputs: [
      { port: PORT_D, bit: 6 },
      { port: PORT_D, bit: 5 },
    ],
  },
  {
    ...{ wide: true, tccrA: 0x80, tccrB: 0x81, forced: 0x82, tcnt: 0x84, ocrA: 0x88, ocrB: 0x8a, icr: 0x86 },
    ...{ tifr: 0x36, timsk: 0x6f, divisions: [0, 1, 8, 64, 256, 1024] },
    outputs: [
      { port: PORT_B, bit: 1 },
      { port: PORT_B, bit: 2 },
    ],
  },
  {
    ...{
      wide: false,
      tccrA: 0xb0,
      tccrB: 0xb1,
      forced: 0xb1,
      tcnt: 0xb2,
      ocrA: 0xb3,
      ocrB: 0xb4,
      tifr: 0x37,
      timsk: 0x70,
    },
    divisions: [0, 1, 8, 32, 64, 128, 256, 1024],
    outputs: [
      { port: PORT_B, bit: 3 },
      { port: PORT_D, bit: 3 },
    ],
  },
];

/** Vectors in the order of their urgency: the timer, its flag, and the word at which the handler's jump stands. */
const VECTORS = [
  [2, OCFA, 0x0e],
  [2, OCFB, 0x10],
  [2, TOV, 0x12],
  [1, ICF, 0x14],
  [1, OCFA, 0x16],
  [1, OCFB, 0x18],
  [1, TOV, 0x1a],
  [0, OCFA, 0x1c],
  [0, OCFB, 0x1e],
  [0, TOV, 0x20],
] as const;

/** Edges of a pin: the cycle of each change; low before the first. */
export type PinEdges = Map<string, number[]>;

const PORTS = [
  [PORT_B, 'PB'],
  [0x26, 'PC'],
  [PORT_D, 'PD'],
] as const;

/** An ATmega328P that runs a program: its processor, its timers, its pins, and every change of a pin. */
export class AvrBoard {
  readonly cpu: AvrCpu;
  readonly timers = TIMERS.map((plan) => new AvrTimer(plan));
  readonly edges: PinEdges = new Map();
  private readonly io = new Uint8Array(0x100);
  private readonly levels = new Map<string, 0 | 1>();
  private high = 0;
  private event = 0;
  private ran = 0;

  constructor(program: Uint8Array) {
    this.cpu = new AvrCpu(program, {
      read: (address, cycle) => this.read(address, cycle),
      write: (address, value, cycle) => this.write(address, value, cycle),
    });
    this.cpu.sp = 0x8ff;
  }

  /** Notes the level of every pin as it is at a cycle. */
  private look(cycle: number): void {
    for (const [port, letters] of PORTS) {
      const [ddr = 0, out = 0] = [this.io[port + 1], this.io[port + 2]];
      for (let bit = 0; bit < 8; bit += 1) {
        const pin = `${letters}${bit}`;
        let level = ((ddr & out) >> bit) & 1;
        for (const timer of this.timers) {
          timer.plan.outputs.forEach((output, channel) => {
            if (output.port !== port || output.bit !== bit || !timer.connected(channel as 0 | 1)) return;
            level = ((ddr >> bit) & 1) === 0 ? 0 : timer.latch[channel as 0 | 1];
          });
        }
        if (level === (this.levels.get(pin) ?? 0)) continue;
        this.levels.set(pin, level as 0 | 1);
        const own = this.edges.get(pin) ?? [];
        own.push(cycle);
        this.edges.set(pin, own);
      }
    }
  }

  private runTimers(cycle: number): void {
    if (cycle <= this.ran) return;
    this.ran = cycle;
    for (;;) {
      const next = Math.min(...this.timers.map((timer) => timer.next()));
      if (next > cycle) break;
      for (const timer of this.timers) timer.runTo(next);
      this.look(next);
    }
    for (const timer of this.timers) timer.runTo(cycle);
    this.event = Math.min(...this.timers.map((timer) => timer.next()));
  }

  private timerAt(address: number): { timer: AvrTimer; place: keyof TimerPlan; upper: boolean } | undefined {
    for (const timer of this.timers) {
      const { plan } = timer;
      for (const place of ['tccrA', 'tccrB', 'tcnt', 'ocrA', 'ocrB', 'icr', 'tifr', 'timsk'] as const) {
        const at = plan[place];
        if (at === address) return { timer, place, upper: false };
        const words = ['tcnt', 'ocrA', 'ocrB', 'icr'].includes(place);
        if (plan.wide && words && at !== undefined && at + 1 === address)
          return { timer, place, upper: true };
      }
    }
    return undefined;
  }

  private read(address: number, cycle: number): number {
    this.runTimers(cycle);
    const found = this.timerAt(address);
    if (!found) return this.io[address] ?? 0;
    const { timer, place, upper } = found;
    if (place === 'tifr') return timer.flags;
    if (place === 'timsk') return timer.mask;
    if (place === 'tccrA') return timer.control[0];
    if (place === 'tccrB') return timer.control[1];
    const value =
      place === 'tcnt'
        ? timer.count
        : place === 'icr'
          ? timer.icr
          : (timer.written[place === 'ocrA' ? 0 : 1] ?? 0);
    if (!timer.plan.wide) return value;
    if (upper) return place === 'tcnt' ? this.high : value >> 8;
    if (place === 'tcnt') this.high = value >> 8;
    return value & 0xff;
  }

  private writeTimer(
    { timer, place, upper }: NonNullable<ReturnType<AvrBoard['timerAt']>>,
    value: number,
  ): void {
    if (place === 'tifr') timer.flags &= ~value;
    else if (place === 'timsk') timer.mask = value;
    else if (place === 'tccrA') timer.writeControl(0, value);
    else if (place === 'tccrB') timer.writeControl(1, value);
    else if (upper) this.high = value;
    else {
      const whole = timer.plan.wide ? (this.high << 8) | value : value;
      if (place === 'tcnt') timer.writeCount(whole);
      else if (place === 'icr') timer.icr = whole;
      else timer.writeCompare(place === 'ocrA' ? 0 : 1, whole);
    }
  }

  private write(address: number, value: number, cycle: number): void {
    this.runTimers(cycle);
    const found = this.timerAt(address);
    const forced = this.timers.find(({ plan }) => plan.forced === address);
    // The bits that force a match read as zero.
    if (found) this.writeTimer(found, forced ? value & 0x3f : value);
    if (forced) ([0, 1] as const).forEach((channel) => (value >> (7 - channel)) & 1 && forced.force(channel));
    if (found || forced) this.event = 0;
    else if (PORTS.some(([port]) => port === address)) {
      // Ones in the input register change the output.
      this.io[address + 2] = (this.io[address + 2] ?? 0) ^ value;
    } else this.io[address] = value;
    this.event = Math.min(...this.timers.map((timer) => timer.next()));
    this.look(cycle);
  }

  private pending(): number | undefined {
    for (const [timer, flag, vector] of VECTORS) {
      const own = this.timers[timer];
      if (own && (own.flags & own.mask & flag) !== 0) {
        own.flags &= ~flag;
        return vector;
      }
    }
    return undefined;
  }

  /** Runs until a cycle. After the return from a handler one instruction comes before the next handler. */
  runUntil(end: number): void {
    const { cpu } = this;
    let after = true;
    while (cpu.cycle < end) {
      if (cpu.cycle >= this.event) this.runTimers(cpu.cycle);
      const enabled = (cpu.status & I) !== 0;
      const vector = enabled && after ? this.pending() : undefined;
      if (vector !== undefined) {
        cpu.interrupt(vector);
        continue;
      }
      if (enabled && after && cpu.idle && this.event > cpu.cycle + 4) {
        // A jump to itself takes two cycles, again and again.
        const rounds = Math.floor((Math.min(this.event, end) - cpu.cycle) / 2);
        if (rounds > 1) {
          cpu.cycle += 2 * (rounds - 1);
          continue;
        }
      }
      cpu.step();
      // What sets the flag, at a return or by itself, lets one more instruction run.
      after = enabled || (cpu.status & I) === 0;
    }
    this.runTimers(end);
  }
}
