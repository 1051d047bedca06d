import { clockOf } from '../../clock/path.ts';
import { exact } from '../../quantity/exact.ts';
import { printNumber } from '../../quantity/print.ts';
import { countsFor } from '../count.ts';
import { clockRungs } from '../rungs.ts';
import type { Part } from '../../part/types.ts';
import { checkWhole, type DelayLoopSetting } from '../setting.ts';
import { MAX_DIVIDER, softwarePin, softwarePinWrites } from '../tick.ts';
import type { Drive } from './drive.ts';
import { COUNT, ID } from './setting-fields.ts';
import { keepsDuty, pulseCycle, shapeOutcome } from './interrupts.ts';
import { outcomeUnder } from './outcome-under.ts';

/** By how many cycles an edge may be late; where a loop takes no fixed time at all, a check says so. */
function jitterCycles({ cpu }: Part): number {
  return cpu.loopJitterCycles === 'none' ? 0 : cpu.loopJitterCycles;
}

/** The program itself waits in a loop, and can do nothing else meanwhile. */
export const delayLoop: Drive<DelayLoopSetting> = {
  id: 'delay-loop',
  name: 'delay loop',
  short: 'loop',
  cause: 'loop',
  duty: 'counted',
  divides: false,
  interruptsPerRun: 0,
  start: 'cycle',
  fields: { pin: ID, top: COUNT, compare: COUNT },
  canMeet: keepsDuty,
  runsPerPeriod: () => 1,
  check: (part, setting) => {
    checkWhole('top', setting.top, 1, MAX_DIVIDER);
    checkWhole('compare', setting.compare, 0, setting.top);
    softwarePin(part, setting.pin);
  },
  outcome: (part, setting, clockHz) => {
    delayLoop.check(part, setting);
    const cycles = part.cpu.loopCycles;
    const shape = {
      cycle: pulseCycle(setting.top * cycles, setting.compare * cycles),
      steps: setting.top,
      reach: { min: exact(0), max: exact(1) },
      interrupts: 0,
    };
    return shapeOutcome(shape, clockHz, jitterCycles(part) / clockHz.valueOf(), 1);
  },
  clockNode: (part) => part.cpu.clock,
  countTicks: (part) => part.cpu.loopCycles,
  numbers: () => ({}),
  writes: (part, { pin }) => softwarePinWrites(part, pin),
  pinWrites: (part, setting) => softwarePin(part, setting.pin).software.output,
  ladder: (part, path, setting) => {
    const { loopCycles } = part.cpu;
    const passHz = clockOf(path, part.cpu.clock).div(loopCycles);
    const hz = outcomeUnder(part, path, setting).frequency;
    return [
      ...clockRungs(path, part.cpu.clock),
      { id: 'pass', label: 'Pass of the loop', before: `÷ ${loopCycles}`, after: 'cycles', hz: passHz },
      {
        id: 'top',
        label: 'Passes in a period',
        before: '÷',
        value: setting.top,
        after: '',
        choices: { min: 1, max: MAX_DIVIDER },
        hz,
      },
      {
        id: 'compare',
        label: 'Passes high',
        before: 'high for',
        value: setting.compare,
        after: `of ${setting.top}`,
        choices: { min: 0, max: setting.top },
        hz,
      },
    ];
  },
  handlers: () => [],
  loop: ({ pin, top, compare }) => ({ pin, highPasses: compare, lowPasses: top - compare }),
  adjust: (_, setting, share, field, value) => ({
    ...setting,
    compare: field === 'top' ? countsFor(share, value) : setting.compare,
    [field]: value,
  }),
  movable: (_, setting) => ({
    frequency: { field: 'top', min: 2, max: MAX_DIVIDER, falling: true },
    duty: { field: 'compare', min: 0, max: setting.top, falling: false },
  }),
  propose: ({ part, requirement, cpuHz, wantedHz, pin }) => {
    if (pin === undefined || part.cpu.loopJitterCycles === 'none') return [];
    const passes = cpuHz.valueOf() / (part.cpu.loopCycles * wantedHz);
    const top = requirement.frequency.kind === 'within' ? Math.floor(passes) : Math.round(passes);
    if (top < 2 || top > MAX_DIVIDER) return [];
    const compare = countsFor(requirement.duty.ideal.valueOf(), top);
    return [{ drive: 'delay-loop', pin, top, compare }];
  },
  means: () => 'delay loop',
  numbersText: ({ top }) => `${printNumber(top)} passes`,
  method: (part, { pin }) => `a delay loop of ${part.cpu.loopCycles} cycles a pass, on ${pin}`,
  place: (_, { pin }) => `a delay loop on ${pin}`,
};
