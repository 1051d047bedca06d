import { printNumber } from '../../quantity/print.ts';
import { canBeHalf, type Requirement } from '../../signal/requirement.ts';
import { timerOf } from '../../part/find.ts';
import { divideRuns } from '../interrupt-sources.ts';
import type { Rung } from '../rungs.ts';
import { checkWhole, type InterruptSetting } from '../setting.ts';
import { checkPostscale, MAX_DIVIDER } from '../tick.ts';
import type { Drive } from './drive.ts';
import { COUNT, COUNTER, ID, optional } from './setting-fields.ts';
import {
  adjustCounter,
  anyPin,
  HALVES,
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
import { counterText } from './output.ts';

function resolve(
  part: Parameters<typeof resolveInterrupts>[0],
  setting: InterruptSetting,
): ResolvedInterrupts {
  const resolved = resolveInterrupts(part, setting);
  checkPostscale(resolved.timer, resolved.tick, setting.postscale ?? 1);
  checkWhole('divider', setting.divider, 1, MAX_DIVIDER);
  return resolved;
}

/** "fast-icr ÷ 64, top 15 624, postscaler 4, ÷ 3 in software". */
export function dividedText(
  setting: Parameters<typeof counterText>[0] & { postscale?: number; divider: number },
): string {
  const post = (setting.postscale ?? 1) > 1 ? `, postscaler ${setting.postscale}` : '';
  return `${counterText(setting)}${post}, ÷ ${printNumber(setting.divider)} in software`;
}

/** Whether a signal can be made by counting interrupts: a tick, or a pin that is high for half of the time. */
export function canShareTick(requirement: Requirement): boolean {
  const { frequency, alsoWidths, pin, width, input, span } = requirement;
  if (frequency.kind !== 'near' || width || input || span || alsoWidths) return false;
  return !pin || canBeHalf(requirement);
}

/** The timer's interrupt, every `divider`-th of them, toggles a pin; without a pin it is a tick of the program. */
export const interrupt: Drive<InterruptSetting> = {
  ...INTERRUPTS,
  id: 'interrupt',
  name: 'interrupt',
  short: 'interrupt',
  duty: 'half',
  divides: true,
  interruptsPerRun: 1,
  fields: {
    timer: ID,
    mode: ID,
    pin: optional(ID),
    ...COUNTER,
    postscale: optional(COUNT),
    divider: COUNT,
  },
  places: anyPin,
  canMeet: canShareTick,
  runsPerPeriod: (onAPin) => (onAPin ? 2 : 1),
  check: (part, setting) => {
    resolve(part, setting);
  },
  outcome: (part, setting, clockHz, cpuHz) =>
    interruptOutcome(part, resolve(part, setting), clockHz, cpuHz, (run, busy) => {
      const { divider, postscale = 1 } = setting;
      const period = run * postscale * divider;
      if (setting.pin === undefined) {
        const width = Math.max(1, Math.min(busy, Math.floor(period / 2)));
        return { cycle: pulseCycle(period, width), steps: 1, reach: HALVES, interrupts: divider };
      }
      return {
        cycle: { periodTicks: 2 * period, edges: { rise: period, fall: 0 } },
        steps: 2,
        reach: HALVES,
        interrupts: 2 * divider,
      };
    }),
  numbers: interruptNumbers,
  writes: (part, setting) => interruptSettingWrites(resolve(part, setting)),
  ladder: (part, path, setting) => {
    const { rungs, interruptHz } = interruptRungs(part, path, resolve(part, setting), true);
    const hz = outcomeUnder(part, path, setting).frequency;
    const counted: Omit<Rung, 'label' | 'hz'> = {
      id: 'divider',
      before: '÷',
      value: setting.divider,
      after: setting.divider === 1 ? 'interrupt' : 'interrupts',
      choices: { min: 1, max: MAX_DIVIDER },
    };
    if (setting.pin === undefined) return [...rungs, { ...counted, label: 'A tick every', hz }];
    return [
      ...rungs,
      { ...counted, label: 'A toggle every', hz: interruptHz.div(setting.divider) },
      { id: 'toggle', label: 'Two toggles', before: '÷ 2', after: 'make a period', hz },
    ];
  },
  handlers: (part, setting) => {
    const { pin, divider } = setting;
    const action =
      pin === undefined
        ? ({ do: 'call', every: divider } as const)
        : ({ do: 'toggle', pin, every: divider } as const);
    return [{ interrupt: resolve(part, setting).tick, keepsRunning: true, actions: [action] }];
  },
  events: (part, setting) => [tickEvents(part, resolve(part, setting))],
  adjust: (part, setting, _, field, value) => adjustCounter(part, setting, field, value),
  movable: movableTop,
  propose: ({ requirement, wantedHz, pin, sources }) => {
    if (pin !== undefined && requirement.frequency.kind === 'within') return [];
    const changes = pin === undefined ? 1 : 2;
    return sources.flatMap((source) =>
      divideRuns(source, wantedHz * changes).map(({ counter, postscale, divider }) => ({
        drive: 'interrupt' as const,
        ...counter,
        ...(pin === undefined ? {} : { pin }),
        ...(postscale > 1 ? { postscale } : {}),
        divider,
      })),
    );
  },
  means: (setting) => (setting.pin === undefined ? 'tick' : 'interrupt'),
  numbersText: dividedText,
  place: (part, setting) => {
    const how = setting.pin === undefined ? 'tick' : 'interrupt';
    return `${timerOf(part, setting.timer).name}${onPin(setting)} (${how})`;
  },
};
