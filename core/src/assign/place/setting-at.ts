import { clockOf, type ClockPath } from '../../clock/path.ts';
import { divisionOf, scaleOf } from '../../part/division.ts';
import type { Part } from '../../part/types.ts';
import { rateTop, tickRequirement } from '../../fit/candidate.ts';
import { deadTicksIn, secondDeadTicksIn } from '../../fit/complement.ts';
import { topSeries } from '../../fit/hardware/tops.ts';
import { compareFor } from '../../timer/count.ts';
import { claimedWrites } from '../../timer/encode.ts';
import { driveById, fieldsOf, runsOf } from '../../timer/drives/index.ts';
import type { OutputDrive, OutputSetting, Setting } from '../../timer/setting.ts';
import { narrowed, type Place } from '../request.ts';
import type { Unplaced } from './places.ts';
import type { Share, Shared } from '../counter/context.ts';

/** The setting of an output at its place; undefined where the polarities there do not meet the requirement. */
export function outputSetting(
  part: Part,
  path: ClockPath,
  { request, option }: Unplaced,
  place: Place,
  { prescaler, top }: Pick<Shared, 'prescaler' | 'top'>,
): OutputSetting | undefined {
  const { timer, mode, drive } = option;
  const channel = timer.channels.find(({ id }) => id === place.channel);
  const { pin, outputs } = place;
  const requirement = narrowed(request.requirement, path, timer);
  if (!isOutputDrive(drive) || !channel || pin === undefined || !requirement) return undefined;
  const scale = scaleOf(timer.prescaler);
  const wanted = tickRequirement(requirement, clockOf(path, timer.clock).mul(scale), scale);
  const n = prescaler * scale;
  const route = { timer, mode, drive, channel, pin, outputs: [...outputs] };
  const rating = rateTop(route, n, top, topSeries(mode, n, runsOf(drive)), wanted);
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
  if (place.second !== undefined) {
    const division = divisionOf(timer.prescaler, prescaler);
    const dead = division && secondDeadTicksIn(path, { timer, mode }, division, opposite.deadS);
    if (dead === undefined) return undefined;
    return { ...setting, complement: { pin: opposite.pin, deadTicks: dead, channel: place.second } };
  }
  const clockHz = clockOf(path, timer.clock).valueOf();
  const deadTicks = deadTicksIn(path, timer, channel, opposite.deadS);
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
  if (isOutputDrive(drive)) return outputSetting(part, path, members, place, shared);
  const fields = fieldsOf(driveById(drive));
  const { pin, channel } = place;
  if (fields['channel'] && channel === undefined) return undefined;
  if (pin === undefined && request.requirement.pin) return undefined;
  return {
    drive,
    timer: timer.id,
    mode: mode.id,
    prescaler: shared.prescaler,
    top: shared.top,
    ...(pin === undefined ? {} : { pin }),
    ...(fields['channel'] ? { channel } : {}),
    ...(fields['divider'] ? { divider: share.divider ?? 1 } : {}),
    ...(fields['compare'] ? { compare: share.compare ?? 0 } : {}),
  } as Setting;
}

/** Whether a drive is one by a timer's own output. */
function isOutputDrive(drive: string): drive is OutputDrive {
  return driveById(drive).cause === 'output';
}

/** Whether no two settings want one field of a register in different ways. */
export function registersAgree(part: Part, settings: readonly Setting[]): boolean {
  const fields = new Map<string, number>();
  for (const setting of settings) {
    for (const { register, field, value } of claimedWrites(part, setting)) {
      const key = `${register}.${field ?? ''}`;
      if ((fields.get(key) ?? value) !== value) return false;
      fields.set(key, value);
    }
  }
  return true;
}
