import type { ProgramSequence } from '../program/signal.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import type { Interrupt, Part } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import { printPercent } from '../quantity/print.ts';
import { modeOf, timerOf } from '../part/find.ts';
import { driveOf, isOutput, isToggled, outcomeUnder, resolveSetting, runsOf } from '../timer/drives/index.ts';
import { tickOf } from '../timer/tick.ts';
import { interruptCycles } from '../timer/run.ts';
import { periodEnd, periodTick, type PeriodEnd } from '../timer/sending.ts';
import { hasTimer, SettingError, type OutputSetting, type Setting } from '../timer/setting.ts';
import { sequenceSettings } from './sequence-rows.ts';

/** The most of the processor's time that counting the periods of one signal may take. */
const MOST_CPU = 0.2;

/** The most entries of a table in the program memory, and the most rows that are written out as loops. */
const MOST_ENTRIES = 2000;
const MOST_LOOPS = 100;

/** What counts the periods of a sequence, and how its rests are made. */
type Counted = PeriodEnd & Pick<ProgramSequence, 'gate'>;

/** What a toggled output does at the end of its runs, or why it cannot be kept low in some of them. */
function toggleEnd(part: Part, setting: OutputSetting): Counted | { reason: string } {
  const { timer, mode, output } = resolveSetting(part, setting);
  const tick = tickOf(timer, mode);
  if (!tick || mode.count !== 'up')
    return { reason: `${timer.name} has no interrupt at the end of each run` };
  const { low } = output;
  if (!low) return { reason: 'nothing keeps this output low while its timer runs' };
  const on = Object.fromEntries(Object.keys(low).map((key) => [key, output.writes[key] ?? 0]));
  return { tick, rest: 0, setting, gate: { on, off: low } };
}

/** Whether the code cannot follow a sequence with an output, whatever prescaler, top and compare value it has. */
export function neverFollows(part: Part, setting: Setting): boolean {
  if (!isOutput(setting)) return false;
  return 'reason' in (isToggled(setting.drive) ? toggleEnd(part, setting) : periodTick(part, setting));
}

/** The interrupt that counts the periods of a sequence and the compare value of its rests, or why the code cannot follow it. */
export function counterOf(part: Part, path: ClockPath, setting: Setting): Counted | { reason: string } {
  const end =
    isOutput(setting) && isToggled(setting.drive) ? toggleEnd(part, setting) : periodEnd(part, setting);
  if ('reason' in end) return end;
  const { frequency } = outcomeUnder(part, path, setting);
  const interrupts = frequency.mul(runsOf(setting.drive));
  const cpu = interrupts.mul(interruptCycles(part.cpu)).div(clockOf(path, part.cpu.clock)).valueOf();
  return cpu > MOST_CPU
    ? { reason: `counting its periods would take ${printPercent(cpu)} of the processor` }
    : end;
}

/** What the code keeps from row to row of a sequence, and how it gets the values of a setting. */
type Rows = {
  setting: Setting;
  rest: number;
  valueOf: (setting: Setting) => number;
  tick?: Interrupt;
  gate?: ProgramSequence['gate'];
  /** Whether the last period of a row would end with the top of the next one. */
  overlaps?: boolean;
};

/** The rows of an output, whose periods an interrupt of their own counts. */
function outputRows(part: Part, path: ClockPath, setting: Setting): Rows | { reason: string } {
  const counted = counterOf(part, path, setting);
  if ('reason' in counted) return counted;
  const { tick, rest, setting: base, gate } = counted;
  if (gate) return { setting: base, rest, tick, gate, valueOf: () => 1 };
  const compareOf = (own: Setting): number =>
    'channel' in own && own.drive === base.drive ? (own.compare ?? rest) : rest;
  return { setting: base, rest, tick, valueOf: compareOf };
}

/** The rows of a signal whose own interrupts make its periods: they look at the value before they change the pin. */
function interruptRows(part: Part, setting: Setting): Rows {
  const actions = driveOf(setting)
    .handlers(part, setting)
    .flatMap((use) => use.actions);
  if (actions.some((action) => action.do === 'toggle')) return { setting, rest: 0, valueOf: () => 1 };
  const compareOf = (own: Setting): number => ('compare' in own ? (own.compare ?? 0) : 0);
  const max = actions.flatMap((action) => (action.do === 'load' ? [action.max] : []))[0];
  // Every value up to the top is a width of a pair; the next one is not.
  return max === undefined
    ? { setting, rest: 0, valueOf: compareOf, overlaps: true }
    : { setting, rest: max + 1, valueOf: compareOf };
}

/** The rows of a signal that a loop of the program makes, which are written out one by one. */
function loopRows(setting: Setting): Rows {
  return { setting, rest: 0, valueOf: (own) => ('compare' in own ? (own.compare ?? 0) : 0) };
}

/** Why a timer cannot change its frequency between two rows; undefined where it can. */
function topReason(part: Part, { setting, tick, gate, overlaps }: Rows, alone: boolean): string | undefined {
  if (!hasTimer(setting)) return 'no timer makes it';
  if (!alone) return 'its frequency moves, and other signals run on its timer';
  const { top, update, count } = modeOf(timerOf(part, setting.timer), setting.mode);
  // A toggled output may have its own match as the top.
  const movable = top.kind === 'register' || (gate !== undefined && top.kind === 'channel');
  if (!movable) return 'its timer has no register for the period';
  if (overlaps) return 'its frequency moves, and the current period would end with the new one';
  if (count === 'updown' && update.top === 'top')
    return 'its counter would go down from the old top and up to the new one';
  // A handler that acts at the end of a period wants what it writes taken at once; one that hands values over, later.
  const atOnce = tick === undefined || gate !== undefined;
  if (gate && 'compare' in setting && (setting.compare !== setting.top || update.compare !== 'immediate'))
    return 'the match that toggles its output cannot move with the period';
  if (atOnce === (update.top === 'immediate')) return undefined;
  return atOnce
    ? 'its timer would take a new period only after one more run'
    : 'its timer would not wait with a new period for the end of the last one';
}

/** A sequence as a table that interrupts go through, period by period, or why the code does not do it. */
export function codeSequence(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  setting: Setting,
  alone: boolean,
): ProgramSequence | { reason: string } | undefined {
  const { sequence } = signal;
  if (!sequence) return undefined;
  const { cause, loop } = driveOf(setting);
  const own = cause === 'interrupts' && setting.pin !== undefined;
  const rows = loop
    ? loopRows(setting)
    : own
      ? interruptRows(part, setting)
      : outputRows(part, path, setting);
  if ('reason' in rows) return rows;
  const { rest, setting: base, valueOf, tick, gate } = rows;
  // An output at rest needs the value of its own period's length.
  const restOf = (own: Setting): number => {
    const end = isOutput(own) && !gate ? periodEnd(part, own) : undefined;
    return end && 'rest' in end ? end.rest : rest;
  };
  try {
    const entries = sequenceSettings(part, path, signal, sequence, base).map(
      ({ setting: at, periods, rest: low }) => ({
        periods,
        top: at?.top ?? base.top,
        compare: at && !low ? valueOf(at) : at ? restOf(at) : rest,
      }),
    );
    const moves = entries.some(({ top }) => top !== base.top);
    const reason = moves && !loop ? topReason(part, rows, alone) : undefined;
    if (reason !== undefined) return { reason };
    if (loop && entries.length > MOST_LOOPS) return { reason: `it would be ${entries.length} loops` };
    if (entries.length > MOST_ENTRIES) return { reason: `its table would have ${entries.length} entries` };
    return {
      ...(tick ? { tick } : {}),
      ...(gate ? { gate } : {}),
      rest,
      moves,
      entries,
      once: sequence.once === true,
    };
  } catch (error) {
    if (error instanceof SettingError) return { reason: error.message };
    throw error;
  }
}
