import type { CpuModel } from './model.ts';

/** Columns of numbers that grow together by doubling: plain arrays of numbers would box and copy what a second of interrupts gives. */
type Columns = { values: Float64Array[]; length: number; room: number };

function columns(count: number): Columns {
  const room = 1024;
  return { values: Array.from({ length: count }, () => new Float64Array(room)), length: 0, room };
}

/** The place of a new row, for which there is room in every column. */
function newRow(to: Columns): number {
  if (to.length === to.room) {
    to.room *= 2;
    to.values = to.values.map((column) => {
      const wider = new Float64Array(to.room);
      wider.set(column);
      return wider;
    });
  }
  to.length += 1;
  return to.length - 1;
}

function column({ values, length }: Columns, at: number): Float64Array {
  return (values[at] ?? new Float64Array(0)).slice(0, length);
}

/** Who runs from one cycle to another: a task by its place, or a masked section of the main loop by -1 - its place. */
type Spans = { from: Float64Array; to: Float64Array; who: Float64Array };

/** Events that were served: when each came, its part of the handler started, it wrote, and it ended. */
type Services = {
  task: Float64Array;
  arrival: Float64Array;
  start: Float64Array;
  written: Float64Array;
  end: Float64Array;
};

/** Events that came while their flag was still set. */
type Losses = { task: Float64Array; at: Float64Array };

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
  const spans = columns(3);
  const services = columns(5);
  const losses = columns(2);
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

  let spanWho = NaN;
  let spanEnd = NaN;

  function ran(who: number, from: number, to: number): void {
    if (to === from) return;
    if (spanEnd === from && spanWho === who) {
      const [, ends] = spans.values;
      if (ends) ends[spans.length - 1] = to;
    } else {
      const row = newRow(spans);
      const [starts, ends, whose] = spans.values;
      if (starts && ends && whose) {
        starts[row] = from;
        ends[row] = to;
        whose[row] = who;
      }
      spanWho = who;
    }
    spanEnd = to;
    const own = who < 0 ? undefined : tally[who];
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
      const row = newRow(losses);
      const [tasksOf, times] = losses.values;
      if (tasksOf) tasksOf[row] = task;
      if (times) times[row] = at;
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
      const row = newRow(services);
      const [whose, arrivals, starts, writes, ends] = services.values;
      if (!whose || !arrivals || !starts || !writes || !ends) return;
      whose[row] = task;
      arrivals[row] = arrival;
      starts[row] = start;
      writes[row] = written;
      ends[row] = end;
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
        spans: { from: column(spans, 0), to: column(spans, 1), who: column(spans, 2) },
        services: {
          task: column(services, 0),
          arrival: column(services, 1),
          start: column(services, 2),
          written: column(services, 3),
          end: column(services, 4),
        },
        losses: { task: column(losses, 0), at: column(losses, 1) },
        main,
        ...(stuck === undefined ? {} : { stuck }),
        cut: cutShort,
      };
    },
  };
}

export type Recorder = ReturnType<typeof recorder>;
