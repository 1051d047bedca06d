import { succeeded, type Result } from '../result/result.ts';
import { exactText } from '../quantity/exact.ts';
import { clockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { decodedSignals } from './decoded-signals.ts';
import { decodeText, type Decoded, type Wanted } from './decode.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import type { Setting } from '../timer/setting.ts';
import type { Slip } from '../slips/catalogue.ts';
import type { Effect } from '../timer/outcome.ts';

/** One thing that code does, in plain data. */
type PlainEffect = { setting: Setting; frequencyHz: number; frequencyExact: string; duty: number };

/** What code does for each timer it writes to, what stands in its way, and the slips; or why it is not understood. */
export type DecodedForSignal = {
  timers: { timer: string; mode?: string; running: boolean; notes: string[]; effects: PlainEffect[] }[];
  slips: Slip[];
  reading: Decoded['reading'];
  /** A signal for everything that was read and that the plan does not have yet. */
  signals: PlanSignal[];
  /** The effect that was compared with the signal; its frequency is halved if an interrupt toggles the pin. */
  meant?: PlainEffect;
};

function plainEffect({ setting, outcome }: Effect): PlainEffect {
  return {
    setting,
    frequencyHz: outcome.frequency.valueOf(),
    frequencyExact: exactText(outcome.frequency),
    duty: outcome.duty.valueOf(),
  };
}

/** Reads code for the plan's part and clock, and compares it with one of its signals where one is given. */
export function decodeForSignal(
  plan: Plan,
  part: Part,
  signal: PlanSignal | undefined,
  text: string,
): Result<DecodedForSignal> {
  const wanted: Wanted | undefined = signal && {
    requirement: requirementOf(signal),
    ...(signal.pin === undefined ? {} : { pin: signal.pin }),
  };
  const read = decodeText(part, clockPath(part, plan.clock), text, wanted);
  if (!read.ok) return read;
  const { timers, slips, effect, reading } = read.value;
  return succeeded({
    timers: timers.map(({ timer, mode, running, notes, effects }) => ({
      timer,
      ...(mode === undefined ? {} : { mode }),
      running,
      notes,
      effects: effects.map(plainEffect),
    })),
    slips,
    reading,
    signals: decodedSignals(read.value, plan, part),
    ...(effect ? { meant: plainEffect(effect) } : {}),
  });
}
