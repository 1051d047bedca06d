import { clockOf, type ClockPath } from '../clock/path.ts';
import type { Course } from '../codegen/names.ts';
import type { Interrupt, Part } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import { printPercent } from '../quantity/print.ts';
import { highCounts, maxCompare } from '../timer/count.ts';
import { hasFreeDuty, outcomeUnder, resolveSetting } from '../timer/drives/index.ts';
import { interruptCycles } from '../timer/run.ts';
import { SettingError, type OutputSetting, type Setting } from '../timer/setting.ts';
import { tickOf } from '../timer/tick.ts';
import { sequenceSettings } from './sequence-segments.ts';

/** The most of the processor's time that counting the periods of one signal may take. */
const MOST_CPU = 0.2;

/** The most entries of a table in the program memory. */
const MOST_ENTRIES = 2000;

/** The interrupt that counts the periods of a sequence and the compare value of its rests, or why the code cannot follow it. */
export function counterOf(
  part: Part,
  path: ClockPath,
  setting: Setting,
): { tick: Interrupt; rest: number; setting: OutputSetting } | { reason: string } {
  if (!hasFreeDuty(setting)) return { reason: 'only a PWM output can follow one' };
  const { mode, timer } = resolveSetting(part, setting);
  const tick = tickOf(timer, mode);
  if (!tick) return { reason: `${timer.name} has no interrupt at the end of a period` };
  if (mode.update.compare === 'immediate' || setting.complement || mode.pwm?.spread)
    return { reason: 'new values would not wait for the end of a period' };
  const { frequency } = outcomeUnder(part, path, setting);
  const cpu = frequency.mul(interruptCycles(part.cpu)).div(clockOf(path, part.cpu.clock)).valueOf();
  if (cpu > MOST_CPU)
    return { reason: `counting its periods would take ${printPercent(cpu)} of the processor` };
  const inverted = setting.polarity === 'inverted';
  const rests = [0, maxCompare(mode, setting.top, timer.width)];
  const rest = rests.find((compare) => highCounts(mode, setting.top, compare, inverted) === 0);
  return rest === undefined ? { reason: 'no compare value keeps this output low' } : { tick, rest, setting };
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
