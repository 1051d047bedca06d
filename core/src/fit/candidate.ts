import { ceilOf, floorOf, ratio, type Exact } from '../quantity/exact.ts';
import type { Goal } from '../target/goal.ts';
import { compareFor, countsOf, highCounts, stepsOf } from '../timer/count.ts';
import type { Setting } from '../timer/setting.ts';
import type { Lane } from './tops.ts';
import type { Way } from './ways.ts';

/** A setting that could serve a signal, with what it gives in plain numbers. */
export type Candidate = {
  setting: Setting;
  /** Period of the pin in ticks of the timer's clock. */
  periodTicks: number;
  frequencyHz: number;
  /** Against the wanted frequency; 0 is exact, and where only a least frequency is asked for, always 0. */
  errorPpm: number;
  duty: number;
  /** Difference to the wanted duty, a fraction of one. */
  dutyError: number;
  steps: number;
  bits: number;
  stepS: number;
  /** Whether frequency, duty and steps all lie within the target; the oscillator's tolerance is not part of it. */
  meets: boolean;
  meetsDuty: boolean;
};

/** A goal with the clock worked in: periods in ticks of the timer's clock. */
export type TickGoal = {
  goal: Goal;
  clockHz: number;
  /** The wanted period in ticks: exact, rounded to a plain number, and as a whole number where it is one. */
  period?: Exact;
  periodFloat?: number;
  whole?: number;
  /** The least and the greatest period that still will do, exact; a least frequency has no least period. */
  low: Exact;
  high: Exact;
  /** The same in whole ticks: every period a timer can have is one. */
  lowTicks: number;
  highTicks: number;
  /** The wanted duty and its limits as plain numbers. */
  share: number;
  dutyLow: number;
  dutyHigh: number;
};

/** Longer periods than any counter can have, where a target's tolerance leaves them open. */
const ENDLESS = ratio(10 ** 15, 1);

/** Brings a goal to ticks of one clock. */
export function tickGoal(goal: Goal, clockHz: Exact): TickGoal {
  const { frequency } = goal;
  const near = frequency.kind === 'near';
  const period = near ? clockHz.div(frequency.ideal) : undefined;
  const low = near ? clockHz.div(frequency.high) : ratio(0, 1);
  const high = frequency.low.compare(0) > 0 ? clockHz.div(frequency.low) : ENDLESS;
  return {
    goal,
    clockHz: clockHz.valueOf(),
    ...(period ? { period, periodFloat: period.valueOf() } : {}),
    ...(period?.d === 1n ? { whole: Number(period.n) } : {}),
    low,
    high,
    lowTicks: ceilOf(low),
    highTicks: floorOf(high),
    share: goal.duty.ideal.valueOf(),
    dutyLow: goal.duty.low.valueOf(),
    dutyHigh: goal.duty.high.valueOf(),
  };
}

function errorPpm(wanted: TickGoal, periodTicks: number): number {
  if (wanted.periodFloat === undefined || wanted.whole === periodTicks) return 0;
  return ((wanted.periodFloat - periodTicks) / periodTicks) * 1e6;
}

/** Whether high / counts lies in the band. Exact: where plain numbers are too close to tell, fractions decide. */
function withinDuty(wanted: TickGoal, high: number, counts: number): boolean {
  const share = high / counts;
  const { dutyLow, dutyHigh, goal } = wanted;
  const exactly = (bound: Exact): number => ratio(high, counts).compare(bound);
  const above = Math.abs(share - dutyLow) > 1e-12 ? share > dutyLow : exactly(goal.duty.low) >= 0;
  const below = Math.abs(share - dutyHigh) > 1e-12 ? share < dutyHigh : exactly(goal.duty.high) <= 0;
  return above && below;
}

type Level = { compare: number; polarity: 'normal' | 'inverted'; high: number; counts: number };

function bestLevel(way: Way, top: number, share: number): Level {
  if (way.drive === 'toggle') return { compare: top, polarity: 'normal', high: 1, counts: 2 };
  const counts = countsOf(way.mode, top);
  const levels = way.outputs.map(({ polarity }): Level => {
    const inverted = polarity === 'inverted';
    const compare = compareFor(way.mode, top, share, inverted);
    return { compare, polarity, high: highCounts(way.mode, top, compare, inverted), counts };
  });
  const off = (level: Level): number => Math.abs(level.high - share * counts);
  levels.sort((one, other) => off(one) - off(other) || (one.polarity === 'normal' ? -1 : 1));
  const [best] = levels;
  if (!best) throw new RangeError(`${way.channel.name} has no output in ${way.mode.name}`);
  return best;
}

/** The candidate of a way at a prescaler and a top, with the compare value and polarity that come nearest to the duty. */
export function candidateOf(
  way: Way,
  prescaler: number,
  top: number,
  lane: Lane,
  wanted: TickGoal,
): Candidate {
  const { goal, share } = wanted;
  const { compare, polarity, high, counts } = bestLevel(way, top, share);
  const periodTicks = lane.unit * (top + lane.shift);
  const steps = stepsOf(way.mode, way.drive, top);
  const meetsDuty = withinDuty(wanted, high, counts);
  const meetsFrequency = periodTicks >= wanted.lowTicks && periodTicks <= wanted.highTicks;
  return {
    setting: {
      drive: way.drive,
      timer: way.timer.id,
      mode: way.mode.id,
      channel: way.channel.id,
      pin: way.pin,
      ...(polarity === 'inverted' ? { polarity } : {}),
      prescaler,
      top,
      compare,
    },
    periodTicks,
    frequencyHz: wanted.clockHz / periodTicks,
    errorPpm: errorPpm(wanted, periodTicks),
    duty: high / counts,
    dutyError: high / counts - share,
    steps,
    bits: Math.log2(steps),
    stepS: periodTicks / steps / wanted.clockHz,
    meets: meetsFrequency && meetsDuty && steps >= goal.minSteps,
    meetsDuty,
  };
}
