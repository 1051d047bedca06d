import { ceilOf, floorOf, ratio, type Exact } from '../quantity/exact.ts';
import type { Goal } from '../target/goal.ts';
import { compareFor, countsOf, grainOf, highCounts, stepsOf } from '../timer/count.ts';
import type { OutputSetting, Setting } from '../timer/setting.ts';
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
  /** The share of the processor's time it takes; 0 where the hardware does it alone. */
  cpu: number;
  jitterS: number;
};

/** A goal with the clock worked in: periods in ticks of the timer's clock. */
export type TickGoal = {
  goal: Goal;
  /** Ticks in a second: the timer's clock times the parts its prescaler counts in. */
  clockHz: number;
  scale: number;
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
  /** The least period in counts that hits the wanted duty exactly. */
  dutyCounts: number;
  dutyLow: number;
  dutyHigh: number;
  /** Where widths count: the wanted ones in ticks, the pulse's own first, with their limits. */
  widths: readonly WidthGoal[];
  /** The periods at both ends of a span of frequencies, in ticks, and the error that still will do, in ppm. */
  span?: { shortest: number; longest: number; mostPpm: number };
};

/** A wanted width in ticks with its limits: exact, and as plain numbers. */
type WidthGoal = { ideal: number; low: Exact; high: Exact; lowTicks: number; highTicks: number };

/** Longer periods than any counter can have, where a target's tolerance leaves them open. */
const ENDLESS = ratio(10 ** 15, 1);

function widthsOf(goal: Goal, clockHz: Exact): WidthGoal[] {
  if (!goal.width) return [];
  return [goal.width, ...(goal.alsoWidths ?? [])].map(({ ideal, low, high }) => ({
    ideal: ideal.mul(clockHz).valueOf(),
    low: low.mul(clockHz),
    high: high.mul(clockHz),
    lowTicks: low.mul(clockHz).valueOf(),
    highTicks: high.mul(clockHz).valueOf(),
  }));
}

function spanOf({ span, frequency }: Goal, clockHz: Exact): Pick<TickGoal, 'span'> {
  if (span?.of !== 'frequency' || frequency.kind !== 'near') return {};
  return {
    span: {
      shortest: clockHz.div(span.high).valueOf(),
      longest: clockHz.div(span.low).valueOf(),
      mostPpm: frequency.high.div(frequency.ideal).sub(1).mul(1000000).valueOf(),
    },
  };
}

/** Brings a goal to ticks of one clock. */
export function tickGoal(goal: Goal, clockHz: Exact, scale = 1): TickGoal {
  const { frequency } = goal;
  const near = frequency.kind === 'near';
  const period = near ? clockHz.div(frequency.ideal) : undefined;
  const low = near ? clockHz.div(frequency.high) : ratio(0, 1);
  const high = frequency.low.compare(0) > 0 ? clockHz.div(frequency.low) : ENDLESS;
  return {
    goal,
    clockHz: clockHz.valueOf(),
    scale,
    ...(period ? { period, periodFloat: period.valueOf() } : {}),
    ...(period?.d === 1n ? { whole: Number(period.n) } : {}),
    low,
    high,
    lowTicks: ceilOf(low),
    highTicks: floorOf(high),
    share: goal.duty.ideal.valueOf(),
    dutyCounts: Number(goal.duty.ideal.d),
    dutyLow: goal.duty.low.valueOf(),
    dutyHigh: goal.duty.high.valueOf(),
    widths: widthsOf(goal, clockHz),
    ...spanOf(goal, clockHz),
  };
}

function errorPpm(wanted: TickGoal, periodTicks: number): number {
  if (wanted.periodFloat === undefined || wanted.whole === periodTicks) return 0;
  return ((wanted.periodFloat - periodTicks) / periodTicks) * 1e6;
}

/** Whether high / counts lies in the band. Exact: where plain numbers are too close to tell, fractions decide. */
export function withinDuty(wanted: TickGoal, high: number, counts: number): boolean {
  const share = high / counts;
  const { dutyLow, dutyHigh, goal } = wanted;
  if (Math.abs(share - dutyLow) > 1e-12 ? share < dutyLow : ratio(high, counts).compare(goal.duty.low) < 0)
    return false;
  return Math.abs(share - dutyHigh) > 1e-12
    ? share < dutyHigh
    : ratio(high, counts).compare(goal.duty.high) <= 0;
}

/** Whether high / counts of a period lies within a width. Exact: where plain numbers are too close, fractions decide. */
export function withinWidth(wanted: WidthGoal, high: number, counts: number, periodTicks: number): boolean {
  const ticks = (high * periodTicks) / counts;
  const close = 1e-9 * periodTicks;
  const exactly = (bound: Exact): number => ratio(high, counts).mul(periodTicks).compare(bound);
  const above =
    Math.abs(ticks - wanted.lowTicks) > close ? ticks > wanted.lowTicks : exactly(wanted.low) >= 0;
  const below =
    Math.abs(ticks - wanted.highTicks) > close ? ticks < wanted.highTicks : exactly(wanted.high) <= 0;
  return above && below;
}

/**
 * The worst error over a span of frequencies, in ppm: half a count where the counts are fewest, at its fast end. Endless
 * where the counter cannot reach both ends with this division.
 */
function spanPpm({ shortest, longest }: NonNullable<TickGoal['span']>, lane: Lane): number {
  const few = shortest / lane.unit;
  const many = longest / lane.unit;
  if (few < lane.least + lane.shift || many > lane.most + lane.shift + 0.5) return Infinity;
  return 500000 / few;
}

/** The worst error over a span, or that of the setting itself where it is greater still. */
function spanError(spanned: number | undefined, own: number): number {
  return spanned !== undefined && spanned < Infinity && spanned > Math.abs(own) ? spanned : own;
}

/** What a top gives on any channel of one mode and drive with one choice of polarities: a candidate without its pin. */
export type Rating = Omit<Candidate, 'setting'> & {
  prescaler: number;
  top: number;
  compare: number;
  polarity: 'normal' | 'inverted';
};

type Level = { compare: number; polarity: 'normal' | 'inverted'; high: number; counts: number };

const HALF: Omit<Level, 'compare'> = { polarity: 'normal', high: 1, counts: 2 };

/** The compare value and polarity that come nearest to the share; of equals the normal polarity. */
function bestLevel(way: Way, top: number, share: number): Level {
  if (way.drive === 'toggle') return { ...HALF, compare: top };
  const counts = countsOf(way.mode, top) * grainOf(way.mode);
  let best: Level | undefined;
  let least = Infinity;
  for (const { polarity } of way.outputs) {
    const inverted = polarity === 'inverted';
    const compare = compareFor(way.mode, top, way.timer.width, share, inverted);
    const high = highCounts(way.mode, top, compare, inverted);
    const off = Math.abs(high - share * counts);
    if (off > least || (off === least && inverted)) continue;
    least = off;
    best = { compare, polarity, high, counts };
  }
  if (!best) throw new RangeError(`${way.channel.name} has no output in ${way.mode.name}`);
  return best;
}

function makesWidth(way: Way, top: number, width: WidthGoal, periodTicks: number): boolean {
  const { high, counts } = bestLevel(way, top, Math.min(1, width.ideal / periodTicks));
  return withinWidth(width, high, counts, periodTicks);
}

/** Rates a top at a division by n parts of the clock, with the compare value and polarity that come nearest to the duty. */
export function rateTop(way: Way, n: number, top: number, lane: Lane, wanted: TickGoal): Rating {
  const { goal } = wanted;
  const periodTicks = lane.unit * (top + lane.shift);
  const [own, ...others] = wanted.widths;
  const share = own ? Math.min(1, own.ideal / periodTicks) : wanted.share;
  const { compare, polarity, high, counts } = bestLevel(way, top, share);
  const steps = stepsOf(way.mode, way.drive, top);
  const meetsDuty = own
    ? withinWidth(own, high, counts, periodTicks) &&
      others.every((width) => makesWidth(way, top, width, periodTicks))
    : withinDuty(wanted, high, counts);
  const spanned = wanted.span && spanPpm(wanted.span, lane);
  const meetsSpan = spanned === undefined || spanned <= (wanted.span?.mostPpm ?? 0);
  const pulses = way.mode.compare?.spread ? Math.max(1, Math.min(high, counts - high)) : 1;
  const meetsFrequency = periodTicks >= wanted.lowTicks && periodTicks <= wanted.highTicks * pulses;
  return {
    prescaler: n / wanted.scale,
    top,
    compare,
    polarity,
    periodTicks,
    frequencyHz: (wanted.clockHz * pulses) / periodTicks,
    errorPpm: spanError(spanned, errorPpm(wanted, periodTicks)),
    duty: high / counts,
    dutyError: high / counts - share,
    steps,
    bits: Math.log2(steps),
    stepS: periodTicks / steps / wanted.clockHz,
    meets: meetsFrequency && meetsDuty && meetsSpan && steps >= goal.minSteps,
    meetsDuty,
    cpu: 0,
    jitterS:
      (n % wanted.scale === 0 ? 0 : wanted.scale / wanted.clockHz) +
      (way.mode.compare?.spread ? n / wanted.clockHz : 0),
  };
}

/** A rating brought to the channel and pin of a way. */
export function candidateOf(way: Way, rating: Rating): Candidate {
  const { prescaler, top, compare, polarity } = rating;
  const setting: OutputSetting = {
    drive: way.drive,
    timer: way.timer.id,
    mode: way.mode.id,
    channel: way.channel.id,
    pin: way.pin,
    prescaler,
    top,
    compare,
  };
  if (polarity === 'inverted') setting.polarity = polarity;
  return {
    setting,
    periodTicks: rating.periodTicks,
    frequencyHz: rating.frequencyHz,
    errorPpm: rating.errorPpm,
    duty: rating.duty,
    dutyError: rating.dutyError,
    steps: rating.steps,
    bits: rating.bits,
    stepS: rating.stepS,
    meets: rating.meets,
    meetsDuty: rating.meetsDuty,
    cpu: rating.cpu,
    jitterS: rating.jitterS,
  };
}
