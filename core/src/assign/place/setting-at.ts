import { clockOf, type ClockPath } from '../../clock/path.ts';
import { scaleOf } from '../../part/division.ts';
import type { Part } from '../../part/types.ts';
import { rateTop, tickRequirement } from '../../fit/candidate.ts';
import { deadTicksFor } from '../../fit/complement.ts';
import { topSeries } from '../../fit/hardware/tops.ts';
import { compareFor } from '../../timer/count.ts';
import { settingWrites } from '../../timer/encode.ts';
import type { OutputSetting, Setting } from '../../timer/setting.ts';
import { narrowed, type Place } from '../request.ts';
import type { Unplaced } from './places.ts';
import type { Share, Shared } from '../counter/context.ts';

/** The setting of an output at its place; undefined where the polarities there do not meet the goal. */
function outputSetting(
  part: Part,
  path: ClockPath,
  { request, option }: Unplaced,
  place: Place,
  { prescaler, top }: Shared,
): OutputSetting | undefined {
  const { timer, mode, drive } = option;
  const channel = timer.channels.find(({ id }) => id === place.channel);
  const { pin, outputs } = place;
  const requirement = narrowed(request.requirement, path, timer);
  if ((drive !== 'pwm' && drive !== 'toggle') || !channel || pin === undefined || !requirement)
    return undefined;
  const scale = scaleOf(timer.prescaler);
  const wanted = tickRequirement(requirement, clockOf(path, timer.clock).mul(scale), scale);
  const n = prescaler * scale;
  const route = { timer, mode, drive, channel, pin, outputs: [...outputs] };
  const rating = rateTop(route, n, top, topSeries(mode, n, drive === 'toggle' ? 2 : 1), wanted);
  if (!rating.meets) return undefined;
  const setting: OutputSetting = {
    drive,
    timer: timer.id,
    mode: mode.id,
    channel: channel.id,
    pin,
    prescaler,
    top,
    compare: rating.compare,
    ...(rating.polarity === 'inverted' ? { polarity: 'inverted' as const } : {}),
  };
  const { opposite } = request;
  if (!opposite) return setting;
  const clockHz = clockOf(path, timer.clock).valueOf();
  const deadTicks = deadTicksFor(timer, clockHz * opposite.deadS);
  if (deadTicks === undefined) return undefined;
  const share = requirement.duty.ideal.valueOf() + (deadTicks / clockHz) * rating.frequencyHz;
  const compare = compareFor(mode, top, timer.width, Math.min(1, share), false);
  return { ...setting, compare, complement: { pin: opposite.pin, deadTicks } };
}

/** The setting of one signal at its place; undefined where it cannot be made there after all. */
export function settingAt(
  part: Part,
  path: ClockPath,
  members: Unplaced,
  place: Place,
  shared: Shared,
  share: Share,
): Setting | undefined {
  const { request, option } = members;
  if (request.locked) return request.locked;
  const { drive, timer, mode } = option;
  if (drive === 'pwm' || drive === 'toggle') return outputSetting(part, path, members, place, shared);
  const counter = { timer: timer.id, mode: mode.id, prescaler: shared.prescaler, top: shared.top };
  const pin = place.pin;
  if (drive === 'interrupt') {
    return { drive, ...counter, ...(pin === undefined ? {} : { pin }), divider: share.divider ?? 1 };
  }
  if (pin === undefined) return undefined;
  if (drive === 'software-pwm') {
    return { drive, ...counter, pin, divider: share.divider ?? 1, compare: share.compare ?? 0 };
  }
  if (place.channel === undefined) return undefined;
  return drive === 'interrupt-pair'
    ? { drive, ...counter, channel: place.channel, pin, compare: share.compare ?? 0 }
    : { drive: 'capture', ...counter, channel: place.channel, pin };
}

/** Whether no two settings want one field of a register in different ways. */
export function registersAgree(part: Part, settings: readonly Setting[]): boolean {
  const fields = new Map<string, number>();
  for (const setting of settings) {
    for (const { register, field, value } of settingWrites(part, setting)) {
      const key = `${register}.${field ?? ''}`;
      if ((fields.get(key) ?? value) !== value) return false;
      fields.set(key, value);
    }
  }
  return true;
}
