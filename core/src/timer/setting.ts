import { modeOf, NotOnPart, timerOf } from '../part/find.ts';
import type { Mode, Part, Timer } from '../part/types.ts';
import { divisionOf, divisionText, type Division } from '../part/division.ts';

/** The methods of producing a signal that a timer's hardware does by itself. */
export type OutputDrive = 'pwm' | 'toggle';

/** The id of a drive; see `drives/` for what each of them does. */
export type DriveId = Setting['drive'];

/** How a counter runs: its division and its highest count. */
export type Counter = { timer: string; mode: string; prescaler: number; top: number };

/** A timer drives the pin by itself. */
export type OutputSetting = {
  drive: OutputDrive;
  timer: string;
  mode: string;
  channel: string;
  pin: string;
  /** Inverted outputs are low where normal ones are high. Absent means normal. */
  polarity?: 'normal' | 'inverted';
  /** What the clock is divided by; a divider with a fraction may have one here too (38.25). */
  prescaler: number;
  top: number;
  compare: number;
  /** The count at which the counter begins, which shifts the output against those of other timers; absent means at 0. */
  begin?: number;
  /**
   * The pin that carries the opposite, and how many ticks of the timer's clock both stay low between. With `channel` a second
   * channel of the timer makes it; without, the hardware beside the channel itself.
   */
  complement?: { pin: string; deadTicks: number; channel?: string };
};

/**
 * The timer's interrupt, every `divider`-th, toggles the pin; without a pin it is a tick. `postscale` runs of the counter
 * make one interrupt where the timer has a postscaler.
 */
export type InterruptSetting = Counter & {
  drive: 'interrupt';
  pin?: string;
  postscale?: number;
  divider: number;
};

/** The timer's interrupt counts 0 to `divider` - 1; the pin is high while the count is below `compare`. */
export type SoftwarePwmSetting = Counter & {
  drive: 'software-pwm';
  pin: string;
  postscale?: number;
  divider: number;
  compare: number;
};

/** The timer's interrupt sets the pin, the match of a channel clears it `compare` counts later. */
export type InterruptPairSetting = Counter & {
  drive: 'interrupt-pair';
  channel: string;
  pin: string;
  compare: number;
};

/** The program itself waits: `top` passes of a delay loop make a period, the pin is high for `compare` of them. */
export type DelayLoopSetting = { drive: 'delay-loop'; pin: string; top: number; compare: number };

/**
 * The program sends bits in a loop of fixed cycles: `top` cycles a bit, the pin high for `compare` of them in a one and for
 * `zero` in a zero.
 */
export type BitLoopSetting = { drive: 'bit-loop'; pin: string; top: number; compare: number; zero: number };

/** The timer copies its count at each rising edge of an input, and the interrupt takes the difference: a period. */
export type CaptureSetting = Counter & { drive: 'capture'; channel: string; pin: string };

/** A setting in which interrupts of a timer do the work. */
export type InterruptDriven = InterruptSetting | SoftwarePwmSetting | InterruptPairSetting;

/** All that is needed to compute an outcome exactly. `top` is the highest count; `compare` counts as the mode says. */
export type Setting = OutputSetting | InterruptDriven | DelayLoopSetting | BitLoopSetting | CaptureSetting;

/** A setting in which a timer counts. */
export type TimerSetting = Extract<Setting, { timer: string }>;

/** Whether a timer counts in a setting; where the program itself waits none does. */
export function hasTimer(setting: Setting): setting is TimerSetting {
  return 'timer' in setting;
}

/** The timer a setting uses, by id; empty where the program itself waits. */
export function timerIdOf(setting: Setting): string {
  return hasTimer(setting) ? setting.timer : '';
}

/** Of each of some settings, whether no other one runs on its timer. */
export function aloneOnTimers(settings: readonly Setting[]): boolean[] {
  const timers = settings.map(timerIdOf);
  return timers.map((timer) => timers.filter((other) => other === timer).length === 1);
}

/** The channel a setting takes, if it takes one. */
export function channelIdOf(setting: Setting): string | undefined {
  return 'channel' in setting ? setting.channel : undefined;
}

/** All channels a setting takes: its own, and one that makes its opposite. */
export function channelsOfSetting(setting: Setting): string[] {
  const own = channelIdOf(setting);
  const second = 'complement' in setting ? setting.complement?.channel : undefined;
  return [own, second].filter((id) => id !== undefined);
}

/** Whether two settings are the same in every number, in whatever order they say them. */
export function sameSetting(one: Setting, other: Setting): boolean {
  // Most settings that are compared differ in these.
  if (one.top !== other.top || one.drive !== other.drive) return false;
  const keys = new Set([...Object.keys(one), ...Object.keys(other)]) as Set<keyof Setting>;
  for (const key of keys) {
    const [value, wanted]: [unknown, unknown] = [one[key], other[key]];
    const nested = typeof value === 'object' && typeof wanted === 'object';
    if (value !== wanted && !(nested && JSON.stringify(value) === JSON.stringify(wanted))) return false;
  }
  return true;
}

/** The pins a setting takes: its own, and that of its opposite. */
export function pinsOfSetting(setting: Setting): string[] {
  const own = setting.pin === undefined ? [] : [setting.pin];
  return 'complement' in setting && setting.complement ? [...own, setting.complement.pin] : own;
}

/** Thrown when a setting is not possible on a part; `key` is the field at fault. */
export class SettingError extends Error {
  readonly key: string;
  constructor(key: string, message: string) {
    super(message);
    this.key = key;
  }
}

/** The minimum and maximum top of a mode. */
export function topRange(mode: Mode): { min: number; max: number } {
  const { top } = mode;
  if (top.kind === 'fixed') return { min: top.value, max: top.value };
  if (top.kind === 'power') return { min: 2 ** top.minBits - 1, max: 2 ** top.maxBits - 1 };
  return top;
}

/** Whether a mode takes its top from this channel's compare register, so that both are one number. */
export function isTopChannel(mode: Mode, channel: string): boolean {
  return mode.top.kind === 'channel' && mode.top.channel === channel;
}

/** Checks the top of a counter against its mode. @throws SettingError */
export function checkTop(setting: { top: number }, timer: Timer, mode: Mode): void {
  const { min, max } = topRange(mode);
  if (!Number.isInteger(setting.top) || setting.top < min || setting.top > max) {
    const range = min === max ? `is fixed at ${min}` : `goes from ${min} to ${max}`;
    throw new SettingError(
      'top',
      `The top of ${timer.name} in ${mode.name} ${range}; ${setting.top} is not possible.`,
    );
  }
  if (mode.top.kind === 'power' && !Number.isInteger(Math.log2(setting.top + 1))) {
    throw new SettingError(
      'top',
      `The top of ${timer.name} in ${mode.name} is 2^n − 1; ${setting.top} is not.`,
    );
  }
}

/** Looks something up; a name the part does not have becomes a fault of that field. @throws SettingError */
export function look<T>(key: string, find: () => T): T {
  try {
    return find();
  } catch (error) {
    if (error instanceof NotOnPart) throw new SettingError(key, error.message);
    throw error;
  }
}

/** The timer, mode and division of a counter. @throws SettingError */
export function resolveCounter(
  part: Part,
  setting: Counter,
): { timer: Timer; mode: Mode; division: Division } {
  const timer = look('timer', () => timerOf(part, setting.timer));
  const mode = look('mode', () => modeOf(timer, setting.mode));
  const division = divisionOf(timer.prescaler, setting.prescaler);
  if (!division) {
    const able = divisionText(timer.prescaler);
    throw new SettingError('prescaler', `${timer.name} divides by ${able}, not by ${setting.prescaler}.`);
  }
  return { timer, mode, division };
}

/** Checks that a number is whole and within its range. @throws SettingError */
export function checkWhole(key: string, value: number, min: number, max: number): void {
  if (Number.isInteger(value) && value >= min && value <= max) return;
  throw new SettingError(key, `${key} goes from ${min} to ${max}; ${value} is not possible.`);
}
