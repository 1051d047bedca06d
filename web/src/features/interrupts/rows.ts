import { COLOUR, laneColour } from '../../theme/colour.ts';
import { type InterruptReport, type simulatePlan } from '@herzschlag/core';

/** A plan's simulated interrupts as the engine gives them. */
export type Picture = ReturnType<typeof simulatePlan>;

/** Stretches of time in cycles, in ascending order; they do not overlap. */
export type Stretches = { from: Float64Array; to: Float64Array };

/** A row of the timeline: one interrupt. */
type TimelineRow = {
  id: string;
  name: string;
  colour: string;
  /** When its handler runs, and when its events wait for it. */
  runs: Stretches;
  waits: Stretches;
  /** When events of it were lost. */
  losses: Float64Array;
};

/** What the timeline draws. */
export type TimelineRows = {
  cpuHz: number;
  cycles: number;
  rows: TimelineRow[];
  masked: Stretches;
  /** Everything that keeps the main loop from running. */
  handlers: Stretches;
};

/** The places of a column that hold a value, and others' values at these places. */
function picked(
  keys: Float64Array,
  wanted: (key: number) => boolean,
  from: Float64Array,
  to: Float64Array,
): Stretches {
  let count = 0;
  for (const key of keys) if (wanted(key)) count += 1;
  const own = { from: new Float64Array(count), to: new Float64Array(count) };
  let at = 0;
  keys.forEach((key, i) => {
    if (!wanted(key)) return;
    own.from[at] = from[i] ?? 0;
    own.to[at] = to[i] ?? 0;
    at += 1;
  });
  return own;
}

/** Colour of an interrupt: that of the first signal that needs it; tasks of the plan are in ink. */
export function rowColour(row: InterruptReport['rows'][number], order: readonly string[]): string {
  const [signal] = row.signals;
  return signal === undefined ? COLOUR.soft : laneColour(Math.max(0, order.indexOf(signal)));
}

/** Splits what was recorded by interrupt. `order` are the ids of the plan's signals, which decide the colours. */
export function timelineRows({ cpu, run, report }: Picture, order: readonly string[]): TimelineRows {
  const { spans, services, losses } = run;
  const rows = report.rows.map((row, task): TimelineRow => {
    const own = (who: number): boolean => who === task;
    return {
      id: row.id,
      name: row.name,
      colour: rowColour(row, order),
      runs: picked(spans.who, own, spans.from, spans.to),
      waits: picked(services.task, own, services.arrival, services.start),
      losses: picked(losses.task, own, losses.at, losses.at).from,
    };
  });
  return {
    cpuHz: cpu.cpuHz,
    cycles: run.cycles,
    rows,
    masked: picked(spans.who, (who) => who < 0, spans.from, spans.to),
    handlers: picked(spans.who, (who) => who >= 0, spans.from, spans.to),
  };
}
