import { ratio } from '../../quantity/exact.ts';
import { countsOf, grainOf } from '../count.ts';
import type { Cycle, Outcome } from '../outcome.ts';
import type { OutputSetting } from '../setting.ts';
import type { Drive } from './drive.ts';
import { outcomeUnder } from './outcome-under.ts';
import { canBeHalf } from '../../signal/requirement.ts';
import { cycleOutcome, movableTop, OUTPUT, outputPlaces, outputRungs } from './output.ts';
import { resolveSetting, type Resolved } from './output-setting.ts';

function toggleCycle({ mode, setting, division }: Resolved): Cycle {
  const count = division.n * grainOf(mode);
  const run = countsOf(mode, setting.top) * count;
  const periodTicks = 2 * run;
  const inverted = setting.polarity === 'inverted';
  if (setting.compare > setting.top) return { periodTicks, edges: { level: inverted ? 1 : 0 } };
  const match = (setting.compare + (mode.lag ?? 0)) * count;
  const [first, second] = [match % periodTicks, (match + run) % periodTicks];
  return {
    periodTicks,
    edges: inverted ? { rise: second, fall: first } : { rise: first, fall: second },
  };
}

/** High for half of the time. */
const HALF = ratio(1, 2);

/** The timer's output changes at its match, once a run: two runs make a period, and the duty is always one half. */
export const toggle: Drive<OutputSetting> = {
  ...OUTPUT,
  id: 'toggle',
  name: 'toggled output',
  short: 'toggled',
  duty: 'half',
  start: 'first-match',
  places: (timer, mode) => outputPlaces('toggle', timer, mode),
  canMeet: (requirement) =>
    requirement.pin &&
    !requirement.input &&
    !requirement.width &&
    requirement.minSteps <= 2 &&
    canBeHalf(requirement),
  runsPerPeriod: () => 2,
  outcome: (part, setting, clockHz): Outcome => {
    const resolved = resolveSetting(part, setting);
    return cycleOutcome(resolved, toggleCycle(resolved), clockHz, 2, { min: HALF, max: HALF });
  },
  ladder: (part, path, setting) => [
    ...outputRungs(part, path, setting),
    {
      id: 'toggle',
      label: 'Output toggles',
      before: '÷ 2',
      after: '(one change a run)',
      hz: outcomeUnder(part, path, setting).frequency,
    },
  ],
  adjust: (_, setting, __, field, value) =>
    field === 'top' ? { ...setting, top: value, compare: value } : { ...setting, [field]: value },
  movable: movableTop,
};
