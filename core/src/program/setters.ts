import type { Part } from '../part/types.ts';
import { togglesTwice } from '../timer/count.ts';
import { hasFreeDuty, isOutput, resolveSetting } from '../timer/drives/index.ts';
import type { ProgramSignal } from './signal.ts';

/** Which of a signal's values the program can set while it runs: by its knob, and by its readings. */
export type Setters = { knob: boolean; readings: boolean };

/** The setters that a signal gets; `alone` where no other signal runs on its timer. */
export function settersOf(
  part: Part,
  { setting, knob, readings, sending }: ProgramSignal,
  alone: boolean,
): Setters {
  if (!isOutput(setting) || sending) return { knob: false, readings: false };
  const { mode } = resolveSetting(part, setting);
  const free = hasFreeDuty(setting);
  if (free && togglesTwice(mode)) return { knob: false, readings: false };
  const topMoves = mode.top.kind === 'register' || mode.top.kind === 'channel';
  const rate = alone && topMoves && !setting.complement && !mode.pwm?.spread;
  return {
    knob: knob !== undefined && (knob.rate ? rate : free),
    readings: readings !== undefined && readings.rows.length > 1 && free,
  };
}
