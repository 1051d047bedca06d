import type { Division } from '../../part/division.ts';
import type { Channel, Mode, Timer } from '../../part/types.ts';
import { highCounts, maxCompare, minCompare } from '../count.ts';
import { isTopChannel, SettingError, type OutputSetting } from '../setting.ts';

/** What an opposite by a second channel needs of the setting's timer. */
type Counting = { timer: Timer; mode: Mode; division: Division };

/**
 * Clocks of the timer by which the dead time of two channels moves: one count of an up-down counter, whose compare values move both
 * edges of a pulse apart. Undefined where both outputs change as the counter begins anew, so that there is no dead time at all.
 */
export function secondChannelStep(
  mode: Mode,
  { n, scale }: Pick<Division, 'n' | 'scale'>,
): number | undefined {
  return mode.count === 'updown' && n % scale === 0 ? n / scale : undefined;
}

/**
 * Whether two channels of a timer can be a signal and its opposite in a mode: both make PWM there, neither is its top, and their
 * pulses are of one piece.
 */
export function canPair(mode: Mode, channel: string, second: string): boolean {
  const able = mode.pwm?.channels ?? [];
  return (
    channel !== second &&
    [channel, second].every((id) => able.includes(id) && !isTopChannel(mode, id)) &&
    !mode.pwm?.spread
  );
}

/** The count at which the second channel changes, so many counts further from the pulse; at its end where it stays low for good. */
function compareBeside(
  { top, compare, polarity }: OutputSetting,
  { timer, mode }: Counting,
  dead: number,
): number {
  const inverted = polarity !== 'inverted';
  const wanted = inverted ? compare + dead : compare - dead;
  const end = inverted ? maxCompare(mode, top, timer.width) : minCompare(mode);
  const beyond = inverted ? wanted > end : wanted < end;
  if (!beyond) return wanted;
  if (highCounts(mode, top, end, inverted) > 0)
    throw new SettingError(
      'complement',
      `With a compare value of ${compare} there is no room for the dead time.`,
    );
  return end;
}

/**
 * The setting of the channel that makes the opposite of another one: on its own pin, with the other polarity, its compare value moved
 * by the dead time.
 * @throws SettingError where the two channels cannot, or the counter does not count in such dead times.
 */
export function secondChannel(
  setting: OutputSetting,
  { pin, deadTicks, channel }: { pin: string; deadTicks: number; channel: Channel },
  counting: Counting,
): OutputSetting {
  const { timer, mode, division } = counting;
  if (setting.drive !== 'pwm' || !canPair(mode, setting.channel, channel.id))
    throw new SettingError('complement', `${channel.name} cannot be the opposite in ${mode.name}.`);
  const step = secondChannelStep(mode, division);
  if (deadTicks !== 0 && (step === undefined || deadTicks % step !== 0))
    throw new SettingError(
      'complement',
      `Two channels of ${timer.name} cannot keep a dead time of ${deadTicks} clocks in ${mode.name}.`,
    );
  const second: OutputSetting = {
    ...setting,
    channel: channel.id,
    pin,
    polarity: setting.polarity === 'inverted' ? 'normal' : 'inverted',
    compare: compareBeside(setting, counting, deadTicks / (step ?? 1)),
  };
  delete second.complement;
  if (second.polarity === 'normal') delete second.polarity;
  return second;
}
