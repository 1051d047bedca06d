import { clockPath } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { planOn } from './plan.ts';

/** Two flashes, three periods dark, one flash: six periods in all. */
export const DOTS: PlanSignal = {
  id: 'lamp',
  name: 'Lamp',
  kind: 'blink',
  target: { frequencyHz: 10, duty: 0.5 },
  sequence: { steps: [{ periods: 2 }, { rest: true, periods: 3 }, { periods: 1 }] },
};

/** Three periods at 30 %, a fade in four, one dark. */
export const FADE: PlanSignal = {
  ...DOTS,
  target: { frequencyHz: 10, duty: 0.3 },
  sequence: {
    steps: [{ periods: 3 }, { periods: 4, duty: 0.2, toDuty: 0.8 }, { rest: true, periods: 1 }],
  },
};

/** A pair's match comes when its register says; here its width stays. */
const NARROW: PlanSignal = { ...DOTS, target: { frequencyHz: 10, duty: 0.3 } };

/** A plan with a setting of a drive for a signal, where the part has one. */
export function planWith(
  part: Part,
  signal: PlanSignal,
  drive: string,
): { plan: Plan; setting: Setting } | undefined {
  const plan = planOn(part, signal);
  const path = clockPath(part, plan.clock);
  const { candidates } = fitRequirement(part, path, requirementOf(signal));
  const found = candidates.find((one) => one.setting.drive === drive);
  return found && { plan: planOn(part, { ...signal, setting: found.setting }), setting: found.setting };
}

/** The drives by interrupts, each with a sequence that it can follow. */
export const WAYS = [
  ['interrupt', DOTS],
  ['software-pwm', FADE],
  ['interrupt-pair', NARROW],
] as const;
