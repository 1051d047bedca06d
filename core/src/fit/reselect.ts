import type { Part } from '../part/types.ts';
import { modeOf, timerOf } from '../part/find.ts';
import type { Requirement } from '../signal/requirement.ts';
import { compareFor, compareForShare } from '../timer/count.ts';
import { settingWrites } from '../timer/encode.ts';
import { isOutput, isTopChannel, pinsOfSetting, type Setting } from '../timer/setting.ts';
import type { Fit } from './fit.ts';

/** How many candidates are tried for one that leaves the other signals' registers alone. */
const TRIED = 400;

/** What other settings hold: values of fields, pins, and channels. */
type Held = { fields: Map<string, number>; places: Set<string> };

/** Pins and the channel that only one setting can have. */
function placesOf(setting: Setting): string[] {
  const channel =
    setting.drive !== 'delay-loop' && 'channel' in setting ? [`${setting.timer} ${setting.channel}`] : [];
  return [...pinsOfSetting(setting), ...channel];
}

function held(part: Part, others: readonly Setting[]): Held {
  const fields = new Map<string, number>();
  for (const setting of others) {
    for (const { register, field, value } of settingWrites(part, setting))
      fields.set(`${register}.${field ?? ''}`, value);
  }
  return { fields, places: new Set(others.flatMap(placesOf)) };
}

function agrees(part: Part, setting: Setting, { fields, places }: Held): boolean {
  if (placesOf(setting).some((place) => places.has(place))) return false;
  return settingWrites(part, setting).every(({ register, field, value }) => {
    const other = fields.get(`${register}.${field ?? ''}`);
    return other === undefined || other === value;
  });
}

/** What a setting occupies: its drive, its timer and its channel. */
function placeOf(setting: Setting): string {
  if (setting.drive === 'delay-loop') return '';
  const channel = 'channel' in setting ? setting.channel : '';
  return `${setting.drive} ${setting.timer} ${channel}`;
}

/** Settings on what a previous one occupies; a delay loop occupies nothing that is worth keeping. */
function onChannel(fit: Fit, previous: Setting): Setting[] {
  if (previous.drive === 'delay-loop') return [];
  const place = placeOf(previous);
  return fit.candidates.flatMap(({ setting }) => (placeOf(setting) === place ? [setting] : []));
}

function firstFree(part: Part, list: readonly Setting[], others: readonly Setting[]): Setting | undefined {
  const taken = held(part, others);
  return list.slice(0, TRIED).find((one) => agrees(part, one, taken));
}

/** Whether the program makes the signal rather than the hardware. */
export function isOfProgram(setting: Setting): boolean {
  return !isOutput(setting) && setting.drive !== 'capture';
}

/** The best setting on the channel a signal has that leaves the registers of the other signals' settings alone. */
export function keepChannel(
  part: Part,
  fit: Fit,
  previous: Setting,
  others: readonly Setting[],
): Setting | undefined {
  return firstFree(part, onChannel(fit, previous), others);
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
  const all = fit.candidates.map((candidate) => candidate.setting);
  const shared = all.filter(({ drive }) => drive !== 'delay-loop');
  const settings = shared.length > 0 ? shared : all;
  const relieved = previous && isOfProgram(previous) ? settings.filter((one) => !isOfProgram(one)) : [];
  return (
    firstFree(part, relieved, others) ??
    firstFree(part, own, others) ??
    firstFree(part, settings, others) ??
    own[0] ??
    settings[0]
  );
}

/** The numbers of a setting that can be changed by hand. */
export type AdjustedField = 'prescaler' | 'top' | 'compare' | 'reload' | 'postscale' | 'divider';

/**
 * A setting with one number changed by hand. A new top keeps the wanted duty as near as it can; where the channel is
 * the top, its compare value goes along.
 */
export function adjust(
  part: Part,
  setting: Setting,
  requirement: Requirement,
  field: AdjustedField,
  value: number,
): Setting {
  const share = requirement.duty.ideal.valueOf();
  if (setting.drive === 'delay-loop') {
    const compare = field === 'top' ? Math.round(share * value) : setting.compare;
    return { ...setting, compare, [field]: value };
  }
  const timer = timerOf(part, setting.timer);
  if (field === 'reload') return { ...setting, top: 2 ** timer.width - 1 - value };
  if (setting.drive === 'software-pwm' && field === 'divider') {
    return { ...setting, divider: value, compare: Math.round(share * value) };
  }
  if (field !== 'top') return { ...setting, [field]: value };
  const mode = modeOf(timer, setting.mode);
  if (setting.drive === 'interrupt-pair')
    return { ...setting, top: value, compare: compareForShare(mode, value, share) };
  if (!isOutput(setting)) return { ...setting, top: value };
  if (setting.drive === 'toggle' || isTopChannel(mode, setting.channel))
    return { ...setting, top: value, compare: value };
  const compare = compareFor(mode, value, timer.width, share, setting.polarity === 'inverted');
  return { ...setting, top: value, compare };
}
