/** What a timer has: the width of its counter, its channels, and whether it counts up and down and has a switch of all outputs. */
export type TimerForm = { bits: 16 | 32; channels: number; centers: boolean; main: boolean };

/** Values that wait for an update, and those that are in force. */
type Values = { divide: number; top: number; compare: number[] };

/**
 * A timer of the STM32F401 as its reference manual describes it: a prescaler that waits for updates, a counter up or up and down, compare
 * registers with or without buffers, their flags, references of the outputs in PWM, toggle and forced modes, and the dead time between a
 * channel's two outputs.
 */
export class F401Timer {
  flags = 0;
  enables = 0;
  count = 0;
  private control = 0;
  private modes = [0, 0];
  private outputs = 0;
  private breaks = 0;
  private down = false;
  /** Clocks since the last count, and the cycle up to which it has run. */
  private rest = 0;
  private now = 0;
  private readonly references: boolean[];
  /** The cycle in which each reference last changed. */
  private readonly changes: number[];
  private readonly held: Values;
  private live: Values;

  constructor(private readonly form: TimerForm) {
    const top = 2 ** form.bits - 1;
    const compare = Array.from({ length: form.channels }, () => 0);
    this.held = { divide: 0, top, compare };
    this.live = { divide: 0, top, compare: [...compare] };
    this.references = compare.map(() => false);
    this.changes = compare.map(() => -Infinity);
  }

  private get runs(): boolean {
    return (this.control & 1) === 1;
  }

  private get centered(): boolean {
    return this.form.centers && (this.control & 0x60) !== 0;
  }

  private modeOf(channel: number): number {
    return ((this.modes[channel >> 1] ?? 0) >> (channel % 2 === 0 ? 4 : 12)) & 7;
  }

  /** Whether a channel's compare value waits for the update. */
  private waits(channel: number): boolean {
    return (((this.modes[channel >> 1] ?? 0) >> (channel % 2 === 0 ? 3 : 11)) & 1) === 1;
  }

  private update(): void {
    if ((this.control & 2) === 0)
      this.live = { divide: this.held.divide, top: this.held.top, compare: [...this.held.compare] };
    this.flags |= 1;
  }

  private refer(channel: number, reference: boolean): void {
    if (this.references[channel] !== reference) this.changes[channel] = this.now;
    this.references[channel] = reference;
  }

  /** Cycles by which a rise comes later where both outputs of a channel are on: DTG in steps of 1, 2, 8 and 16, of CKD. */
  private get deadTime(): number {
    const [code, shift] = [this.breaks & 255, (this.control >> 8) & 3];
    if (code < 0x80) return code << shift;
    if (code < 0xc0) return ((64 + (code & 63)) * 2) << shift;
    return (32 + (code & 31)) * (code < 0xe0 ? 8 : 16) * 2 ** shift;
  }

  /** References that follow from the counter, and those that are forced. */
  private follow(): void {
    const { count, down } = this;
    for (let channel = 0; channel < this.form.channels; channel += 1) {
      const value = this.live.compare[channel] ?? 0;
      const below = this.centered && down ? count <= value : count < value;
      const mode = this.modeOf(channel);
      if (mode === 6 || mode === 7) this.refer(channel, below === (mode === 6));
      else if (mode === 4 || mode === 5) this.refer(channel, mode === 5);
    }
  }

  /** Compares the counter as it comes to a value. */
  private match(): void {
    for (let channel = 0; channel < this.form.channels; channel += 1) {
      if (this.count !== this.live.compare[channel]) continue;
      const aligned = (this.control >> 5) & 3;
      const tells = !this.centered || aligned === 3 || (aligned === 1) === this.down;
      if (tells) this.flags |= 2 << channel;
      const mode = this.modeOf(channel);
      if (mode === 3) this.refer(channel, !(this.references[channel] ?? false));
      else if (mode === 1 || mode === 2) this.refer(channel, mode === 1);
    }
    this.follow();
  }

  private step(): void {
    const { top } = this.live;
    if (!this.centered) {
      if (this.count === top) {
        this.count = 0;
        this.update();
      } else this.count = (this.count + 1) % 2 ** this.form.bits;
    } else if (this.down) {
      this.count -= 1;
      if (this.count === 0) {
        this.down = false;
        this.update();
      }
    } else {
      this.count += 1;
      if (this.count >= top) {
        this.down = true;
        this.update();
      }
    }
    this.match();
  }

  /** Counts until the next at which something can change. */
  private quiet(): number {
    const { count, down } = this;
    const { top, compare } = this.live;
    const ahead = compare.map((value) => (down ? count - value : value - count)).filter((far) => far > 0);
    const end = down ? count : this.centered ? top - count : top - count + 1;
    return Math.max(1, Math.min(...ahead, end > 0 ? end : 2 ** this.form.bits - count));
  }

  /** The cycle in which something can change next: by a count, or since a dead time ends. */
  get next(): number {
    const ends = this.changes.map((cycle) => cycle + this.deadTime).filter((cycle) => cycle > this.now);
    return Math.min(this.nextCount, ...ends);
  }

  /** The cycle of the next count at which something can change. */
  private get nextCount(): number {
    if (!this.runs) return Infinity;
    return this.now + this.quiet() * (this.live.divide + 1) - this.rest;
  }

  runTo(cycle: number): void {
    while (this.runs && this.nextCount <= cycle) {
      const next = this.nextCount;
      const free = this.quiet() - 1;
      this.count += this.down ? -free : free;
      this.rest = 0;
      this.now = next;
      this.step();
    }
    if (this.runs) {
      const clocks = cycle - this.now + this.rest;
      const counts = Math.floor(clocks / (this.live.divide + 1));
      this.count += this.down ? -counts : counts;
      this.rest = clocks - counts * (this.live.divide + 1);
    }
    this.now = cycle;
  }

  /** What a register holds, by its offset. */
  read(offset: number): number {
    const own: Readonly<Record<number, number>> = {
      ...{ 0x00: this.control | (this.centered && this.down ? 16 : 0), 0x0c: this.enables, 0x10: this.flags },
      ...{ 0x18: this.modes[0] ?? 0, 0x1c: this.modes[1] ?? 0, 0x20: this.outputs, 0x24: this.count },
      ...{ 0x28: this.held.divide, 0x2c: this.held.top, 0x44: this.breaks },
    };
    return own[offset] ?? this.held.compare[(offset - 0x34) / 4] ?? 0;
  }

  write(offset: number, value: number): void {
    if (offset === 0x00) this.control = value;
    else if (offset === 0x0c) this.enables = value;
    else if (offset === 0x10) this.flags &= value;
    else if (offset === 0x14) this.reset(value);
    else if (offset === 0x18 || offset === 0x1c) this.modes[(offset - 0x18) / 4] = value;
    else if (offset === 0x20) this.outputs = value;
    else if (offset === 0x24) this.count = value;
    else if (offset === 0x28) this.held.divide = value & 0xffff;
    else if (offset === 0x2c) {
      this.held.top = value;
      if ((this.control & 0x80) === 0) this.live.top = value;
    } else if (offset === 0x44) this.breaks = value;
    else if (offset >= 0x34 && offset < 0x44) {
      const channel = (offset - 0x34) / 4;
      this.held.compare[channel] = value;
      if (!this.waits(channel)) this.live.compare[channel] = value;
    } else throw new RangeError(`a timer has no register at ${offset}`);
    this.follow();
  }

  /** Events by order: an update loads the buffers and begins anew, prescaler and all. */
  private reset(value: number): void {
    if (value !== 1) throw new RangeError(`no event ${value}`);
    this.update();
    this.count = 0;
    this.down = false;
    this.rest = 0;
  }

  /** What a channel or its second output drives its pin to. */
  level(channel: number, second: boolean): 0 | 1 {
    if (this.form.main && (this.breaks & 0x8000) === 0) return 0;
    const bits = (this.outputs >> (4 * channel)) & 15;
    const reference = this.references[channel] ?? false;
    const on = second ? (bits & 4) !== 0 : (bits & 1) !== 0;
    if (!on) return 0;
    const turned = (bits & (second ? 8 : 2)) !== 0;
    const opposite = second && (bits & 1) !== 0;
    const late = (bits & 5) === 5 && this.now - (this.changes[channel] ?? 0) < this.deadTime;
    return !late && reference !== (turned !== opposite) ? 1 : 0;
  }
}
