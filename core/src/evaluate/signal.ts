import { exactText, ratio, type Exact } from '../quantity/exact.ts';
import { printPercent } from '../quantity/print.ts';
import { clockAt, clockOf, type ClockPath } from '../clock/path.ts';
import { findTimer, timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { checkInput } from '../check/check-input.ts';
import { checkEdges, checkWidth, type Check } from '../check/check.ts';
import { spanReport, type SpanReport } from '../fit/span.ts';
import type { LoadReport } from '../load/model.ts';
import type { PlanSignal } from '../plan/plan.ts';
import { hasToMove, type Requirement } from '../signal/requirement.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import type { Slip } from '../slips/catalogue.ts';
import { slipsOf } from '../slips/setting-slips.ts';
import { countsOf, grainOf, highCounts, stillSentence, togglesTwice } from '../timer/count.ts';
import {
  clockNode,
  driveOf,
  hasFreeDuty,
  isInput,
  isOutput,
  ladderOf,
  outcomeUnder,
  resolveSetting,
  type Cause,
  type Drive,
} from '../timer/drives/index.ts';
import { clockSetUpWrites } from '../timer/clock-set-up.ts';
import { settingRegisters } from '../timer/encode.ts';
import type { RegisterWrite } from '../timer/fields.ts';
import type { Cycle, Outcome } from '../timer/outcome.ts';
import { feeding, interruptCycles } from '../timer/run.ts';
import type { Rung } from '../timer/rungs.ts';
import { compareForWidth, sendsBits } from '../timer/sending.ts';
import { hasTimer, type CaptureSetting, type Setting } from '../timer/setting.ts';
import { periodicEdges } from '../wave/edges.ts';
import { knobChecks } from './knob.ts';
import { loadChecks, signalLoad, type Motion } from './load.ts';
import { timingChecks } from './timing-checks.ts';

/** What a signal's setting really gives, in numbers that can leave the core. */
export type SignalEvaluation = {
  setting: Setting;
  /** Where it is and how it is made, in words. */
  place: SettingPlace;
  frequencyHz: number;
  frequencyExact: string;
  /** Against the target, in ppm; 0 is exact. Absent where only a minimum frequency is asked for. */
  errorPpm?: number;
  duty: number;
  dutyExact: string;
  steps: number;
  bits: number;
  stepS: number;
  /** How far an edge may stand from its mean place. */
  jitterS: number;
  /** The share of the processor's time it takes. */
  cpu: number;
  reach: { min: number; max: number };
  /** Period, rise and fall on the pin in ticks; a tick, a count of the counter and a period of its clock in seconds. */
  wave: {
    periodTicks: number;
    tickS: number;
    countS: number;
    clockS: number;
    rise?: number;
    fall?: number;
    level?: 0 | 1;
  };
  ladder: (Omit<Rung, 'hz'> & { hz: number; hzExact: string })[];
  registers: RegisterWrite[];
  checks: Check[];
  slips: Slip[];
  /** The wanted period and high time, for drawing the target behind the waveform. */
  wanted: { periodS?: number; duty: number };
  /** What the setting makes of the target's span, where it has one. */
  span?: SpanReport;
  /** What hangs on the pin does with it, where the signal says what that is. */
  load?: LoadReport;
};

/** Where a setting is and how it makes its signal, in words and in what a view asks of it. */
export type SettingPlace = {
  /** The timer's name, its channel or its interrupt, the pin, the mode and the polarity; absent without a timer. */
  timer?: string;
  means: string;
  pin?: string;
  mode?: string;
  inverted: boolean;
  /** "TIM3 CH3 on PB0". */
  text: string;
  cause: Cause;
  duty: Drive['duty'];
};

function settingPlace(part: Part, setting: Setting): SettingPlace {
  const drive = driveOf(setting);
  const timer = hasTimer(setting) ? findTimer(part, setting.timer)?.name : undefined;
  return {
    ...(timer === undefined ? {} : { timer }),
    means: drive.means(setting),
    ...(setting.pin === undefined ? {} : { pin: setting.pin }),
    ...(hasTimer(setting) ? { mode: setting.mode } : {}),
    inverted: isOutput(setting) && setting.polarity === 'inverted',
    text: drive.place(part, setting),
    cause: drive.cause,
    duty: drive.duty,
  };
}

/** Periods that checks on a computed trace look at. */
const PERIODS = 8;

/** Counts of a spread cycle that are looked at, at most, if they show pulses enough. */
const LONGEST_SPREAD = 400_000;

/** Some whole periods; of counts that are spread one cycle, or the first stretch of a very long one. */
function tracedTicks(cycle: Cycle): number {
  if (!('spread' in cycle.edges)) return PERIODS * cycle.periodTicks;
  const { count, high, whole } = cycle.edges.spread;
  const apart = whole / Math.max(1, Math.min(high, whole - high));
  return Math.min(2 * whole, Math.max(LONGEST_SPREAD, Math.ceil(PERIODS * apart))) * count;
}

/** The other widths that the same counter must make, each by its nearest compare value. */
function otherWidths(
  part: Part,
  setting: Setting,
  { alsoWidths = [] }: Requirement,
  outcome: Outcome,
): Check[] {
  const bits = driveOf(setting).bits?.(part, setting);
  if (bits) {
    return alsoWidths.map((band) => checkWidth(ratio(bits.zero, 1).div(outcome.tickHz), band, 'other width'));
  }
  if (!isOutput(setting)) return [];
  const { mode, timer } = resolveSetting(part, setting);
  const inverted = setting.polarity === 'inverted';
  const whole = countsOf(mode, setting.top) * grainOf(mode);
  return alsoWidths.map((band): Check => {
    const compare = compareForWidth({ mode, timer }, setting, band.ideal, outcome.frequency);
    const made = ratio(highCounts(mode, setting.top, compare, inverted), whole).div(outcome.frequency);
    return checkWidth(made, band, 'other width');
  });
}

/** The share of the processor that sending bits now and then takes; undefined for everything else. */
function sentShare(
  part: Part,
  setting: Setting,
  requirement: Requirement,
  { frequency }: Outcome,
  cpuHz: Exact,
): number | undefined {
  const { burst } = requirement;
  if (!burst || !sendsBits(part, setting, requirement, frequency, cpuHz)) return undefined;
  return Math.min(1, (burst.periods * burst.everyHz) / frequency.valueOf());
}

/** A delay loop on a processor whose loops take no fixed time: its frequency is no more than an intention. */
function loopChecks(part: Part, setting: Setting): Check[] {
  if (driveOf(setting).cause !== 'loop' || part.cpu.loopJitterCycles !== 'none') return [];
  const note = `A delay loop takes no fixed time on ${part.name}: its caches decide.`;
  return [{ property: 'jitter', unit: 's', verdict: 'fail', note }];
}

/** Whether the program can hand over each bit in time, where the width changes from period to period. */
function feedingChecks(
  part: Part,
  path: ClockPath,
  setting: Setting,
  { alsoWidths = [] }: Requirement,
  { frequency }: Outcome,
): Check[] {
  // A loop that sends the bits itself hands none over.
  if (alsoWidths.length === 0 || !isOutput(setting)) return [];
  const { has, needs } = feeding(part.cpu, clockOf(path, part.cpu.clock).valueOf(), frequency.valueOf());
  const base = {
    property: 'feeding',
    label: 'cycles per bit',
    unit: 'count',
    value: has,
    low: needs,
    margin: has - needs,
  } as const;
  return has >= needs
    ? [{ ...base, verdict: 'pass' }]
    : [{ ...base, verdict: 'fail', note: `The program has ${has} cycles for each bit and needs ${needs}.` }];
}

/** Whether a setting reaches both ends of a span of duties without another prescaler or top. */
function rangeChecks({ span }: Requirement, { reach }: Outcome): Check[] {
  if (span?.of !== 'duty') return [];
  const ends = [
    { label: 'least duty', value: reach.min, wanted: span.low, margin: span.low.sub(reach.min) },
    { label: 'greatest duty', value: reach.max, wanted: span.high, margin: reach.max.sub(span.high) },
  ];
  return ends.map(({ label, value, wanted, margin }): Check => {
    const reached = margin.compare(0) >= 0;
    const limit = label === 'least duty' ? { high: wanted.valueOf() } : { low: wanted.valueOf() };
    const base = { property: 'range', unit: 'fraction', label, ...limit, value: value.valueOf() } as const;
    const note = `The ${label} that the compare values reach is ${printPercent(value.valueOf(), 4)}.`;
    return {
      ...base,
      valueExact: exactText(value),
      margin: margin.valueOf(),
      verdict: reached ? 'pass' : 'fail',
      ...(reached ? {} : { note }),
    };
  });
}

/** What has to move while the counter runs, against an output that cannot. */
function movingChecks(part: Part, signal: PlanSignal, requirement: Requirement, setting: Setting): Check[] {
  const moves = hasToMove(requirement) || signal.knob !== undefined || signal.readings !== undefined;
  if (!moves || !hasFreeDuty(setting) || !togglesTwice(resolveSetting(part, setting).mode)) return [];
  const note = stillSentence(timerOf(part, setting.timer).name);
  return [{ property: 'range', unit: 'fraction', verdict: 'fail', note }];
}

function plainLadder(part: Part, path: ClockPath, setting: Setting): SignalEvaluation['ladder'] {
  return ladderOf(part, path, setting).map((rung) => ({
    ...rung,
    hz: rung.hz.valueOf(),
    hzExact: exactText(rung.hz),
  }));
}

function motionOf({ frequency, duty, stepTicks, tickHz, steps }: Outcome): Motion {
  return {
    frequencyHz: frequency.valueOf(),
    duty: duty.valueOf(),
    stepS: stepTicks / tickHz.valueOf(),
    steps,
  };
}

/** What a plan checks of a signal by itself. @throws SettingError when the part cannot do the setting. */
export function checksAlone(part: Part, path: ClockPath, signal: PlanSignal, setting: Setting): Check[] {
  const { tolerancePpm } = clockAt(path, clockNode(part, setting));
  const requirement = requirementOf(signal);
  const result = outcomeUnder(part, path, setting);
  if (requirement.input && isInput(setting)) {
    const countHz = result.frequency.mul(result.steps);
    return checkInput(requirement.input, result.frequency, countHz, tolerancePpm);
  }
  const trace = periodicEdges(result.cycle, 0, tracedTicks(result.cycle));
  return [
    ...checkEdges(trace, requirement, result.tickHz, tolerancePpm, result.steps, result.jitterS),
    ...otherWidths(part, setting, requirement, result),
    ...feedingChecks(part, path, setting, requirement, result),
    ...rangeChecks(requirement, result),
    ...movingChecks(part, signal, requirement, setting),
    ...loopChecks(part, setting),
    ...timingChecks(part, path, signal, setting),
    ...loadChecks(part, signal, motionOf(result)),
    ...knobChecks(part, path, signal, setting),
  ];
}

/** What a capture makes of an input: its wave is the fastest signal asked for, half of it high. */
function evaluateInput(
  part: Part,
  path: ClockPath,
  setting: CaptureSetting,
  requirement: Requirement & Required<Pick<Requirement, 'input'>>,
  result: Outcome,
): SignalEvaluation {
  const { input } = requirement;
  const { hz: clock, tolerancePpm } = clockAt(path, clockNode(part, setting));
  const cpuHz = clockOf(path, part.cpu.clock);
  const countHz = result.frequency.mul(result.steps);
  const counts = Math.max(1, Math.floor(countHz.div(input.fastest).valueOf() + 1e-9));
  const period = Math.max(2, Math.round(result.tickHz.div(input.fastest).valueOf()));
  return {
    setting,
    place: settingPlace(part, setting),
    frequencyHz: result.frequency.valueOf(),
    frequencyExact: exactText(result.frequency),
    errorPpm: 1e6 / counts,
    duty: 0.5,
    dutyExact: '1/2',
    steps: counts,
    bits: Math.log2(counts),
    stepS: countHz.inverse().valueOf(),
    jitterS: result.jitterS,
    cpu: (input.fastest.valueOf() * interruptCycles(part.cpu)) / cpuHz.valueOf(),
    reach: { min: 0, max: 1 },
    wave: {
      periodTicks: period,
      tickS: result.tickHz.inverse().valueOf(),
      countS: countHz.inverse().valueOf(),
      clockS: 1 / clock.valueOf(),
      rise: 0,
      fall: Math.round(period / 2),
    },
    ladder: plainLadder(part, path, setting),
    registers: settingRegisters(part, setting, clockSetUpWrites(part, path, [setting])),
    wanted: { periodS: requirement.input.fastest.inverse().valueOf(), duty: 0.5 },
    checks: checkInput(input, result.frequency, countHz, tolerancePpm),
    slips: slipsOf(part, setting, requirement, clock, tolerancePpm, cpuHz),
  };
}

/** The outcome of one setting against one signal's target. @throws SettingError when the part cannot do the setting. */
export function evaluateSetting(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  setting: Setting,
): SignalEvaluation {
  const { hz: clock, tolerancePpm } = clockAt(path, clockNode(part, setting));
  const requirement = requirementOf(signal);
  const result = outcomeUnder(part, path, setting);
  if (requirement.input && isInput(setting)) {
    return evaluateInput(part, path, setting, { ...requirement, input: requirement.input }, result);
  }
  const { cycle } = result;
  const near = requirement.frequency.kind === 'near' ? requirement.frequency.ideal : undefined;
  const load = signalLoad(part, signal, motionOf(result));
  const span = spanReport(part, path, setting, requirement);
  return {
    ...(span ? { span } : {}),
    ...(load ? { load } : {}),
    setting,
    place: settingPlace(part, setting),
    frequencyHz: result.frequency.valueOf(),
    frequencyExact: exactText(result.frequency),
    ...(near ? { errorPpm: result.frequency.div(near).sub(1).mul(1000000).valueOf() } : {}),
    duty: result.duty.valueOf(),
    dutyExact: exactText(result.duty),
    steps: result.steps,
    bits: result.bits,
    stepS: result.stepTicks / result.tickHz.valueOf(),
    jitterS: result.jitterS,
    cpu: sentShare(part, setting, requirement, result, clockOf(path, part.cpu.clock)) ?? result.cpu,
    reach: { min: result.reach.min.valueOf(), max: result.reach.max.valueOf() },
    wave: {
      periodTicks: cycle.periodTicks,
      tickS: result.tickHz.inverse().valueOf(),
      countS: driveOf(setting).countTicks(part, setting) / clock.valueOf(),
      clockS: 1 / clock.valueOf(),
      ...('spread' in cycle.edges ? {} : cycle.edges),
    },
    ladder: plainLadder(part, path, setting),
    registers: settingRegisters(part, setting, clockSetUpWrites(part, path, [setting])),
    wanted: {
      ...(near ? { periodS: near.inverse().valueOf() } : {}),
      duty: requirement.duty.ideal.valueOf(),
    },
    checks: checksAlone(part, path, signal, setting),
    slips: slipsOf(part, setting, requirement, clock, tolerancePpm, clockOf(path, part.cpu.clock)),
  };
}
