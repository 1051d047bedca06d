import { pinOf, registerOf } from '../../part/find.ts';
import type { BitLoop, Part } from '../../part/types.ts';
import { exact, ratio } from '../../quantity/exact.ts';
import { printNumber } from '../../quantity/print.ts';
import type { Band } from '../../signal/band.ts';
import { clockRungs } from '../rungs.ts';
import { checkWhole, SettingError, type BitLoopSetting } from '../setting.ts';
import { softwarePin, softwarePinWrites } from '../tick.ts';
import type { Bits, BitWork } from './actions.ts';
import type { Drive, Proposal } from './drive.ts';
import { COUNT, ID } from './setting-fields.ts';
import { pulseCycle, shapeOutcome } from './interrupts.ts';
import { outcomeUnder } from './outcome-under.ts';

/** The longest bit that a loop is written out for, in cycles. */
const LONGEST = 250;

/** What a loop that sends bits takes on a part; undefined where its cycles are not fixed or the compiler takes no assembler for it. */
function loopOf({ cpu, code }: Part): BitLoop | undefined {
  return code.assembler === undefined && code.assembly === undefined ? undefined : cpu.bitLoop;
}

/** Cycles of a store to the register that drives a pin. */
function storeCycles(part: Part, pin: string, { store }: BitLoop): number {
  const [key = ''] = Object.keys(pinOf(part, pin).software?.high ?? {});
  const { address } = registerOf(part, key.split('.')[0] ?? '');
  return address <= store.last ? store.cycles : store.beyond;
}

/** Bits of a byte. */
const BITS = 8;

/** Cycles of a step of the loop. */
export function workCycles({ count, carry = count, read = 0, fetch }: BitLoop, work: BitWork): number {
  return { count, carry, read, fetch }[work];
}

/** Puts steps one after the other where there is time, from a bit on; undefined where one finds none. */
function placed(
  loop: BitLoop,
  pauses: readonly [number, number, number],
  from: number,
): BitWork[][][] | undefined {
  const [before, between, after] = pauses;
  const last = BITS - 1;
  const left = Array.from({ length: BITS }, (_, bit) => [
    before,
    between,
    bit === last ? after - loop.back : after,
  ]);
  const work: BitWork[][][] = left.map((stretches) => stretches.map(() => []));
  const put = (one: BitWork, first: number): number | undefined => {
    for (let place = first; place < 3 * BITS; place += 1) {
      const [bit, stretch] = [Math.floor(place / 3), place % 3];
      const free = left[bit]?.[stretch] ?? -1;
      if (free < workCycles(loop, one)) continue;
      left[bit]?.splice(stretch, 1, free - workCycles(loop, one));
      work[bit]?.[stretch]?.push(one);
      return place;
    }
    return undefined;
  };
  if ((left[last]?.[2] ?? -1) < 0) return undefined;
  // The next byte takes the place of this one, so that it comes after the test of the last bit.
  if (put('fetch', 3 * last + 1) === undefined) return undefined;
  const read = loop.read === undefined ? 3 * from : put('read', 3 * from);
  // The carry is of what was counted before it.
  const counted = read === undefined ? undefined : put('count', read);
  return counted === undefined || put('carry', counted) === undefined ? undefined : work;
}

/** What is done once a byte, put where there is time: beside the last bit if it can be, else spread from the first on. */
function workOf(loop: BitLoop, pauses: readonly [number, number, number]): BitWork[][][] | undefined {
  const beside = loop.read === undefined ? placed(loop, pauses, BITS - 1) : undefined;
  return beside ?? placed(loop, pauses, 0);
}

/**
 * How a loop spends the cycles of a bit: the pin goes high, the bit is tested and the pin goes low if it is a zero, then goes
 * low in any case. Undefined where some of the three stretches is too short for its statements.
 */
function scheduleOf(part: Part, { pin, top, compare, zero }: BitLoopSetting): Bits | undefined {
  const loop = loopOf(part);
  if (!loop) return undefined;
  const store = storeCycles(part, pin, loop);
  const pauses: [number, number, number] = [
    zero - loop.test - store,
    compare - zero - store,
    top - compare - store,
  ];
  if (pauses.some((cycles) => cycles < 0)) return undefined;
  const work = workOf(loop, pauses);
  return work && { pin, bit: top, one: compare, zero, pauses, work };
}

/** Whole cycles within a band of times, the nearest to its middle first. */
function cyclesIn({ ideal, low, high }: Band, cpuHz: Proposal['cpuHz']): number[] {
  const wanted = ideal.mul(cpuHz).valueOf();
  const first = Math.ceil(low.mul(cpuHz).valueOf() - 1e-9);
  const last = Math.min(LONGEST, Math.floor(high.mul(cpuHz).valueOf() + 1e-9));
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, at) => first + at)
    .filter((cycles) => {
      const time = exact(cycles).div(cpuHz);
      return time.compare(low) >= 0 && time.compare(high) <= 0;
    })
    .sort((one, other) => Math.abs(one - wanted) - Math.abs(other - wanted));
}

function propose({ part, requirement, cpuHz, pin }: Proposal): BitLoopSetting[] {
  const { width, alsoWidths: [narrow] = [], frequency } = requirement;
  if (pin === undefined || !loopOf(part) || !width || !narrow || frequency.kind !== 'near') return [];
  const bit: Band = {
    ideal: frequency.ideal.inverse(),
    low: frequency.high.inverse(),
    high: frequency.low.inverse(),
  };
  for (const top of cyclesIn(bit, cpuHz)) {
    for (const compare of cyclesIn(width, cpuHz)) {
      for (const zero of cyclesIn(narrow, cpuHz)) {
        const setting: BitLoopSetting = { drive: 'bit-loop', pin, top, compare, zero };
        if (scheduleOf(part, setting)) return [setting];
      }
    }
  }
  return [];
}

/** The program sends bits of two widths in a loop whose every cycle is counted, interrupts waiting meanwhile. */
export const bitLoop: Drive<BitLoopSetting> = {
  id: 'bit-loop',
  name: 'loop that sends bits',
  short: 'bits',
  cause: 'loop',
  duty: 'counted',
  divides: false,
  interruptsPerRun: 0,
  start: 'cycle',
  fields: { pin: ID, top: COUNT, compare: COUNT, zero: COUNT },
  canMeet: ({ alsoWidths }) => alsoWidths !== undefined,
  runsPerPeriod: () => 1,
  check: (part, setting) => {
    checkWhole('top', setting.top, 1, LONGEST);
    checkWhole('compare', setting.compare, 1, setting.top);
    checkWhole('zero', setting.zero, 1, setting.compare);
    softwarePin(part, setting.pin);
    if (!loopOf(part)) {
      throw new SettingError(
        'drive',
        `Loops of ${part.name} take no fixed number of cycles to send bits in.`,
      );
    }
    if (!scheduleOf(part, setting)) {
      const { top, compare, zero } = setting;
      throw new SettingError(
        'top',
        `A bit of ${top} cycles, high for ${zero} or ${compare}, leaves the loop no time for its statements.`,
      );
    }
  },
  outcome: (part, setting, clockHz) => {
    bitLoop.check(part, setting);
    const shape = {
      cycle: pulseCycle(setting.top, setting.compare),
      steps: setting.top,
      reach: { min: ratio(setting.zero, setting.top), max: ratio(setting.compare, setting.top) },
      interrupts: 0,
    };
    return shapeOutcome(shape, clockHz, 0, 1);
  },
  clockNode: (part) => part.cpu.clock,
  countTicks: () => 1,
  numbers: () => ({}),
  writes: (part, { pin }) => softwarePinWrites(part, pin),
  pinWrites: (part, setting) => softwarePin(part, setting.pin).software.output,
  ladder: (part, path, setting) => {
    const hz = outcomeUnder(part, path, setting).frequency;
    const { top, compare, zero } = setting;
    return [
      ...clockRungs(path, part.cpu.clock),
      {
        id: 'top',
        label: 'Cycles of a bit',
        before: '÷',
        value: top,
        after: '',
        choices: { min: 2, max: LONGEST },
        hz,
      },
      {
        id: 'compare',
        label: 'Cycles high',
        before: 'high for',
        value: compare,
        after: `of ${top} (zero: ${zero})`,
        choices: { min: 1, max: top },
        hz,
      },
    ];
  },
  handlers: () => [],
  bits: scheduleOf,
  adjust: (_, setting, _share, field, value) => ({ ...setting, [field]: value }),
  movable: (_, setting) => ({
    frequency: { field: 'top', min: 2, max: LONGEST, falling: true },
    duty: { field: 'compare', min: 1, max: setting.top, falling: false },
  }),
  propose,
  means: () => 'bit loop',
  numbersText: ({ top, compare, zero }) =>
    `${printNumber(top)} cycles a bit, high for ${zero} or ${printNumber(compare)}`,
  method: (_, { pin, top }) => `a loop of ${top} cycles a bit, on ${pin}`,
  place: (_, { pin }) => `a loop that sends bits on ${pin}`,
};
