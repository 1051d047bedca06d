import { clockOf, type ClockPath } from '../clock/path.ts';
import { scaleOf } from '../part/division.ts';
import type { Part } from '../part/schema.ts';
import { rateTop, tickGoal } from '../fit/candidate.ts';
import { deadTicksFor } from '../fit/complement.ts';
import { laneOf } from '../fit/tops.ts';
import { compareFor } from '../timer/count.ts';
import { settingWrites } from '../timer/encode.ts';
import type { OutputSetting, Setting } from '../timer/setting.ts';
import { narrowed, type Place } from './request.ts';
import type { Seated } from './place.ts';
import type { Share, Shared } from './bench.ts';

/** The setting of an output at its place; undefined where the polarities there do not meet the goal. */
function outputSetting(
  part: Part,
  path: ClockPath,
  { request, option }: Seated,
  place: Place,
  { prescaler, top }: Shared,
): OutputSetting | undefined {
  const { timer, mode, drive } = option;
  const channel = timer.channels.find(({ id }) => id === place.channel);
  const { pin, outputs } = place;
  const goal = narrowed(request.goal, path, timer);
  if ((drive !== 'compare' && drive !== 'toggle') || !channel || pin === undefined || !goal) return undefined;
  const scale = scaleOf(timer.prescaler);
  const wanted = tickGoal(goal, clockOf(path, timer.clock).mul(scale), scale);
  const n = prescaler * scale;
  const way = { timer, mode, drive, channel, pin, outputs: [...outputs] };
  const rating = rateTop(way, n, top, laneOf(mode, n, drive === 'toggle' ? 2 : 1), wanted);
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
  const share = goal.duty.ideal.valueOf() + (deadTicks / clockHz) * rating.frequencyHz;
  const compare = compareFor(mode, top, timer.width, Math.min(1, share), false);
  return { ...setting, compare, complement: { pin: opposite.pin, deadTicks } };
}

/** The setting of one signal at its place; undefined where it cannot be made there after all. */
export function seatedSetting(
  part: Part,
  path: ClockPath,
  seated: Seated,
  place: Place,
  shared: Shared,
  share: Share,
): Setting | undefined {
  const { request, option } = seated;
  if (request.stays) return request.stays;
  const { drive, timer, mode } = option;
  if (drive === 'compare' || drive === 'toggle') return outputSetting(part, path, seated, place, shared);
  const counter = { timer: timer.id, mode: mode.id, prescaler: shared.prescaler, top: shared.top };
  const pin = place.pin;
  if (drive === 'interrupt') {
    return { drive, ...counter, ...(pin === undefined ? {} : { pin }), divider: share.divider ?? 1 };
  }
  if (pin === undefined) return undefined;
  if (drive === 'counted') {
    return { drive, ...counter, pin, divider: share.divider ?? 1, compare: share.compare ?? 0 };
  }
  if (place.channel === undefined) return undefined;
  return drive === 'pair'
    ? { drive, ...counter, channel: place.channel, pin, compare: share.compare ?? 0 }
    : { drive: 'capture', ...counter, channel: place.channel, pin };
}

/** Whether no two settings want one field of a register in different ways. */
export function agreeing(part: Part, settings: readonly Setting[]): boolean {
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
