import { ceilOf, floorOf, ratio, type Exact } from '../quantity/exact.ts';
import { needsEdges, type Requirement, type Span } from '../signal/requirement.ts';
import { compareFor, countsOf, grainOf, highCounts, reachedShares } from '../timer/count.ts';
import type { OutputSetting, Setting } from '../timer/setting.ts';
import { driveById, stepsIn } from '../timer/drives/index.ts';
import type { TopSeries } from './hardware/tops.ts';
import type { Route } from './hardware/routes.ts';

/** A setting that could serve a signal, with what it gives in plain numbers. */
export type Candidate = {
  setting: Setting;
  /** Period of the pin in ticks of the timer's clock. */
  periodTicks: number;
  frequencyHz: number;
  /** Against the wanted frequency; 0 is exact, and where any frequency of a band will do, always 0. */
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
  /** The program sends bits of both widths by itself, so that its processor time is all that it takes. */
  sends?: boolean;
  jitterS: number;
};

/** A requirement with the clock worked in: periods in ticks of the timer's clock. */
export type TickRequirement = {
  requirement: Requirement;
  /** Ticks in a second: the timer's clock times the parts its prescaler counts in. */
  clockHz: number;
  scale: number;
  /** The wanted period in ticks: exact, rounded to a plain number, and as a whole number where it is one. */
  period?: Exact;
  periodFloat?: number;
  whole?: number;
  /** Whether the pin must change; a duty of 0 % or 100 % within the tolerance is then not enough. */
  edges: boolean;
  /** The minimum and maximum period that still will do, exact; without a highest frequency no period is too short. */
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
  widths: readonly WidthRequirement[];
  /** The periods at both ends of a span of frequencies, in ticks, and the error that still will do, in ppm. */
  span?: { shortest: number; longest: number; maxPpm: number };
  /** The widest step between two widths of a span that still will do, in s: half of it is missing to a place at most. */
  coarsestS?: number;
};

/** A wanted width in ticks with its limits: exact, and as plain numbers. */
type WidthRequirement = { ideal: number; low: Exact; high: Exact; lowTicks: number; highTicks: number };

/** Longer periods than any counter can have, where a target's tolerance leaves them open. */
const ENDLESS = ratio(10 ** 15, 1);

function widthsOf(requirement: Requirement, clockHz: Exact): WidthRequirement[] {
  if (!requirement.width) return [];
  return [requirement.width, ...(requirement.alsoWidths ?? [])].map(({ ideal, low, high }) => ({
    ideal: ideal.mul(clockHz).valueOf(),
    low: low.mul(clockHz),
    high: high.mul(clockHz),
    lowTicks: low.mul(clockHz).valueOf(),
    highTicks: high.mul(clockHz).valueOf(),
  }));
}

function spanOf(
  { span, frequency }: Requirement,
  clockHz: Exact,
): Pick<TickRequirement, 'span' | 'coarsestS'> {
  if (span?.of === 'width') return { coarsestS: span.within.mul(2).valueOf() };
  if (span?.of !== 'frequency' || frequency.kind !== 'near') return {};
  return {
    span: {
      shortest: clockHz.div(span.high).valueOf(),
      longest: clockHz.div(span.low).valueOf(),
      maxPpm: span.within.mul(1000000).valueOf(),
    },
  };
}

/** Brings a requirement to ticks of one clock. */
export function tickRequirement(requirement: Requirement, clockHz: Exact, scale = 1): TickRequirement {
  const { frequency } = requirement;
  const near = frequency.kind === 'near';
  const period = near ? clockHz.div(frequency.ideal) : undefined;
  const low = frequency.high ? clockHz.div(frequency.high) : ratio(0, 1);
  const high = frequency.low.compare(0) > 0 ? clockHz.div(frequency.low) : ENDLESS;
  return {
    requirement,
    clockHz: clockHz.valueOf(),
    scale,
    ...(period ? { period, periodFloat: period.valueOf() } : {}),
    ...(period?.d === 1n ? { whole: Number(period.n) } : {}),
    edges: needsEdges(requirement),
    low,
    high,
    lowTicks: ceilOf(low),
    highTicks: floorOf(high),
    share: requirement.duty.ideal.valueOf(),
    dutyCounts: Number(requirement.duty.ideal.d),
    dutyLow: requirement.duty.low.valueOf(),
    dutyHigh: requirement.duty.high.valueOf(),
    widths: widthsOf(requirement, clockHz),
    ...spanOf(requirement, clockHz),
  };
}

function errorPpm(wanted: TickRequirement, periodTicks: number): number {
  if (wanted.periodFloat === undefined || wanted.whole === periodTicks) return 0;
  return ((wanted.periodFloat - periodTicks) / periodTicks) * 1e6;
}

/** Whether high / counts lies in the band. Exact: where plain numbers are too close to tell, fractions decide. */
export function withinDuty(wanted: TickRequirement, high: number, counts: number): boolean {
  const share = high / counts;
  const { dutyLow, dutyHigh, requirement } = wanted;
  if (
    Math.abs(share - dutyLow) > 1e-12
      ? share < dutyLow
      : ratio(high, counts).compare(requirement.duty.low) < 0
  )
    return false;
  return Math.abs(share - dutyHigh) > 1e-12
    ? share < dutyHigh
    : ratio(high, counts).compare(requirement.duty.high) <= 0;
}

/** Whether high / counts of a period lies within a width. Exact: where plain numbers are too close, fractions decide. */
export function withinWidth(
  wanted: WidthRequirement,
  high: number,
  counts: number,
  periodTicks: number,
): boolean {
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
function spanPpm({ shortest, longest }: NonNullable<TickRequirement['span']>, series: TopSeries): number {
  const few = shortest / series.unit;
  const many = longest / series.unit;
  if (few < series.min + series.shift || many > series.max + series.shift + 0.5) return Infinity;
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

/** The compare value and polarity that are closest to the share; the normal polarity on ties. */
function bestLevel(route: Route, top: number, share: number): Level {
  if (driveById(route.drive).duty === 'half') return { ...HALF, compare: top };
  const counts = countsOf(route.mode, top) * grainOf(route.mode);
  let best: Level | undefined;
  let min = Infinity;
  for (const { polarity } of route.outputs) {
    const inverted = polarity === 'inverted';
    const compare = compareFor(route.mode, top, route.timer.width, share, inverted);
    const high = highCounts(route.mode, top, compare, inverted);
    const off = Math.abs(high - share * counts);
    if (off > min || (off === min && inverted)) continue;
    min = off;
    best = { compare, polarity, high, counts };
  }
  if (!best) throw new RangeError(`${route.channel.name} has no output in ${route.mode.name}`);
  return best;
}

function makesWidth(route: Route, top: number, width: WidthRequirement, periodTicks: number): boolean {
  const { high, counts } = bestLevel(route, top, Math.min(1, width.ideal / periodTicks));
  return withinWidth(width, high, counts, periodTicks);
}

/** Whether the compare values of a mode reach both ends of a span of duties or widths; frequencies are judged elsewhere. */
function reachesSpan(
  { mode, timer }: Route,
  top: number,
  inverted: boolean,
  span: Span | undefined,
  periodS: number,
): boolean {
  if (!span || span.of === 'frequency') return true;
  const { min, max } = reachedShares(mode, top, timer.width, inverted);
  if (span.of === 'duty') return min.compare(span.low) <= 0 && max.compare(span.high) >= 0;
  return min.valueOf() * periodS <= span.low.valueOf() && max.valueOf() * periodS >= span.high.valueOf();
}

/** Rates a top at a division by n parts of the clock, with the compare value and polarity that are closest to the duty. */
export function rateTop(
  route: Route,
  n: number,
  top: number,
  series: TopSeries,
  wanted: TickRequirement,
): Rating {
  const { requirement } = wanted;
  const periodTicks = series.unit * (top + series.shift);
  const [own, ...others] = wanted.widths;
  const share = own ? Math.min(1, own.ideal / periodTicks) : wanted.share;
  const { compare, polarity, high, counts } = bestLevel(route, top, share);
  const steps = stepsIn(route.drive, route.mode, top);
  const still = wanted.edges && (high <= 0 || high >= counts);
  const inBand = own
    ? withinWidth(own, high, counts, periodTicks) &&
      others.every((width) => makesWidth(route, top, width, periodTicks))
    : withinDuty(wanted, high, counts);
  const reaches = reachesSpan(
    route,
    top,
    polarity === 'inverted',
    requirement.span,
    periodTicks / wanted.clockHz,
  );
  const meetsDuty = inBand && !still && reaches;
  const spanned = wanted.span && spanPpm(wanted.span, series);
  const stepS = periodTicks / steps / wanted.clockHz;
  const fine = wanted.coarsestS === undefined || stepS <= wanted.coarsestS;
  const meetsSpan = fine && (spanned === undefined || spanned <= (wanted.span?.maxPpm ?? 0));
  const pulses = route.mode.pwm?.spread ? Math.max(1, Math.min(high, counts - high)) : 1;
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
    stepS,
    meets: meetsFrequency && meetsDuty && meetsSpan && steps >= requirement.minSteps,
    meetsDuty,
    cpu: 0,
    jitterS:
      (n % wanted.scale === 0 ? 0 : wanted.scale / wanted.clockHz) +
      (route.mode.pwm?.spread ? n / wanted.clockHz : 0),
  };
}

/** A rating brought to the channel and pin of a way. */
export function candidateOf(route: Route, rating: Rating): Candidate {
  const { prescaler, top, compare, polarity } = rating;
  const setting: OutputSetting = {
    drive: route.drive,
    timer: route.timer.id,
    mode: route.mode.id,
    channel: route.channel.id,
    pin: route.pin,
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
