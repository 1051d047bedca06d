import { channelOf, complementOf, deadBandsOf, timerOf } from '../../part/find.ts';
import type { Division } from '../../part/division.ts';
import type { Channel, Mode, Output, Part, Timer, Writes } from '../../part/types.ts';
import { beginOf, grainOf, maxCompare, minCompare, togglesTwice } from '../count.ts';
import { secondChannel } from './second-channel.ts';
import {
  checkTop,
  checkWhole,
  isTopChannel,
  look,
  pinsOfSetting,
  resolveCounter,
  SettingError,
  type OutputSetting,
  type Setting,
} from '../setting.ts';

/** An output's setting with its names resolved against a part. */
export type Resolved = {
  setting: OutputSetting;
  timer: Timer;
  mode: Mode;
  channel: Channel;
  output: Output;
  division: Division;
  /** All that brings the opposite to its pin; absent where it is not wanted. */
  opposite?: { pin: string; deadTicks: number; writes: Writes; second?: OutputSetting };
};

/** What each kind of output is called. */
const WORDS = { pwm: 'PWM output', toggle: 'toggled output' } as const;

function checkCounts(setting: OutputSetting, timer: Timer, mode: Mode): void {
  checkTop(setting, timer, mode);
  const greatest = 2 ** (mode.pwm?.bits ?? timer.width) - 1;
  if (!Number.isInteger(setting.compare) || setting.compare < 0 || setting.compare > greatest) {
    throw new SettingError(
      'compare',
      `A compare value of ${timer.name} goes from 0 to ${greatest}; ${setting.compare} does not.`,
    );
  }
  const [least, most] = [minCompare(mode), maxCompare(mode, setting.top, timer.width)];
  if (togglesTwice(mode) && (setting.compare < least || setting.compare > most)) {
    throw new SettingError(
      'compare',
      `In ${mode.name} a compare value of ${timer.name} goes from ${least} to its top, ${most}; ${setting.compare} does not.`,
    );
  }
  if (isTopChannel(mode, setting.channel) && setting.compare !== setting.top) {
    throw new SettingError(
      'compare',
      `In ${mode.name} ${setting.channel} is the top, so compare must be ${setting.top} too.`,
    );
  }
}

function checkBegin({ begin, top }: OutputSetting, timer: Timer, mode: Mode): void {
  if (begin === undefined) return;
  if (!timer.preset || mode.count !== 'up' || mode.start) {
    throw new SettingError(
      'begin',
      `The counter of ${timer.name} cannot begin at a chosen count in ${mode.name}.`,
    );
  }
  checkWhole('begin', begin, 0, top);
}

function outputOf(setting: OutputSetting, channel: Channel, mode: Mode): Output {
  const able = mode[setting.drive]?.channels ?? [];
  if (!able.includes(channel.id)) {
    throw new SettingError('drive', `${channel.name} has no ${WORDS[setting.drive]} in ${mode.name}.`);
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

/**
 * Whether an output's pin and the pin of its opposite would go the same way, both being outputs of the opposite, or the output being
 * inverted: both switches of a bridge would conduct.
 */
export function goesSameWay(
  channel: Channel,
  { pin, polarity, complement }: OutputSetting,
  opposite: string,
): boolean {
  if (complement?.channel !== undefined) return false;
  return polarity === 'inverted' || complementOf(channel, pin, opposite) === undefined;
}

function oppositeOf(
  setting: OutputSetting,
  { timer, mode, channel, division }: Pick<Resolved, 'timer' | 'mode' | 'channel' | 'division'>,
): Pick<Resolved, 'opposite'> {
  if (!setting.complement) return {};
  const { pin, deadTicks, channel: id } = setting.complement;
  if (id !== undefined) {
    const made = look('complement', () => channelOf(timer, id));
    const second = secondChannel(setting, { pin, deadTicks, channel: made }, { timer, mode, division });
    checkCounts(second, timer, mode);
    return { opposite: { pin, deadTicks, writes: outputOf(second, made, mode).writes, second } };
  }
  const own =
    complementOf(channel, setting.pin, pin) ??
    channel.complement?.find((one) => one.pin === pin && !one.beside);
  if (!own || setting.drive !== 'pwm') {
    const pins = channel.complement?.map((one) => one.pin).join(', ') || 'no pin';
    throw new SettingError(
      'complement',
      `The opposite of ${channel.name} comes out on ${pins}, not on ${pin}.`,
    );
  }
  const band = deadBandsOf(timer, channel)?.find(
    ({ min, max, step }) => deadTicks >= min && deadTicks <= max && deadTicks % step === 0,
  );
  if (!band && deadTicks !== 0) {
    throw new SettingError('complement', `${timer.name} cannot keep a dead time of ${deadTicks} clocks.`);
  }
  return { opposite: { pin, deadTicks, writes: { ...own.writes, ...band?.writes } } };
}

/** Ticks of its outcome by which an output's counter is ahead of the start of its run when it begins. @throws SettingError */
export function beginTicks(part: Part, setting: OutputSetting): number {
  const { mode, division } = resolveSetting(part, setting);
  return beginOf(mode, setting) * grainOf(mode) * division.n;
}

/** The pins that only one setting can have: what a setting drives, and what its output drives besides. */
export function pinsTakenBy(part: Part, setting: Setting): string[] {
  const own = pinsOfSetting(setting);
  if (setting.drive !== 'pwm' && setting.drive !== 'toggle') return own;
  if (setting.complement) return own;
  const { outputs } = channelOf(timerOf(part, setting.timer), setting.channel);
  const found = outputs.find(
    (one) =>
      one.pin === setting.pin &&
      one.drive === setting.drive &&
      one.polarity === (setting.polarity ?? 'normal'),
  );
  return [...own, ...(found?.takes ?? [])];
}

/** Looks up every name of an output's setting and checks its numbers. @throws SettingError with the field at fault. */
export function resolveSetting(part: Part, setting: OutputSetting): Resolved {
  const { timer, mode, division } = resolveCounter(part, setting);
  const channel = look('channel', () => channelOf(timer, setting.channel));
  checkCounts(setting, timer, mode);
  checkBegin(setting, timer, mode);
  const output = outputOf(setting, channel, mode);
  const opposite = oppositeOf(setting, { timer, mode, channel, division });
  return { setting, timer, mode, channel, output, division, ...opposite };
}
