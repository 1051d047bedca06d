import type { EventSource } from './firmware.ts';

/** Time in cycles of the processor as a fraction of ticks: cycles = first + ticks x n / d. */
export type TickClock = { first: number; n: number; d: number };

/** A match within the runs of a counter, in ticks from the start of a run, and whether a new one waits for the next run. */
type Match = { ticks: number; next?: number; buffered: boolean; done: boolean };

/**
 * A counter as a simulation follows it: its runs, the events at their ends, and its matches. A new length waits for the end of the running one; a match
 * that is put at once behind the counter is missed until the next run.
 */
export class PlayedTimer {
  private start: number;
  private length: number;
  private nextLength: number | undefined;
  private readonly matches = new Map<string, Match>();

  /** `everyTicks` from one event at the end of runs to the next; the first run ends after `firstTicks`. */
  constructor(
    private readonly clock: TickClock,
    firstTicks: number,
    everyTicks: number,
  ) {
    this.start = firstTicks - everyTicks;
    this.length = everyTicks;
  }

  private cycle(ticks: number): number {
    const { first, n, d } = this.clock;
    return first + Math.ceil((ticks * n) / d - 1e-9);
  }

  private ticksAt(cycle: number): number {
    const { first, n, d } = this.clock;
    return ((cycle - first) * d) / n;
  }

  private goOn(): void {
    this.start += this.length;
    if (this.nextLength !== undefined) this.length = this.nextLength;
    this.nextLength = undefined;
    for (const match of this.matches.values()) {
      match.done = false;
      if (match.next !== undefined) match.ticks = match.next;
      delete match.next;
    }
  }

  /** The end of each run. */
  ends(): EventSource {
    let due = 0;
    return {
      next: () => {
        due = this.start + this.length;
        return this.cycle(due);
      },
      // A match at the very start of the next run may have gone on already.
      took: () => {
        if (this.start < due) this.goOn();
      },
    };
  }

  /** A match of a channel, once a run. */
  match(channel: string, ticks: number, buffered: boolean): EventSource {
    const own: Match = { ticks, buffered, done: false };
    this.matches.set(channel, own);
    return {
      // A match beyond the end of a run does not come in it.
      next: () => {
        const inRun = !own.done && own.ticks < this.length;
        return inRun
          ? this.cycle(this.start + own.ticks)
          : this.cycle(this.start + this.length + (own.next ?? own.ticks));
      },
      took: () => {
        if (own.done || own.ticks >= this.length) this.goOn();
        own.done = true;
      },
    };
  }

  /** A new match is written at a cycle. */
  put(channel: string, ticks: number, cycle: number): void {
    const own = this.matches.get(channel);
    if (!own) return;
    if (own.buffered) {
      own.next = ticks;
      return;
    }
    own.ticks = ticks;
    const now = this.ticksAt(cycle) - this.start;
    own.done = own.done || ticks <= now;
  }

  /** A new length of the runs is written; it waits for the end of the running one. */
  putLength(ticks: number): void {
    this.nextLength = ticks;
  }
}
