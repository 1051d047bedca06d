import { printNumber, printPercent, printSeconds } from '../quantity/print.ts';
import type { Requirement } from '../signal/requirement.ts';
import { grainOf } from '../timer/count.ts';
import { hasFreeDuty, isSoftware } from '../timer/drives/index.ts';
import type { Effect } from '../timer/outcome.ts';
import { warning, type Slip } from './catalogue.ts';
import type { Case } from './code-rates.ts';

/** What is wrong with a duty, the frequency being right. */
export function duties({ effect, requirement, mode }: Case): Slip | undefined {
  const { setting, outcome } = effect;
  if (!hasFreeDuty(setting)) return undefined;
  const made = outcome.duty.valueOf();
  const wanted = requirement.duty.ideal.valueOf();
  const seen = `${printPercent(made, 4)} instead of ${printPercent(wanted, 4)}`;
  const step = 1 / outcome.steps;
  const near = (value: number): boolean => Math.abs(made - value) <= 1.5 * step;
  if (wanted === 0 && made > 0 && near(0)) {
    return warning('never-off', `${mode.name} is still high for one count in each period: ${seen}.`);
  }
  if (wanted === 1 && made < 1 && near(1)) {
    return warning('never-full', `${mode.name} is still low for one count in each period: ${seen}.`);
  }
  if (wanted > 0 && wanted < 1 && near(wanted / 100)) {
    return warning('fraction-percent', `It is a hundredth of what is wanted: ${seen}.`);
  }
  if (made >= 0.99 && Math.abs(wanted - 0.01) < 1e-4) {
    return warning('fraction-percent', `It is a hundred times what is wanted: ${seen}.`);
  }
  if (!near(wanted) && near(1 - wanted)) {
    return warning('inverted', `The pin is low where it should be high: ${seen}.`);
  }
  return undefined;
}

/** Steps too coarse for the duty or the width, the nearest being taken. */
export function coarse({ effect, requirement }: Case): Slip | undefined {
  const { setting, outcome } = effect;
  if (!hasFreeDuty(setting)) return undefined;
  const step = outcome.stepTicks / outcome.tickHz.valueOf();
  const few = outcome.steps < requirement.minSteps;
  const off = Math.abs(outcome.duty.sub(requirement.duty.ideal).valueOf());
  const nearest = off <= 0.51 / outcome.steps;
  if (!few && !nearest) return undefined;
  return warning(
    'coarse',
    few
      ? `One step is ${printSeconds(step)}; ${printNumber(outcome.steps)} steps are there, ${printNumber(requirement.minSteps)} are asked for.`
      : `One step is ${printSeconds(step)}; the nearest one is ${printPercent(off, 3)} off.`,
  );
}

/** One count more or less of the compare value, as the mode counts it. */
export function compareOne({ effect, requirement, mode }: Case): Slip | undefined {
  const { setting, outcome } = effect;
  if (!hasFreeDuty(setting)) return undefined;
  const off = outcome.duty.sub(requirement.duty.ideal).valueOf() * outcome.steps;
  if (Math.abs(Math.abs(off) - 1) > 0.4) return undefined;
  const counts = mode.pwm?.high === 'compare+1' ? 'compare + 1' : 'compare';
  const grain = grainOf(mode);
  const parts = grain === 1 ? '' : ` of 1/${grain}`;
  return warning(
    'compare-one',
    `In ${mode.name} the pin is high for ${counts} counts${parts}: it is one count too ${off > 0 ? 'long' : 'short'}.`,
  );
}

/** Whether a duty or a width, and its steps, are what is wanted; for what has no pin, or whose edges the program makes, that is not asked here. */
export function meetsDuty(requirement: Requirement, { outcome, setting }: Effect): boolean {
  if (!requirement.pin || isSoftware(setting)) return true;
  if (outcome.steps < requirement.minSteps) return false;
  if (requirement.width) {
    const width = outcome.duty.div(outcome.frequency);
    return width.compare(requirement.width.low) >= 0 && width.compare(requirement.width.high) <= 0;
  }
  return outcome.duty.compare(requirement.duty.low) >= 0 && outcome.duty.compare(requirement.duty.high) <= 0;
}
