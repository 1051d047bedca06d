import type { ClockPath } from '../clock/path.ts';
import { modeOf, timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import type { Slip } from './catalogue.ts';
import { coarse, compareOne, duties, meetsDuty } from './code-duties.ts';
import { minusOne, neverAtAll, rateSlips, type Case } from './code-rates.ts';
import type { Requirement } from '../signal/requirement.ts';
import { hasTimer } from '../timer/setting.ts';
import type { Effect } from '../timer/outcome.ts';

/** What explains the difference between an effect and a requirement, the best explanation first; empty where all is well. */
export function explainEffect(part: Part, path: ClockPath, requirement: Requirement, effect: Effect): Slip[] {
  const { setting, outcome } = effect;
  if (!hasTimer(setting)) return [];
  const timer = timerOf(part, setting.timer);
  const { frequency } = requirement;
  const near = frequency.kind === 'near';
  const wantedHz = (near ? frequency.ideal : frequency.low).valueOf();
  const ratio = outcome.frequency.valueOf() / wantedHz;
  const tolerance = near ? frequency.high.div(frequency.ideal).sub(1).valueOf() : 0;
  const mode = modeOf(timer, setting.mode);
  const one: Case = { part, path, requirement, effect, setting, timer, mode, ratio, tolerance, wantedHz };
  const never = neverAtAll(one);
  if (never) return [never];
  const first = (...found: (Slip | undefined)[]): Slip[] =>
    found.filter((each) => each !== undefined).slice(0, 1);
  if (near && Math.abs(ratio - 1) > tolerance) return first(...rateSlips(one));
  if (near && Math.abs(ratio - 1) * (setting.top + mode.base) > 0.4) {
    const small = minusOne(one);
    if (small) return [small];
  }
  if (meetsDuty(requirement, effect)) return [];
  return first(duties(one), compareOne(one), coarse(one));
}
