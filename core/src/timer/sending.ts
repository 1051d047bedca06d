import { channelOf } from '../part/find.ts';
import type { Interrupt, Part, Queue } from '../part/types.ts';
import type { Exact } from '../quantity/exact.ts';
import type { Requirement } from '../signal/requirement.ts';
import { compareFor, highCounts, maxCompare } from './count.ts';
import { driveOf, hasFreeDuty, resolveSetting, type Resolved } from './drives/index.ts';
import type { OutputSetting, Setting } from './setting.ts';
import { fieldWrites, type FieldWrite } from './fields.ts';
import { tickOf } from './tick.ts';

/** A PWM output whose new values wait for the end of a period: the interrupt that comes then, and the compare value that keeps it low. */
export type PeriodEnd = { tick: Interrupt; rest: number; setting: OutputSetting };

/**
 * Bits that the program hands to a PWM output, one a period: the compare values of a one and of a zero, and of low. It waits for the end
 * of each period, or for room in a queue.
 */
export type Sending = Omit<PeriodEnd, 'tick'> & {
  one: number;
  zero: number;
  by: { tick: Interrupt } | { queue: Queue };
};

/** The queue from which a PWM output can take a value a period; undefined where it has none. */
function queueOf(
  part: Part,
  setting: Setting,
): { queue: Queue; rest: number; setting: OutputSetting } | undefined {
  if (!hasFreeDuty(setting) || setting.polarity === 'inverted') return undefined;
  const { mode, timer } = resolveSetting(part, setting);
  const { queue } = channelOf(timer, setting.channel);
  return queue && !mode.pwm?.spread ? { queue, rest: 0, setting } : undefined;
}

/** Why the end of a period cannot be waited for without its interrupt; undefined where it can. */
function unseenReason(part: Part, { tick, setting }: PeriodEnd): string | undefined {
  const { mode, timer } = resolveSetting(part, setting);
  if (mode.count !== 'up') return 'a bit would begin with one width and end with the other';
  const { clear, polled } = tick;
  const unseen = polled === false || clear === 'entry' || clear === 'read' || clear === 'none';
  return unseen ? `without its interrupt ${timer.name} does not say when a period ends` : undefined;
}

/** The interrupt at the end of a PWM output's periods, or why its values cannot change there, whatever its numbers are. */
export function periodTick(
  part: Part,
  setting: Setting,
): { tick: Interrupt; setting: OutputSetting } | { reason: string } {
  if (!hasFreeDuty(setting)) return { reason: 'only a PWM output can do that' };
  const { mode, timer } = resolveSetting(part, setting);
  const tick = tickOf(timer, mode);
  if (!tick) return { reason: `${timer.name} has no interrupt at the end of a period` };
  if (mode.update.compare === 'immediate' || setting.complement || mode.pwm?.spread)
    return { reason: 'new values would not wait for the end of a period' };
  // An output that is set by its match on the way down and cleared on the way up needs both with one value.
  if (mode.count === 'updown' && mode.update.compare === 'bottom' && mode.pwm?.changes === 'match')
    return {
      reason: 'this mode takes new values over in the middle of a pulse, of which half would be missing',
    };
  return { tick, setting };
}

/** What a PWM output does at the end of its periods, or why its values cannot change from one to the next. */
export function periodEnd(part: Part, output: Setting): PeriodEnd | { reason: string } {
  const end = periodTick(part, output);
  if ('reason' in end) return end;
  const { tick, setting } = end;
  const { mode, timer } = resolveSetting(part, setting);
  const inverted = setting.polarity === 'inverted';
  const rests = [0, maxCompare(mode, setting.top, timer.width)];
  const rest = rests.find((compare) => highCounts(mode, setting.top, compare, inverted) === 0);
  return rest === undefined ? { reason: 'no compare value keeps this output low' } : { tick, rest, setting };
}

/** The compare value of an output whose width is nearest to one that is wanted, of a signal of that frequency. */
export function compareForWidth(
  { mode, timer }: Pick<Resolved, 'mode' | 'timer'>,
  { top, polarity }: OutputSetting,
  width: Exact,
  frequency: Exact,
): number {
  return compareFor(mode, top, timer.width, width.mul(frequency).valueOf(), polarity === 'inverted');
}

/**
 * How the program hands the bits of a string to a timer: it waits for the end of each period and writes the next compare value. A
 * reason where that cannot be done; undefined where a signal has no bits, or a loop sends them without a timer.
 */
export function sendingOf(
  part: Part,
  setting: Setting,
  { alsoWidths: [zero] = [] }: Pick<Requirement, 'alsoWidths'>,
  frequency: Exact,
  cpuHz: Exact,
): Sending | { reason: string } | undefined {
  if (!zero || driveOf(setting).bits) return undefined;
  const end = queueOf(part, setting) ?? periodEnd(part, setting);
  if ('reason' in end) return end;
  const unseen = 'tick' in end ? unseenReason(part, end) : undefined;
  if (unseen !== undefined) return { reason: unseen };
  const { sendCycles } = part.cpu;
  if (sendCycles === undefined) return { reason: `no loop that hands them over is known for ${part.name}` };
  const has = Math.floor(cpuHz.div(frequency).valueOf() + 1e-9);
  if (has < sendCycles)
    return {
      reason: `a bit has ${has} cycles of the processor and the loop that hands it over takes up to ${sendCycles}`,
    };
  return {
    rest: end.rest,
    setting: end.setting,
    one: end.setting.compare,
    zero: compareForWidth(resolveSetting(part, end.setting), end.setting, zero.ideal, frequency),
    by: 'tick' in end ? { tick: end.tick } : { queue: end.queue },
  };
}

/** The fields that sending decides beside its setting. */
export function sendingWrites({ by }: Sending): FieldWrite[] {
  return fieldWrites('queue' in by ? by.queue.writes : (by.tick.pollWith ?? {}));
}

/** Whether the program sends bits with a setting, in a loop or by handing them to its timer. */
export function sendsBits(
  part: Part,
  setting: Setting,
  requirement: Pick<Requirement, 'alsoWidths'>,
  frequency: Exact,
  cpuHz: Exact,
): boolean {
  if (driveOf(setting).bits) return true;
  const sending = sendingOf(part, setting, requirement, frequency, cpuHz);
  return sending !== undefined && !('reason' in sending);
}
