import type { Part } from '../part/types.ts';
import { settingWrites } from '../timer/encode.ts';
import { channelIdOf, channelsOfSetting, hasTimer, timerIdOf, type Setting } from '../timer/setting.ts';
import type { Fit } from './fit.ts';
import { driveOf, isSoftware, pinsTakenBy } from '../timer/drives/index.ts';

/** How many candidates are tried for one that leaves the other signals' registers alone. */
const TRIED = 400;

/** What other settings hold: values of fields, pins, and channels. */
type Held = { fields: Map<string, number>; places: Set<string> };

/** Pins and the channels that only one setting can have. */
function placesOf(part: Part, setting: Setting): string[] {
  const channels = channelsOfSetting(setting).map((id) => `${timerIdOf(setting)} ${id}`);
  return [...pinsTakenBy(part, setting), ...channels];
}

function held(part: Part, others: readonly Setting[]): Held {
  const fields = new Map<string, number>();
  for (const setting of others) {
    for (const { register, field, value } of settingWrites(part, setting))
      fields.set(`${register}.${field ?? ''}`, value);
  }
  return { fields, places: new Set(others.flatMap((one) => placesOf(part, one))) };
}

function agrees(part: Part, setting: Setting, { fields, places }: Held): boolean {
  if (placesOf(part, setting).some((place) => places.has(place))) return false;
  return settingWrites(part, setting).every(({ register, field, value }) => {
    const other = fields.get(`${register}.${field ?? ''}`);
    return other === undefined || other === value;
  });
}

/** What a setting occupies: its drive, its timer and its channel. */
function placeKey(setting: Setting): string {
  if (!hasTimer(setting)) return '';
  return `${setting.drive} ${setting.timer} ${channelIdOf(setting) ?? ''}`;
}

/** As many settings as are tried of those that have something, the best first. */
function bestThat({ candidates }: Fit, has: (setting: Setting) => boolean): Setting[] {
  const found: Setting[] = [];
  for (const { setting } of candidates) {
    if (found.length === TRIED) break;
    if (has(setting)) found.push(setting);
  }
  return found;
}

/** Settings on what a previous one occupies; a delay loop occupies nothing that is worth keeping. */
function onChannel(fit: Fit, previous: Setting): Setting[] {
  if (!hasTimer(previous)) return [];
  const place = placeKey(previous);
  return bestThat(fit, (one) => placeKey(one) === place);
}

/** The best setting on the channel a signal has that leaves the registers of the other signals' settings alone. */
export function keepChannel(
  part: Part,
  fit: Fit,
  previous: Setting,
  others: readonly Setting[],
): Setting | undefined {
  const taken = held(part, others);
  return onChannel(fit, previous).find((one) => agrees(part, one, taken));
}

/**
 * The setting to take when a signal's target has changed: the best on the channel it has, if that leaves the registers
 * of the other signals' settings alone (where the program made it and the hardware now can, that comes first); then the
 * best elsewhere that does; then the best on its channel; then the best
 * of all. A delay loop, which leaves nothing of the processor to anything else, only where there is nothing else.
 * Undefined when nothing meets the target.
 */
export function reselect(
  part: Part,
  fit: Fit,
  previous: Setting | undefined,
  others: readonly Setting[],
): Setting | undefined {
  const own = previous ? onChannel(fit, previous) : [];
  const shared = bestThat(fit, (one) => !driveOf(one).loop);
  const settings = shared.length > 0 ? shared : bestThat(fit, () => true);
  const relievable = previous && isSoftware(previous) && !driveOf(previous).bits;
  const relieved = relievable ? bestThat(fit, (one) => !isSoftware(one)) : [];
  const taken = held(part, others);
  const isFree = (one: Setting): boolean => agrees(part, one, taken);
  return relieved.find(isFree) ?? own.find(isFree) ?? settings.find(isFree) ?? own[0] ?? settings[0];
}
