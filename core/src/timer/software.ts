import { channelOf, pinOf } from '../part/find.ts';
import { divisionOf, divisionText, type Division } from '../part/division.ts';
import type { Channel, Interrupt, Mode, Part, Pin, SoftwarePin, Timer } from '../part/types.ts';
import {
  checkTop,
  isTopChannel,
  look,
  resolveCounter,
  SettingError,
  type DelayLoopSetting,
  type InterruptDriven,
} from './setting.ts';

/** An interrupt-driven setting with its names resolved against a part. `match` is the second interrupt of a pair. */
export type ResolvedSoftware = {
  setting: InterruptDriven;
  timer: Timer;
  mode: Mode;
  division: Division;
  tick: Interrupt;
  pin?: Pin & { software: SoftwarePin };
  match?: { channel: Channel; interrupt: Interrupt };
};

/** Software dividers beyond this need more than a 32-bit variable's worth of patience. */
/** The most interrupts that the program counts to a change. */
export const MAX_DIVIDER = 2 ** 31;

/** The interrupt that comes once a run of the counter in this mode; undefined where the mode has none. */
export function tickOf(timer: Timer, mode: Mode): Interrupt | undefined {
  const { tick } = mode;
  if (tick === undefined) return undefined;
  if (tick === 'overflow' || tick === 'capture') return timer.interrupts[tick];
  return timer.channels.find((channel) => channel.id === tick)?.interrupt;
}

/** A pin that the program can drive itself. @throws SettingError */
export function softwarePin(part: Part, id: string): Pin & { software: SoftwarePin } {
  const pin = look('pin', () => pinOf(part, id));
  const { software } = pin;
  if (!software) throw new SettingError('pin', `${id} cannot be driven by the program.`);
  return { ...pin, software };
}

function checkWhole(key: string, value: number, min: number, max: number): void {
  if (Number.isInteger(value) && value >= min && value <= max) return;
  throw new SettingError(key, `${key} goes from ${min} to ${max}; ${value} is not possible.`);
}

function checkPostscale(timer: Timer, { postscaler }: Interrupt, postscale: number): void {
  if (postscale === 1 && !postscaler) return;
  if (!postscaler) throw new SettingError('postscale', `${timer.name} has no postscaler.`);
  if (divisionOf(postscaler, postscale)) return;
  const able = divisionText(postscaler);
  throw new SettingError(
    'postscale',
    `The postscaler of ${timer.name} divides by ${able}, not by ${postscale}.`,
  );
}

/** The channel of a pair, if its match can interrupt and is not the top. @throws SettingError */
function matchOf(timer: Timer, mode: Mode, id: string): { channel: Channel; interrupt: Interrupt } {
  const channel = look('channel', () => channelOf(timer, id));
  const { interrupt } = channel;
  if (!interrupt || isTopChannel(mode, id) || mode.count !== 'up') {
    throw new SettingError('channel', `The match of ${channel.name} cannot end a pulse in ${mode.name}.`);
  }
  return { channel, interrupt };
}

/** Looks up every name of an interrupt-driven setting and checks its numbers. @throws SettingError with the field at fault. */
export function resolveSoftware(part: Part, setting: InterruptDriven): ResolvedSoftware {
  const { timer, mode, division } = resolveCounter(part, setting);
  const tick = tickOf(timer, mode);
  if (!tick) throw new SettingError('mode', `${timer.name} has no interrupt once a run in ${mode.name}.`);
  checkTop(setting, timer, mode);
  const pin = setting.pin === undefined ? undefined : softwarePin(part, setting.pin);
  const common = { setting, timer, mode, division, tick, ...(pin ? { pin } : {}) };
  if (setting.drive === 'interrupt-pair') {
    checkWhole('compare', setting.compare, 0, setting.top);
    return { ...common, match: matchOf(timer, mode, setting.channel) };
  }
  checkPostscale(timer, tick, setting.postscale ?? 1);
  checkWhole('divider', setting.divider, 1, MAX_DIVIDER);
  if (setting.drive === 'software-pwm') checkWhole('compare', setting.compare, 0, setting.divider);
  return common;
}

/** The pin of a delay loop, its numbers checked. @throws SettingError */
export function resolveDelayLoop(part: Part, setting: DelayLoopSetting): Pin & { software: SoftwarePin } {
  checkWhole('top', setting.top, 1, MAX_DIVIDER);
  checkWhole('compare', setting.compare, 0, setting.top);
  return softwarePin(part, setting.pin);
}
