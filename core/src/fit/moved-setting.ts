import { modeOf, timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { stillSentence, togglesTwice } from '../timer/count.ts';
import { driveOf, hasFreeDuty } from '../timer/drives/index.ts';
import { hasTimer, SettingError, topRange, type Setting } from '../timer/setting.ts';

/** How a counter's highest count becomes its period: base counts more than it; where a program waits none. */
function baseOf(part: Part, setting: Setting): { base: number; min: number; max: number; fixed: boolean } {
  if (!hasTimer(setting)) return { base: 0, min: 2, max: 2 ** 31, fixed: false };
  const mode = modeOf(timerOf(part, setting.timer), setting.mode);
  const fixed = mode.top.kind === 'fixed' || mode.top.kind === 'power' || mode.top.kind === 'reload';
  return { base: mode.base, ...topRange(mode), fixed };
}

/**
 * A setting moved to another frequency and duty while it runs: the prescaler stays, the top is the nearest (a period is
 * in proportion to top + base), the compare value keeps the duty.
 * @param factor the wanted frequency over that of the setting. @param share the wanted duty, 0 to 1.
 * @throws SettingError where the frequency moves and the timer has no period register, it lies out of reach, or the output
 * cannot change while it runs.
 */
export function movedSetting(part: Part, setting: Setting, factor: number, share: number): Setting {
  const { base, min, max, fixed } = baseOf(part, setting);
  const top = factor === 1 ? setting.top : Math.round((setting.top + base) / factor) - base;
  if (top !== setting.top && (fixed || top < min || top > max)) {
    const why = fixed ? 'it has no period register' : `the top would be ${top}`;
    throw new SettingError('top', `The sequence moves the frequency, and this timer cannot follow: ${why}.`);
  }
  const drive = driveOf(setting);
  if (hasFreeDuty(setting) && togglesTwice(modeOf(timerOf(part, setting.timer), setting.mode))) {
    const { name } = timerOf(part, setting.timer);
    throw new SettingError('compare', stillSentence(name));
  }
  if (drive.divides && drive.duty === 'counted' && 'divider' in setting) {
    return drive.adjust(part, { ...setting, top }, share, 'divider', setting.divider);
  }
  return drive.adjust(part, setting, share, 'top', top);
}
