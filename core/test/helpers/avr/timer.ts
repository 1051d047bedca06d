/** Where a timer's registers stand in the data space, and its bits: of ATmega328P, by its data sheet. */
export type TimerPlan = {
  wide: boolean;
  tccrA: number;
  tccrB: number;
  /** Where matches are forced by the two upper bits. */
  forced: number;
  tcnt: number;
  ocrA: number;
  ocrB: number;
  icr?: number;
  tifr: number;
  timsk: number;
  divisions: readonly number[];
  outputs: readonly [{ port: number; bit: number }, { port: number; bit: number }];
};

/** How a counter runs: up to its top and from 0 again, or up and down, with what its top is and when new compare values are taken. */
type Mode = {
  way: 'normal' | 'ctc' | 'fast' | 'phase' | 'phase-frequency';
  top: number | 'ocrA' | 'icr';
  /** Whether COM = 1 toggles the first output in this PWM mode. */
  toggles?: boolean;
};

const FF = 0xff;

const NARROW: Readonly<Record<number, Mode>> = {
  0: { way: 'normal', top: FF },
  1: { way: 'phase', top: FF },
  2: { way: 'ctc', top: 'ocrA' },
  3: { way: 'fast', top: FF },
  5: { way: 'phase', top: 'ocrA', toggles: true },
  7: { way: 'fast', top: 'ocrA', toggles: true },
};

const WIDE: Readonly<Record<number, Mode>> = {
  0: { way: 'normal', top: 0xffff },
  1: { way: 'phase', top: FF },
  2: { way: 'phase', top: 0x1ff },
  3: { way: 'phase', top: 0x3ff },
  4: { way: 'ctc', top: 'ocrA' },
  5: { way: 'fast', top: FF },
  6: { way: 'fast', top: 0x1ff },
  7: { way: 'fast', top: 0x3ff },
  8: { way: 'phase-frequency', top: 'icr' },
  9: { way: 'phase-frequency', top: 'ocrA', toggles: true },
  10: { way: 'phase', top: 'icr' },
  11: { way: 'phase', top: 'ocrA', toggles: true },
  12: { way: 'ctc', top: 'icr' },
  14: { way: 'fast', top: 'icr', toggles: true },
  15: { way: 'fast', top: 'ocrA', toggles: true },
};

/** Bits of the flag and mask registers. */
export const TOV = 1;
export const OCFA = 2;
export const OCFB = 4;
export const ICF = 0x20;

/** One timer of an ATmega328P with its two outputs, written from the data sheet and nothing else: counts, flags, latches, buffers. */
export class AvrTimer {
  count = 0;
  flags = 0;
  mask = 0;
  control: [number, number] = [0, 0];
  icr = 0;
  /** What the program wrote, and what the counter is compared with. */
  written: [number, number] = [0, 0];
  compare: [number, number] = [0, 0];
  /** The levels of the two output latches. */
  latch: [0 | 1, 0 | 1] = [0, 0];
  private down = false;
  /** The cycle of the last tick that was taken. */
  private now = 0;

  constructor(readonly plan: TimerPlan) {}

  private get mode(): Mode {
    const [a, b] = this.control;
    const { wide } = this.plan;
    const bits = (a & 3) | (wide ? ((b >> 3) & 3) << 2 : ((b >> 3) & 1) << 2);
    const mode = (wide ? WIDE : NARROW)[bits];
    if (!mode) throw new RangeError(`mode ${bits} is reserved`);
    return mode;
  }

  private get top(): number {
    const { top } = this.mode;
    return top === 'ocrA' ? this.compare[0] : top === 'icr' ? this.icr : top;
  }

  private get division(): number {
    return this.plan.divisions[this.control[1] & 7] ?? 0;
  }

  /** Whether the compare output of a channel is led to its pin. */
  connected(channel: 0 | 1): boolean {
    return ((this.control[0] >> (channel === 0 ? 6 : 4)) & 3) !== 0;
  }

  writeControl(which: 0 | 1, value: number): void {
    this.control[which] = value;
    this.takeBuffers();
  }

  /** A match that the program forces: it changes the output in modes without PWM only. */
  force(channel: 0 | 1): void {
    const { way } = this.mode;
    if (way === 'normal' || way === 'ctc') this.change(channel, 'up');
  }

  /** In modes without PWM a compare value is taken at once. */
  private takeBuffers(): void {
    const { way } = this.mode;
    if (way === 'normal' || way === 'ctc') this.compare = [...this.written];
  }

  writeCompare(channel: 0 | 1, value: number): void {
    this.written[channel] = value;
    this.takeBuffers();
  }

  writeCount(value: number): void {
    this.count = value;
    this.down = false;
  }

  private change(channel: 0 | 1, matched: 'up' | 'down' | 'bottom'): void {
    const com = (this.control[0] >> (channel === 0 ? 6 : 4)) & 3;
    const { way, toggles } = this.mode;
    const { latch } = this;
    if (com === 0) return;
    if (way === 'normal' || way === 'ctc') {
      if (matched === 'bottom') return;
      latch[channel] = com === 1 ? ((1 - latch[channel]) as 0 | 1) : com === 2 ? 0 : 1;
      return;
    }
    if (com === 1) {
      if (toggles && channel === 0 && matched !== 'bottom') latch[channel] = (1 - latch[channel]) as 0 | 1;
      return;
    }
    const high = com === 2 ? 1 : 0;
    const low = (1 - high) as 0 | 1;
    latch[channel] = matched === 'up' ? low : high;
  }

  /** One clock of the counter: what was equal before it is noticed with it. */
  private tick(): void {
    const { mode, top, count } = this;
    const most = this.plan.wide ? 0xffff : 0xff;
    const updown = mode.way === 'phase' || mode.way === 'phase-frequency';
    const changes = (matched: 'up' | 'down' | 'bottom', channel: 0 | 1): void =>
      this.change(channel, matched);
    for (const channel of [0, 1] as const) {
      if (this.compare[channel] !== count) continue;
      this.flags |= channel === 0 ? OCFA : OCFB;
      const downwards = updown && count !== 0 && (count === top || this.down);
      changes(downwards ? 'down' : 'up', channel);
    }
    if (mode.top === 'icr' && count === this.icr) this.flags |= ICF;
    if (updown) {
      // The data sheet says: when it reaches the bottom. A counter that begins there has not come to it.
      if (count === 0 && this.down) this.flags |= TOV;
      if (count >= top) this.down = true;
      if (count === 0) this.down = false;
      if (count === (mode.way === 'phase' ? top : 0)) this.compare = [...this.written];
      this.count = top === 0 ? 0 : count + (this.down ? -1 : 1);
      return;
    }
    const over = count === top || count === most;
    this.count = over ? 0 : count + 1;
    if (!over) return;
    if (mode.way === 'fast') {
      this.flags |= TOV;
      this.compare = [...this.written];
      for (const channel of [0, 1] as const) changes('bottom', channel);
    } else if (count === most) this.flags |= TOV;
  }

  /** How many ticks until the next one that can change anything: until then the counter only moves. */
  private quiet(): number {
    const { count, top, compare, icr, mode } = this;
    const most = this.plan.wide ? 0xffff : 0xff;
    const marks = [compare[0], compare[1], top, most, 0, ...(mode.top === 'icr' ? [icr] : [])];
    const ahead = marks.flatMap((mark) => {
      const way = this.down ? count - mark : mark - count;
      return way >= 0 ? [way] : [];
    });
    return Math.min(...ahead);
  }

  /** The cycle of the next tick that changes flags or outputs; Infinity while the counter stands. */
  next(): number {
    const { division } = this;
    if (division === 0) return Infinity;
    const first = (Math.floor(this.now / division) + 1) * division;
    return first + this.quiet() * division;
  }

  /** Lets the counter run up to a cycle, that cycle included. */
  runTo(cycle: number): void {
    const { division } = this;
    while (division > 0) {
      const at = this.next();
      const first = (Math.floor(this.now / division) + 1) * division;
      if (at > cycle) {
        const ticks = Math.max(0, Math.floor((cycle - first) / division) + 1);
        this.count += this.down ? -ticks : ticks;
        break;
      }
      const ticks = (at - first) / division;
      this.count += this.down ? -ticks : ticks;
      this.now = at;
      this.tick();
    }
    this.now = cycle;
  }
}
