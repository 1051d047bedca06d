import { clockOf, type ClockPath } from '../clock/path.ts';
import type { Course } from '../codegen/names.ts';
import type { Part } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import { printPercent } from '../quantity/print.ts';
import { outcomeUnder, resolveSetting } from '../timer/drives/index.ts';
import { interruptCycles } from '../timer/run.ts';
import { periodEnd, type PeriodEnd } from '../timer/sending.ts';
import { SettingError, type Setting } from '../timer/setting.ts';
import { sequenceSettings } from './sequence-segments.ts';

/** The most of the processor's time that counting the periods of one signal may take. */
const MOST_CPU = 0.2;

/** The most entries of a table in the program memory. */
const MOST_ENTRIES = 2000;

/** The interrupt that counts the periods of a sequence and the compare value of its rests, or why the code cannot follow it. */
export function counterOf(part: Part, path: ClockPath, setting: Setting): PeriodEnd | { reason: string } {
  const end = periodEnd(part, setting);
  if ('reason' in end) return end;
  const { frequency } = outcomeUnder(part, path, setting);
  const cpu = frequency.mul(interruptCycles(part.cpu)).div(clockOf(path, part.cpu.clock)).valueOf();
  return cpu > MOST_CPU
    ? { reason: `counting its periods would take ${printPercent(cpu)} of the processor` }
    : end;
}

/** A sequence as a table that an interrupt at the end of each period goes through, or why the code does not do it. */
export function courseOf(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  setting: Setting,
  alone: boolean,
): Course | { reason: string } | undefined {
  const { sequence } = signal;
  if (!sequence) return undefined;
  const counted = counterOf(part, path, setting);
  if ('reason' in counted) return counted;
  const { tick, rest, setting: base } = counted;
  const { mode } = resolveSetting(part, base);
  try {
    const entries = sequenceSettings(part, path, signal, sequence, base).map(({ setting: own, periods }) =>
      own && 'channel' in own && own.drive === base.drive
        ? { periods, top: own.top, compare: own.compare }
        : { periods, top: base.top, compare: rest },
    );
    const moves = entries.some(({ top }) => top !== base.top);
    if (moves && (!alone || mode.top.kind !== 'register' || mode.update.top === 'immediate'))
      return { reason: 'its timer cannot change its frequency at the end of a period, or others run on it' };
    if (entries.length > MOST_ENTRIES) return { reason: `its table would have ${entries.length} entries` };
    return { tick, rest, moves, entries, once: sequence.once === true };
  } catch (error) {
    if (error instanceof SettingError) return { reason: error.message };
    throw error;
  }
}
