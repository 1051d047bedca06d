import { modeOf, timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import type { Requirement } from '../signal/requirement.ts';
import { exact } from '../quantity/exact.ts';
import { SettingError, topRange, type Setting } from '../timer/setting.ts';
import { adjust } from './reselect.ts';

/** How a counter's highest count becomes its period: base counts more than it; where a program waits none. */
function baseOf(part: Part, setting: Setting): { base: number; min: number; max: number; fixed: boolean } {
  if (setting.drive === 'delay-loop') return { base: 0, min: 2, max: 2 ** 31, fixed: false };
  const mode = modeOf(timerOf(part, setting.timer), setting.mode);
  const fixed = mode.top.kind === 'fixed' || mode.top.kind === 'power' || mode.top.kind === 'reload';
  return { base: mode.base, ...topRange(mode), fixed };
}

/**
 * A setting moved to another frequency and duty while it runs: the prescaler stays, the top is the nearest (a period is
 * in proportion to top + base), the compare value keeps the duty.
 * @param factor the wanted frequency over that of the setting. @param share the wanted duty, 0 to 1.
 * @throws SettingError where the frequency moves and the timer has no period register, or it lies out of reach.
 */
export function movedSetting(
  part: Part,
  setting: Setting,
  requirement: Requirement,
  factor: number,
  share: number,
): Setting {
  const { base, min, max, fixed } = baseOf(part, setting);
  const top = factor === 1 ? setting.top : Math.round((setting.top + base) / factor) - base;
  if (top !== setting.top && (fixed || top < min || top > max)) {
    const why = fixed ? 'it has no period register' : `the top would be ${top}`;
    throw new SettingError('top', `The score moves the frequency, and this timer cannot follow: ${why}.`);
  }
  const ideal = exact(share);
  const wanted = { ...requirement, duty: { ideal, low: ideal, high: ideal } };
  if (setting.drive === 'software-pwm') {
    return adjust(part, { ...setting, top }, wanted, 'divider', setting.divider);
  }
  return adjust(part, setting, wanted, 'top', top);
}
