import type { CpuModel } from './model.ts';

/** Numbers in a list that grows by doubling: a plain array of numbers would box and copy what a second of interrupts gives. */
export type Column = { values: Float64Array; length: number };

function column(): Column {
  return { values: new Float64Array(1024), length: 0 };
}

function add(to: Column, value: number): void {
  if (to.length === to.values.length) {
    const wider = new Float64Array(2 * to.values.length);
    wider.set(to.values);
    to.values = wider;
  }
  to.values[to.length] = value;
  to.length += 1;
}

function cut({ values, length }: Column): Float64Array {
  return values.slice(0, length);
}

/** Who runs from one cycle to another: a task by its place, or a masked section of the main loop by -1 - its place. */
export type Spans = { from: Float64Array; to: Float64Array; who: Float64Array };

/** Events that were served: when each came, its part of the handler started, it wrote, and it ended. */
export type Services = {
  task: Float64Array;
  arrival: Float64Array;
  start: Float64Array;
  written: Float64Array;
  end: Float64Array;
};

/** Events that came while their flag was still set. */
export type Losses = { task: Float64Array; at: Float64Array };

/** What became of one task. Cycles; waits are from the event to the start of its part of the handler. */
export type TaskTally = {
  events: number;
  served: number;
  lost: number;
  worstWait: number;
  leastWait: number;
  meanWait: number;
  /** From the event to the end of its part. */
  worstResponse: number;
  /** Cycles that the processor spent on it, the way in and out included. */
  busy: number;
  /** Cycle at which the event with the worst wait came. */
  worstAt: number;
};

/** What a simulation saw. */
export type CpuRun = {
  cycles: number;
  tally: TaskTally[];
  spans: Spans;
  services: Services;
  losses: Losses;
  /** Cycles left for the main loop, masked sections included; the longest stretch without it, and when that began. */
  main: { cycles: number; longestAbsence: number; absentAt: number };
  /** A task whose flag is still set after its handler, so that the handler runs for ever. */
  stuck?: number;
  /** Whether it ended early because it was cancelled or had served as many events as were asked for. */
  cut: boolean;
};

/** Collects what a simulation sees. */
export function recorder({ tasks }: CpuModel) {
  const spans = { from: column(), to: column(), who: column() };
  const services = {
    task: column(),
    arrival: column(),
    start: column(),
    written: column(),
    end: column(),
  };
  const losses = { task: column(), at: column() };
  const tally = tasks.map((): TaskTally => ({
    events: 0,
    served: 0,
    lost: 0,
    worstWait: 0,
    leastWait: Infinity,
    meanWait: 0,
    worstResponse: 0,
    busy: 0,
    worstAt: 0,
  }));
  const main = { cycles: 0, longestAbsence: 0, absentAt: 0 };
  let mainLeft = 0;
  let mainSeen = 0;

  function ran(who: number, from: number, to: number): void {
    if (to === from) return;
    const { length } = spans.to;
    if (length > 0 && spans.to.values[length - 1] === from && spans.who.values[length - 1] === who) {
      spans.to.values[length - 1] = to;
    } else {
      add(spans.from, from);
      add(spans.to, to);
      add(spans.who, who);
    }
    const own = tally[who];
    if (own) own.busy += to - from;
  }

  return {
    /** A handler of a task, or a masked section, ran. Stretches that follow each other become one. */
    ran,
    /** An event came, and was lost where its flag was still set. */
    came(task: number, at: number, lost: boolean): void {
      const own = tally[task];
      if (!own) return;
      own.events += 1;
      if (!lost) return;
      own.lost += 1;
      add(losses.task, task);
      add(losses.at, at);
    },
    served(task: number, arrival: number, start: number, written: number, end: number): void {
      const own = tally[task];
      if (!own) return;
      const wait = start - arrival;
      own.served += 1;
      own.meanWait += (wait - own.meanWait) / own.served;
      own.leastWait = Math.min(own.leastWait, wait);
      own.worstResponse = Math.max(own.worstResponse, end - arrival);
      if (wait > own.worstWait) {
        own.worstWait = wait;
        own.worstAt = arrival;
      }
      add(services.task, task);
      add(services.arrival, arrival);
      add(services.start, start);
      add(services.written, written);
      add(services.end, end);
    },
    /** The main loop ran; a single instruction between two handlers does not end its absence. */
    mainRan(from: number, to: number, single: boolean): void {
      main.cycles += to - from;
      if (single || to === from) return;
      if (from - mainLeft > main.longestAbsence) {
        main.longestAbsence = from - mainLeft;
        main.absentAt = mainLeft;
      }
      mainLeft = to;
      mainSeen = to;
    },
    finish(cycles: number, cutShort: boolean, stuck: number | undefined): CpuRun {
      if (cycles - mainSeen > main.longestAbsence) {
        main.longestAbsence = cycles - mainSeen;
        main.absentAt = mainSeen;
      }
      return {
        cycles,
        tally,
        spans: { from: cut(spans.from), to: cut(spans.to), who: cut(spans.who) },
        services: {
          task: cut(services.task),
          arrival: cut(services.arrival),
          start: cut(services.start),
          written: cut(services.written),
          end: cut(services.end),
        },
        losses: { task: cut(losses.task), at: cut(losses.at) },
        main,
        ...(stuck === undefined ? {} : { stuck }),
        cut: cutShort,
      };
    },
  };
}

export type Recorder = ReturnType<typeof recorder>;
