import { clockAt, clockOf, type ClockPath } from '../clock/path.ts';
import { divisionOf, type Division } from '../part/division.ts';
import { channelOf, deadBandsOf, modeOf, timerOf } from '../part/find.ts';
import type { Channel, DeadBand, Mode, Part, Timer } from '../part/types.ts';
import { needsEdges, type Requirement } from '../signal/requirement.ts';
import type { Opposite } from '../signal/signal.ts';
import { compareFor } from '../timer/count.ts';
import {
  canPair,
  goesSameWay,
  computeOutcome,
  hasFreeDuty,
  resolveSetting,
  secondChannelStep,
} from '../timer/drives/index.ts';
import { hasTimer, SettingError, type OutputSetting } from '../timer/setting.ts';
import type { Candidate } from './candidate.ts';
import type { Fit } from './fit.ts';
import { closestFirst, frontOf } from './rank.ts';

/** The shortest dead time, in ticks of the timer's clock, that is not shorter than wanted; undefined where none is. */
export function deadTicksFor(bands: readonly DeadBand[] | undefined, wanted: number): number | undefined {
  if (wanted <= 0) return 0;
  const able = (bands ?? []).flatMap(({ min, max, step }) => {
    const ticks = Math.max(min, Math.ceil(wanted / step - 1e-9) * step);
    return ticks <= max ? [ticks] : [];
  });
  return able.length > 0 ? Math.min(...able) : undefined;
}

/** The shortest dead time of two channels of a timer in a mode, in the same way; undefined where they keep none. */
export function secondDeadTicksIn(
  path: ClockPath,
  { timer, mode }: { timer: Timer; mode: Mode },
  division: Division,
  deadS: number,
): number | undefined {
  const step = secondChannelStep(mode, division);
  if (step === undefined) return deadS <= 0 ? 0 : undefined;
  const { hz, tolerancePpm } = clockAt(path, timer.clock);
  const bands = [{ min: 0, max: step * 2 ** timer.width, step, writes: {} }];
  return deadTicksFor(bands, (hz.valueOf() * deadS) / (1 - tolerancePpm / 1e6));
}

/** The channels of a timer that can make the opposite of one in a mode on a pin, its output being of a polarity. */
export function secondChannels(
  { timer, mode }: { timer: Timer; mode: Mode },
  channel: string,
  polarity: OutputSetting['polarity'],
  pin: string,
): Channel[] {
  const wanted = polarity === 'inverted' ? 'normal' : 'inverted';
  return timer.channels.filter(
    ({ id, outputs }) =>
      canPair(mode, channel, id) &&
      outputs.some((one) => one.drive === 'pwm' && one.pin === pin && one.polarity === wanted),
  );
}

/** The shortest dead time of a channel, in ticks of its timer's clock, that is not shorter than wanted with the fastest oscillator either. */
export function deadTicksIn(
  path: ClockPath,
  timer: Timer,
  channel: Channel,
  deadS: number,
): number | undefined {
  const { hz, tolerancePpm } = clockAt(path, timer.clock);
  return deadTicksFor(deadBandsOf(timer, channel), (hz.valueOf() * deadS) / (1 - tolerancePpm / 1e6));
}

/** Which pins a signal with an opposite may take: its own one, or any that nothing else has. */
export type PinChoice = { pin?: string; taken?: ReadonlySet<string> };

/** A setting on another pin of its channel, where its own one goes the same way as the opposite and the signal may be on any. */
function besideOpposite(
  channel: Channel,
  setting: OutputSetting,
  opposite: string,
  { pin, taken }: PinChoice,
): OutputSetting {
  if (pin !== undefined || !goesSameWay(channel, setting, opposite)) return setting;
  const free = channel.outputs.find(
    (one) =>
      one.drive === setting.drive &&
      one.polarity === 'normal' &&
      !taken?.has(one.pin) &&
      !goesSameWay(channel, { ...setting, pin: one.pin, polarity: 'normal' }, opposite),
  );
  return free ? { ...setting, pin: free.pin } : setting;
}

/** A candidate with its opposite on a pin, the compare value grown by the dead time; undefined where that cannot be. */
function withOpposite(
  part: Part,
  path: ClockPath,
  requirement: Requirement,
  candidate: Candidate,
  { pin, deadS }: Opposite,
  choice: PinChoice,
): Candidate | undefined {
  const { setting: found } = candidate;
  if (!hasFreeDuty(found)) return undefined;
  const timer = timerOf(part, found.timer);
  const channel = channelOf(timer, found.channel);
  const setting = besideOpposite(channel, found, pin, choice);
  const clockHz = clockOf(path, timer.clock);
  const deadTicks = deadTicksIn(path, timer, channel, deadS);
  if (deadTicks === undefined || goesSameWay(channel, setting, pin)) return undefined;
  const mode = modeOf(timer, setting.mode);
  const share = requirement.duty.ideal.valueOf() + (deadTicks / clockHz.valueOf()) * candidate.frequencyHz;
  const compare = compareFor(mode, setting.top, timer.width, Math.min(1, share), false);
  const opposed: OutputSetting = { ...setting, compare, complement: { pin, deadTicks } };
  const { duty, frequency } = computeOutcome(part, opposed, clockHz);
  const width = duty.div(frequency);
  const still = needsEdges(requirement) && (duty.compare(0) <= 0 || duty.compare(1) >= 0);
  const inBand = requirement.width
    ? width.compare(requirement.width.low) >= 0 && width.compare(requirement.width.high) <= 0
    : duty.compare(requirement.duty.low) >= 0 && duty.compare(requirement.duty.high) <= 0;
  const meetsDuty = inBand && !still;
  return {
    ...candidate,
    setting: opposed,
    duty: duty.valueOf(),
    dutyError: duty.sub(requirement.duty.ideal).valueOf(),
    meetsDuty,
    meets: candidate.meets && meetsDuty,
  };
}

/** A candidate with its opposite by a second channel of its timer, which keeps its own pulse as it is; undefined where that cannot be. */
function withSecondChannel(
  part: Part,
  path: ClockPath,
  candidate: Candidate,
  { pin, deadS }: Opposite,
): Candidate | undefined {
  const { setting } = candidate;
  if (!hasFreeDuty(setting) || setting.drive !== 'pwm' || setting.pin === pin) return undefined;
  const timer = timerOf(part, setting.timer);
  const counting = { timer, mode: modeOf(timer, setting.mode) };
  const [second] = secondChannels(counting, setting.channel, setting.polarity, pin);
  const division = divisionOf(timer.prescaler, setting.prescaler);
  if (!second || !division) return undefined;
  const deadTicks = secondDeadTicksIn(path, counting, division, deadS);
  if (deadTicks === undefined) return undefined;
  const opposed: OutputSetting = { ...setting, complement: { pin, deadTicks, channel: second.id } };
  return isPossible(part, opposed) ? { ...candidate, setting: opposed } : undefined;
}

/** Whether a part can have a setting: its pulse may leave no room for the dead time. */
function isPossible(part: Part, setting: OutputSetting): boolean {
  try {
    resolveSetting(part, setting);
    return true;
  } catch (error) {
    if (error instanceof SettingError) return false;
    throw error;
  }
}

/** Why a timer brings no opposite: its pins go the same way, or there is no such output or dead time. */
function refusalOf({ name, channels }: Timer, opposite: Opposite, pin: string | undefined): string {
  const sameWay = channels.some(({ complement = [] }) =>
    [pin, opposite.pin].every((own) => complement.some((one) => one.pin === own && !one.beside)),
  );
  return sameWay
    ? `${pin} and ${opposite.pin} go the same way: both are outputs of the opposite of one channel of ${name}.`
    : `${name} has no output with its opposite on ${opposite.pin} and that dead time.`;
}

/** Of a fit what can also bring the opposite to its pin with the dead time between. */
export function fitWithOpposite(
  part: Part,
  path: ClockPath,
  requirement: Requirement,
  fit: Fit,
  opposite: Opposite,
  choice: PinChoice = {},
): Fit {
  const found = [...fit.candidates, ...fit.near];
  const kept = found.flatMap((one) => withOpposite(part, path, requirement, one, opposite, choice) ?? []);
  // Two channels can do less than hardware that keeps the dead time, and are two that others cannot have.
  const all = kept.some((one) => one.meets)
    ? kept
    : [...kept, ...found.flatMap((one) => withSecondChannel(part, path, one, opposite) ?? [])];
  const candidates = all.filter((one) => one.meets).sort(closestFirst(requirement));
  const able = new Set(all.flatMap(({ setting }) => (hasTimer(setting) ? [setting.timer] : [])));
  const others = part.timers.filter(
    (timer) => !able.has(timer.id) && !fit.refused.some((one) => one.timer === timer.id),
  );
  return {
    ...fit,
    candidates,
    near: all.filter((one) => !one.meets),
    front: frontOf(candidates, requirement),
    refused: [
      ...fit.refused,
      ...others.map((timer) => ({ timer: timer.id, reason: refusalOf(timer, opposite, choice.pin) })),
    ],
  };
}
