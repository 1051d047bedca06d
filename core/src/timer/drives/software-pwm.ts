import type { Cycle } from '../outcome.ts';
import { exact } from '../../quantity/exact.ts';
import { timerOf } from '../../part/find.ts';
import type { Part } from '../../part/types.ts';
import { countsFor } from '../count.ts';
import { MAX_CPU, runFor, softwareStepsFor } from '../interrupt-sources.ts';
import { checkWhole, type SoftwarePwmSetting } from '../setting.ts';
import { checkPostscale, MAX_DIVIDER } from '../tick.ts';
import type { Drive } from './drive.ts';
import { COUNT, COUNTER, ID, optional } from './setting-fields.ts';
import { dividedText } from './interrupt.ts';
import {
  anyPin,
  keepsDuty,
  adjustCounter,
  INTERRUPTS,
  interruptNumbers,
  interruptOutcome,
  interruptRungs,
  interruptSettingWrites,
  onPin,
  pulseCycle,
  resolveInterrupts,
  tickEvents,
  type ResolvedInterrupts,
} from './interrupts.ts';
import { movableTop } from './output.ts';
import { outcomeUnder } from './outcome-under.ts';

function resolve(part: Part, setting: SoftwarePwmSetting): ResolvedInterrupts {
  const resolved = resolveInterrupts(part, setting);
  checkPostscale(resolved.timer, resolved.tick, setting.postscale ?? 1);
  checkWhole('divider', setting.divider, 1, MAX_DIVIDER);
  checkWhole('compare', setting.compare, 0, setting.divider);
  return resolved;
}

/** A cycle that begins so many ticks later. */
function oneTickLate(cycle: Cycle, ticks: number): Cycle {
  if (!('rise' in cycle.edges)) return cycle;
  const { periodTicks, edges } = cycle;
  return {
    periodTicks,
    edges: { rise: (edges.rise + ticks) % periodTicks, fall: (edges.fall + ticks) % periodTicks },
  };
}

/** A fast tick counts and compares: the pin is high for some of the counts. Many pins can share one timer. */
export const softwarePwm: Drive<SoftwarePwmSetting> = {
  ...INTERRUPTS,
  id: 'software-pwm',
  name: 'software PWM',
  short: 'software',
  duty: 'counted',
  divides: true,
  interruptsPerRun: 1,
  fields: {
    timer: ID,
    mode: ID,
    pin: ID,
    ...COUNTER,
    compare: COUNT,
    postscale: optional(COUNT),
    divider: COUNT,
  },
  places: anyPin,
  canMeet: keepsDuty,
  runsPerPeriod: () => 1,
  check: (part, setting) => {
    resolve(part, setting);
  },
  outcome: (part, setting, clockHz, cpuHz) =>
    interruptOutcome(part, resolve(part, setting), clockHz, cpuHz, (run) => {
      const { divider, compare, postscale = 1 } = setting;
      const interrupt = run * postscale;
      return {
        cycle: oneTickLate(pulseCycle(interrupt * divider, interrupt * compare), interrupt),
        steps: divider,
        reach: { min: exact(0), max: exact(1) },
        interrupts: divider,
      };
    }),
  // The first interrupt comes one run after the start; only then the pin rises.
  lateTicks: (part, setting) => tickEvents(part, resolve(part, setting)).everyTicks,
  numbers: interruptNumbers,
  writes: (part, setting) => interruptSettingWrites(resolve(part, setting)),
  ladder: (part, path, setting) => {
    const { rungs } = interruptRungs(part, path, resolve(part, setting), true);
    const hz = outcomeUnder(part, path, setting).frequency;
    return [
      ...rungs,
      {
        id: 'divider',
        label: 'Counted by program',
        before: '÷',
        value: setting.divider,
        after: 'interrupts',
        choices: { min: 1, max: MAX_DIVIDER },
        hz,
      },
      {
        id: 'compare',
        label: 'Compared by program',
        before: 'high for',
        value: setting.compare,
        after: `of ${setting.divider}`,
        choices: { min: 0, max: setting.divider },
        hz,
      },
    ];
  },
  handlers: (part, setting) => {
    const { pin, compare, divider } = setting;
    const action = { do: 'count', pin, highFor: compare, of: divider } as const;
    return [{ interrupt: resolve(part, setting).tick, keepsRunning: true, actions: [action] }];
  },
  events: (part, setting) => [tickEvents(part, resolve(part, setting))],
  adjustable: (_, { divider }) => ({ first: 0, step: 1, max: divider, whole: divider }),
  adjust: (part, setting, share, field, value) =>
    field === 'divider'
      ? { ...setting, divider: value, compare: countsFor(share, value) }
      : adjustCounter(part, setting, field, value),
  movable: (part, setting) => ({
    ...movableTop(part, setting),
    duty: { field: 'compare', min: 0, max: setting.divider, falling: false },
  }),
  propose: ({ requirement, wantedHz, pin, sources }) => {
    if (pin === undefined) return [];
    const share = requirement.duty.ideal.valueOf();
    const below = requirement.frequency.kind === 'within';
    return sources.flatMap((source) =>
      softwareStepsFor(requirement).flatMap((divider) => {
        const counter = runFor(source, wantedHz * divider, MAX_CPU, below);
        if (!counter) return [];
        const compare = countsFor(share, divider);
        return [{ drive: 'software-pwm' as const, ...counter, pin, divider, compare }];
      }),
    );
  },
  means: () => 'software PWM',
  numbersText: dividedText,
  place: (part, setting) => `${timerOf(part, setting.timer).name}${onPin(setting)} (software PWM)`,
};
