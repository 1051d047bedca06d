import { exactText } from '../quantity/exact.ts';
import type { ClockPath } from '../clock/path.ts';
import { findTimer } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import type { Check } from '../check/check.ts';
import { spanReport, type SpanReport } from '../fit/span.ts';
import type { LoadReport } from '../load/model.ts';
import type { PlanSignal } from '../plan/plan.ts';
import type { Requirement } from '../signal/requirement.ts';
import type { Slip } from '../slips/catalogue.ts';
import { slipsOf } from '../slips/setting-slips.ts';
import { isInput, isOutput, type Cause, type Drive } from '../timer/drives/index.ts';
import { clockSetUpWrites } from '../timer/clock-set-up.ts';
import { settingRegisters } from '../timer/encode.ts';
import type { RegisterWrite } from '../timer/fields.ts';
import { interruptCycles } from '../timer/run.ts';
import type { Rung } from '../timer/rungs.ts';
import { sendsBits } from '../timer/sending.ts';
import { hasTimer, type Setting } from '../timer/setting.ts';
import { signalLoad } from './load.ts';
import { placedSetting, type PlacedSetting } from './placed.ts';
import { checksOf, motionOf } from './signal-checks.ts';

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

function settingPlace({ part, setting, drive }: PlacedSetting): SettingPlace {
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

/** The share of the processor that sending bits now and then takes; undefined for everything else. */
function sentShare({ part, setting, requirement, outcome, cpuHz }: PlacedSetting): number | undefined {
  const { burst } = requirement;
  const { frequency } = outcome;
  if (!burst || !sendsBits(part, setting, requirement, frequency, cpuHz)) return undefined;
  return Math.min(1, (burst.periods * burst.everyHz) / frequency.valueOf());
}

function plainLadder({ part, path, setting, drive }: PlacedSetting): SignalEvaluation['ladder'] {
  return drive.ladder(part, path, setting).map((rung) => ({
    ...rung,
    hz: rung.hz.valueOf(),
    hzExact: exactText(rung.hz),
  }));
}

/** What a capture makes of an input: its wave is the fastest signal asked for, half of it high. */
function evaluateInput(
  placed: PlacedSetting,
  input: NonNullable<Requirement['input']>,
): Omit<SignalEvaluation, keyof Common> {
  const { part, clockHz, cpuHz, outcome: result } = placed;
  const countHz = result.frequency.mul(result.steps);
  const counts = Math.max(1, Math.floor(countHz.div(input.fastest).valueOf() + 1e-9));
  const period = Math.max(2, Math.round(result.tickHz.div(input.fastest).valueOf()));
  return {
    errorPpm: 1e6 / counts,
    duty: 0.5,
    dutyExact: '1/2',
    steps: counts,
    bits: Math.log2(counts),
    stepS: countHz.inverse().valueOf(),
    cpu: (input.fastest.valueOf() * interruptCycles(part.cpu)) / cpuHz.valueOf(),
    reach: { min: 0, max: 1 },
    wave: {
      periodTicks: period,
      tickS: result.tickHz.inverse().valueOf(),
      countS: countHz.inverse().valueOf(),
      clockS: 1 / clockHz.valueOf(),
      rise: 0,
      fall: Math.round(period / 2),
    },
    wanted: { periodS: input.fastest.inverse().valueOf(), duty: 0.5 },
  };
}

/** What a setting that drives a pin, or ticks, gives. */
function evaluateOutput(placed: PlacedSetting): Omit<SignalEvaluation, keyof Common> {
  const { part, path, signal, setting, drive, requirement, clockHz, outcome: result } = placed;
  const { cycle } = result;
  const near = requirement.frequency.kind === 'near' ? requirement.frequency.ideal : undefined;
  const load = signalLoad(part, signal, motionOf(result));
  const span = spanReport(part, path, setting, requirement);
  return {
    ...(span ? { span } : {}),
    ...(load ? { load } : {}),
    ...(near ? { errorPpm: result.frequency.div(near).sub(1).mul(1000000).valueOf() } : {}),
    duty: result.duty.valueOf(),
    dutyExact: exactText(result.duty),
    steps: result.steps,
    bits: result.bits,
    stepS: result.stepTicks / result.tickHz.valueOf(),
    cpu: sentShare(placed) ?? result.cpu,
    reach: { min: result.reach.min.valueOf(), max: result.reach.max.valueOf() },
    wave: {
      periodTicks: cycle.periodTicks,
      tickS: result.tickHz.inverse().valueOf(),
      countS: drive.countTicks(part, setting) / clockHz.valueOf(),
      clockS: 1 / clockHz.valueOf(),
      ...('spread' in cycle.edges ? {} : cycle.edges),
    },
    wanted: {
      ...(near ? { periodS: near.inverse().valueOf() } : {}),
      duty: requirement.duty.ideal.valueOf(),
    },
  };
}

/** What every setting has, whatever it is for. */
type Common = Pick<
  SignalEvaluation,
  | 'setting'
  | 'place'
  | 'frequencyHz'
  | 'frequencyExact'
  | 'jitterS'
  | 'ladder'
  | 'registers'
  | 'checks'
  | 'slips'
>;

/** The outcome of one setting against one signal's target. @throws SettingError when the part cannot do the setting. */
export function evaluateSetting(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  setting: Setting,
): SignalEvaluation {
  const placed = placedSetting(part, path, signal, setting);
  const { requirement, clockHz, tolerancePpm, cpuHz, outcome } = placed;
  const own =
    requirement.input && isInput(setting) ? evaluateInput(placed, requirement.input) : evaluateOutput(placed);
  return {
    ...own,
    setting,
    place: settingPlace(placed),
    frequencyHz: outcome.frequency.valueOf(),
    frequencyExact: exactText(outcome.frequency),
    jitterS: outcome.jitterS,
    ladder: plainLadder(placed),
    registers: settingRegisters(part, setting, clockSetUpWrites(part, path, [setting])),
    checks: checksOf(placed),
    slips: slipsOf(part, setting, requirement, clockHz, tolerancePpm, cpuHz, outcome),
  };
}
