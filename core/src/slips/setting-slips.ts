import { exact, type Exact } from '../quantity/exact.ts';
import { printHz, printNumber, printPercent, printPpm, printSeconds } from '../quantity/print.ts';
import type { Part } from '../part/types.ts';
import type { Requirement } from '../signal/requirement.ts';
import { hint, type Slip } from './catalogue.ts';
import { slipsOfUse } from './usage-slips.ts';
import { maxCompare, togglesTwice } from '../timer/count.ts';
import type { Outcome } from '../timer/outcome.ts';
import { isTopChannel, topRange, type Setting } from '../timer/setting.ts';
import {
  computeOutcome,
  hasFreeDuty,
  isInput,
  isOutput,
  resolveSetting,
  runsOf,
  type Resolved,
} from '../timer/drives/index.ts';

function extremes({ mode, setting, timer }: Resolved, outcome: Outcome, requirement: Requirement): Slip[] {
  if (!hasFreeDuty(setting)) return [];
  const min = outcome.reach.min;
  const max = outcome.reach.max;
  const count = printSeconds(exact(outcome.stepTicks).div(outcome.tickHz).valueOf());
  const inverted = setting.polarity === 'inverted';
  const widest = maxCompare(mode, setting.top, timer.width);
  const zeroAt = inverted ? widest : 0;
  const fullAt = inverted ? 0 : widest;
  const slips: Slip[] = [];
  if (togglesTwice(mode)) {
    const text = `From ${printPercent(min.valueOf(), 3)} to ${printPercent(max.valueOf(), 6)}: match and overflow both come in each period, a count of ${count} apart at least. For 0 % and 100 % stop the timer.`;
    return [hint('never-off', text, requirement.duty.ideal.equals(0) || requirement.duty.ideal.equals(1))];
  }
  if (min.compare(0) > 0) {
    const wanted = requirement.duty.ideal.equals(0) || setting.compare === zeroAt;
    slips.push(
      hint(
        'never-off',
        `Compare ${printNumber(zeroAt)} still gives ${printPercent(min.valueOf(), 3)}: one count of ${count} in each period ` +
          `(${mode.name}). For 0 % use ${inverted ? 'the normal' : 'the inverted'} output, an up-down mode, or disconnect the output.`,
        wanted,
      ),
    );
  }
  if (max.compare(1) < 0) {
    slips.push(
      hint(
        'never-full',
        `Compare ${printNumber(fullAt)} gives ${printPercent(max.valueOf(), 4)}: one count of ${count} stays low in each period (${mode.name}).`,
        requirement.duty.ideal.equals(1) || setting.compare === fullAt,
      ),
    );
  }
  return slips;
}

function minusOne(part: Part, { mode, setting }: Resolved, clockHz: Exact): Slip[] {
  const { max } = topRange(mode);
  if (
    mode.top.kind === 'fixed' ||
    mode.top.kind === 'power' ||
    mode.count !== 'up' ||
    mode.base === 0 ||
    setting.top + 1 > max
  )
    return [];
  const wrongTop = setting.top + 1;
  const compare = isTopChannel(mode, setting.channel) ? wrongTop : setting.compare;
  const right = computeOutcome(part, setting, clockHz).frequency;
  const wrong = computeOutcome(part, { ...setting, top: wrongTop, compare }, clockHz).frequency;
  const ppm = wrong.div(right).sub(1).mul(1000000).valueOf();
  return [
    hint(
      'minus-one',
      `Writing ${printNumber(wrongTop)} instead of ${printNumber(setting.top)} gives ${printHz(wrong.valueOf(), 7)}, ${printPpm(ppm)}.`,
    ),
  ];
}

function halved({ mode, setting }: Resolved, outcome: Outcome): Slip[] {
  if (runsOf(setting.drive) === 2) {
    const run = outcome.frequency.mul(2).valueOf();
    return [
      hint(
        'toggle-half',
        `The counter runs at ${printHz(run)}; the pin changes once a run, so it has ${printHz(run / 2)}.`,
      ),
    ];
  }
  if (mode.count !== 'updown') return [];
  const up = outcome.frequency
    .mul(2 * setting.top)
    .div(setting.top + 1)
    .valueOf();
  return [
    hint(
      'up-down-half',
      `This mode counts up and down again; the same top in an up-counting mode would give ${printHz(up)}.`,
    ),
  ];
}

function oscillator(requirement: Requirement, tolerancePpm: number): Slip[] {
  const { frequency } = requirement;
  if (frequency.kind !== 'near') return [];
  const allowed = frequency.high.div(frequency.ideal).sub(1).mul(1000000).valueOf();
  if (tolerancePpm <= allowed) return [];
  return [
    hint(
      'oscillator',
      `Its error can reach ${printPpm(tolerancePpm).replace('+', '±')}, the target allows ` +
        `${printPpm(allowed).replace('+', '±')}: no divider can correct that.`,
      true,
    ),
  ];
}

function lostMatch({ setting, mode, timer }: Resolved, { cycle }: Outcome): Slip[] {
  const max = runsOf(setting.drive) === 2 ? setting.top : maxCompare(mode, setting.top, timer.width);
  if (setting.compare <= max) return [];
  const high = 'level' in cycle.edges && cycle.edges.level === 1;
  return [
    hint(
      'above-top',
      `The counter turns at ${printNumber(setting.top)} and never reaches ${printNumber(setting.compare)}: the pin stays ${high ? 'high' : 'low'}.`,
      true,
    ),
  ];
}

/**
 * The slips that apply to a setting and its target, those that spoil the target first. `outcome` is what the setting gives,
 * where it is known already.
 * @throws SettingError when the part cannot do the setting.
 */
export function slipsOf(
  part: Part,
  setting: Setting,
  requirement: Requirement,
  clockHz: Exact,
  tolerancePpm: number,
  cpuHz: Exact = clockHz,
  outcome: Outcome = computeOutcome(part, setting, clockHz, cpuHz),
): Slip[] {
  if (!isOutput(setting)) {
    const clockwork = isInput(setting) ? [] : oscillator(requirement, tolerancePpm);
    return sorted([...clockwork, ...slipsOfUse(part, setting, requirement, outcome, cpuHz)]);
  }
  const resolved = resolveSetting(part, setting);
  const slips = [
    ...lostMatch(resolved, outcome),
    ...oscillator(requirement, tolerancePpm),
    ...extremes(resolved, outcome, requirement),
    ...minusOne(part, resolved, clockHz),
    ...halved(resolved, outcome),
    ...slipsOfUse(part, setting, requirement, outcome, cpuHz),
  ];
  return sorted(slips);
}

function sorted(slips: readonly Slip[]): Slip[] {
  return [...slips.filter((slip) => slip.warns), ...slips.filter((slip) => !slip.warns)];
}
