import { channelOf, modeOf, NotOnPart, timerOf } from '../part/find.ts';
import type { Channel, Mode, Output, Part, Timer, Writes } from '../part/types.ts';
import { divisionOf, divisionText, type Division } from '../part/division.ts';

/** The methods of producing a signal that a timer's hardware does by itself. */
export type OutputDrive = 'pwm' | 'toggle';

/** How a signal is produced: by an output of the timer, by its interrupts, or by a loop of the program; or measured by its capture. */
export type Drive = OutputDrive | 'interrupt' | 'interrupt-pair' | 'software-pwm' | 'delay-loop' | 'capture';

/** How a counter runs: its division and its highest count. */
type Counter = { timer: string; mode: string; prescaler: number; top: number };

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
  /** The pin that carries the opposite, and how many ticks of the timer's clock both stay low between. */
  complement?: { pin: string; deadTicks: number };
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

/** The timer copies its count at each rising edge of an input, and the interrupt takes the difference: a period. */
export type CaptureSetting = Counter & { drive: 'capture'; channel: string; pin: string };

/** A setting in which interrupts of a timer do the work. */
export type InterruptDriven = InterruptSetting | SoftwarePwmSetting | InterruptPairSetting;

/** All that is needed to compute an outcome exactly. `top` is the highest count; `compare` counts as the mode says. */
export type Setting = OutputSetting | InterruptDriven | DelayLoopSetting | CaptureSetting;

/** Whether the timer drives the pin by itself. */
export function isOutput(setting: Setting): setting is OutputSetting {
  return setting.drive === 'pwm' || setting.drive === 'toggle';
}

/** The pins a setting takes: its own, and that of its opposite. */
export function pinsOfSetting(setting: Setting): string[] {
  const own = setting.pin === undefined ? [] : [setting.pin];
  return isOutput(setting) && setting.complement ? [...own, setting.complement.pin] : own;
}

/** A setting with its names resolved against a part. */
export type Resolved = {
  setting: OutputSetting;
  timer: Timer;
  mode: Mode;
  channel: Channel;
  output: Output;
  division: Division;
  /** All that brings the opposite to its pin; absent where it is not wanted. */
  opposite?: { pin: string; deadTicks: number; writes: Writes };
};

/** Thrown when a setting is not possible on a part; `key` is the field at fault. */
export class SettingError extends Error {
  readonly key: string;
  constructor(key: string, message: string) {
    super(message);
    this.key = key;
  }
}

/** The least and the greatest top of a mode. */
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

function checkCounts(setting: OutputSetting, timer: Timer, mode: Mode): void {
  checkTop(setting, timer, mode);
  const greatest = 2 ** (mode.pwm?.bits ?? timer.width) - 1;
  if (!Number.isInteger(setting.compare) || setting.compare < 0 || setting.compare > greatest) {
    throw new SettingError(
      'compare',
      `A compare value of ${timer.name} goes from 0 to ${greatest}; ${setting.compare} does not.`,
    );
  }
  if (isTopChannel(mode, setting.channel) && setting.compare !== setting.top) {
    throw new SettingError(
      'compare',
      `In ${mode.name} ${setting.channel} is the top, so compare must be ${setting.top} too.`,
    );
  }
}

function outputOf(setting: OutputSetting, channel: Channel, mode: Mode): Output {
  const able = mode[setting.drive]?.channels ?? [];
  if (!able.includes(channel.id)) {
    throw new SettingError('drive', `${channel.name} has no ${setting.drive === 'pwm' ? 'PWM' : 'toggled'} output in ${mode.name}.`);
  }
  const output = channel.outputs.find(
    (one) =>
      one.pin === setting.pin &&
      one.drive === setting.drive &&
      one.polarity === (setting.polarity ?? 'normal'),
  );
  if (output) return output;
  const pins = [...new Set(channel.outputs.map((one) => one.pin))].join(', ');
  throw new SettingError(
    'pin',
    `${channel.name} comes out on ${pins}, not on ${setting.pin} (${setting.drive}).`,
  );
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

function oppositeOf(setting: OutputSetting, timer: Timer, channel: Channel): Pick<Resolved, 'opposite'> {
  if (!setting.complement) return {};
  const { pin, deadTicks } = setting.complement;
  const own = channel.complement?.find((one) => one.pin === pin);
  if (!own || setting.drive !== 'pwm') {
    const pins = channel.complement?.map((one) => one.pin).join(', ') || 'no pin';
    throw new SettingError(
      'complement',
      `The opposite of ${channel.name} comes out on ${pins}, not on ${pin}.`,
    );
  }
  const band = timer.deadTime?.find(
    ({ min, max, step }) => deadTicks >= min && deadTicks <= max && deadTicks % step === 0,
  );
  if (!band && deadTicks !== 0) {
    throw new SettingError('complement', `${timer.name} cannot keep a dead time of ${deadTicks} clocks.`);
  }
  return { opposite: { pin, deadTicks, writes: { ...own.writes, ...band?.writes } } };
}

/** Looks up every name of an output's setting and checks its numbers. @throws SettingError with the field at fault. */
export function resolveSetting(part: Part, setting: OutputSetting): Resolved {
  const { timer, mode, division } = resolveCounter(part, setting);
  const channel = look('channel', () => channelOf(timer, setting.channel));
  checkCounts(setting, timer, mode);
  const output = outputOf(setting, channel, mode);
  return { setting, timer, mode, channel, output, division, ...oppositeOf(setting, timer, channel) };
}
