import { exactText } from '../quantity/exact.ts';
import { clockPath } from '../clock/path.ts';
import type { Part } from '../part/schema.ts';
import type { Slip } from '../fit/slips.ts';
import type { Deed } from '../backward/decode.ts';
import { readBackward, type Wanted } from '../backward/read.ts';
import type { Plan, PlanSignal } from '../format/plan.ts';
import { goalOf } from '../target/goal.ts';
import type { Setting } from '../timer/setting.ts';

/** One thing that code does, in plain data. */
export type PlainDeed = { setting: Setting; frequencyHz: number; frequencyExact: string; duty: number };

/** What code does for each timer it writes to, what stands in its way, and the slips; or why it is not understood. */
export type ReadCode =
  | {
      ok: true;
      timers: { timer: string; mode?: string; running: boolean; notes: string[]; deeds: PlainDeed[] }[];
      slips: Slip[];
      /** The deed that was held against the signal; what it makes is halved where an interrupt toggles. */
      meant?: PlainDeed;
    }
  | { ok: false; fault: string };

function plainDeed({ setting, outcome }: Deed): PlainDeed {
  return {
    setting,
    frequencyHz: outcome.frequency.valueOf(),
    frequencyExact: exactText(outcome.frequency),
    duty: outcome.duty.valueOf(),
  };
}

/** Reads code for the plan's part and clock and holds it against one of its signals. */
export function readCode(plan: Plan, part: Part, signal: PlanSignal, text: string): ReadCode {
  const wanted: Wanted = {
    goal: goalOf(signal),
    ...(signal.pin === undefined ? {} : { pin: signal.pin }),
  };
  const read = readBackward(part, clockPath(part, plan.clock), text, wanted);
  if (!read.ok) return read;
  const { timers, slips, deed } = read.reading;
  return {
    ok: true,
    timers: timers.map(({ timer, mode, running, notes, deeds }) => ({
      timer,
      ...(mode === undefined ? {} : { mode }),
      running,
      notes,
      deeds: deeds.map(plainDeed),
    })),
    slips,
    ...(deed ? { meant: plainDeed(deed) } : {}),
  };
}
