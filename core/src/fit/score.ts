import { modeOf, timerOf } from '../part/find.ts';
import type { Part } from '../part/schema.ts';
import type { Goal } from '../target/goal.ts';
import { exact } from '../quantity/exact.ts';
import { SettingError, topRange, type Setting } from '../timer/setting.ts';
import { adjust } from './refit.ts';

/** How a counter's highest count becomes its period: base counts more than it; where a program waits none. */
function baseOf(part: Part, setting: Setting): { base: number; least: number; most: number; fixed: boolean } {
  if (setting.drive === 'busy') return { base: 0, least: 2, most: 2 ** 31, fixed: false };
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
  goal: Goal,
  factor: number,
  share: number,
): Setting {
  const { base, least, most, fixed } = baseOf(part, setting);
  const top = factor === 1 ? setting.top : Math.round((setting.top + base) / factor) - base;
  if (top !== setting.top && (fixed || top < least || top > most)) {
    const why = fixed ? 'it has no period register' : `the top would be ${top}`;
    throw new SettingError('top', `The score moves the frequency, and this timer cannot follow: ${why}.`);
  }
  const ideal = exact(share);
  const wanted = { ...goal, duty: { ideal, low: ideal, high: ideal } };
  if (setting.drive === 'counted') {
    return adjust(part, { ...setting, top }, wanted, 'divider', setting.divider);
  }
  return adjust(part, setting, wanted, 'top', top);
}
