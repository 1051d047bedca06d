import { exactText, ratio } from '../quantity/exact.ts';
import { clockAt, clockOf, clockPath, clockPhrase, type ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { checkInput } from '../check/check-input.ts';
import { checkEdges, checkWidth, type Check } from '../check/check.ts';
import { cFiles, type CodeFile } from '../codegen/c-files.ts';
import { fitWithOpposite } from '../fit/complement.ts';
import { fitRequirement, type Drives, type Fit } from '../fit/fit.ts';
import { spanReport, type SpanReport } from '../fit/span.ts';
import { slipsOf, type Slip } from '../slips/setting-slips.ts';
import { printHz } from '../quantity/print.ts';
import { pinName } from '../plan/pin-names.ts';
import { conflictsBetween, type Conflict } from '../resolve/conflicts.ts';
import { timingChecks, phaseChecks } from './timing-checks.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { requirementOf, type Requirement } from '../signal/requirement.ts';
import { compareFor, countsOf, grainOf, highCounts } from '../timer/count.ts';
import type { Cycle, Outcome } from '../timer/outcome.ts';
import { sentenceText } from '../signal/sentence.ts';
import { settingRegisters } from '../timer/encode.ts';
import { interruptCycles } from '../timer/run.ts';
import type { CaptureSetting, Setting } from '../timer/setting.ts';
import { periodicEdges } from '../wave/edges.ts';
import { ladderOf, clockNode, outcomeUnder, isOutput, resolveSetting } from '../timer/drives/index.ts';
import type { Rung } from '../timer/rungs.ts';
import type { RegisterWrite } from '../timer/fields.ts';

/** What a signal's setting really gives, in numbers that can leave the core. */
export type SignalEvaluation = {
  setting: Setting;
  frequencyHz: number;
  frequencyExact: string;
  /** Against the target, in ppm; 0 is exact. Absent where only a least frequency is asked for. */
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
  /** What the setting makes of the target's span, where it has one. */
  span?: SpanReport;
};

/** Periods that checks on a computed trace look at. */
const PERIODS = 8;

/** Counts of a spread cycle that are looked at, at the most. */
const LONGEST_SPREAD = 400_000;

/** Some whole periods; of counts that are spread one cycle, or the first stretch of a very long one. */
function tracedTicks(cycle: Cycle): number {
  if (!('spread' in cycle.edges)) return PERIODS * cycle.periodTicks;
  const { count, whole } = cycle.edges.spread;
  return Math.min(2 * whole, LONGEST_SPREAD) * count;
}

/** The other widths that the same counter must make, each by its nearest compare value. */
function otherWidths(
  part: Part,
  setting: Setting,
  { alsoWidths = [] }: Requirement,
  outcome: Outcome,
): Check[] {
  if (!isOutput(setting)) return [];
  const { mode, timer } = resolveSetting(part, setting);
  const inverted = setting.polarity === 'inverted';
  const whole = countsOf(mode, setting.top) * grainOf(mode);
  return alsoWidths.map((band): Check => {
    const share = band.ideal.mul(outcome.frequency).valueOf();
    const compare = compareFor(mode, setting.top, timer.width, share, inverted);
    const made = ratio(highCounts(mode, setting.top, compare, inverted), whole).div(outcome.frequency);
    return checkWidth(made, band, 'other width');
  });
}

function plainLadder(part: Part, path: ClockPath, setting: Setting): SignalEvaluation['ladder'] {
  return ladderOf(part, path, setting).map((rung) => ({
    ...rung,
    hz: rung.hz.valueOf(),
    hzExact: exactText(rung.hz),
  }));
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
    registers: settingRegisters(part, setting),
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
  if (requirement.input && setting.drive === 'capture') {
    return evaluateInput(part, path, setting, { ...requirement, input: requirement.input }, result);
  }
  const { cycle } = result;
  const trace = periodicEdges(cycle, 0, tracedTicks(cycle));
  const near = requirement.frequency.kind === 'near' ? requirement.frequency.ideal : undefined;
  const span = spanReport(part, path, setting, requirement);
  return {
    ...(span ? { span } : {}),
    setting,
    frequencyHz: result.frequency.valueOf(),
    frequencyExact: exactText(result.frequency),
    ...(near ? { errorPpm: result.frequency.div(near).sub(1).mul(1000000).valueOf() } : {}),
    duty: result.duty.valueOf(),
    dutyExact: exactText(result.duty),
    steps: result.steps,
    bits: result.bits,
    stepS: result.stepTicks / result.tickHz.valueOf(),
    jitterS: result.jitterS,
    cpu: result.cpu,
    reach: { min: result.reach.min.valueOf(), max: result.reach.max.valueOf() },
    wave: {
      periodTicks: cycle.periodTicks,
      tickS: result.tickHz.inverse().valueOf(),
      countS: (setting.drive === 'delay-loop' ? part.cpu.loopCycles : setting.prescaler) / clock.valueOf(),
      clockS: 1 / clock.valueOf(),
      ...('spread' in cycle.edges ? {} : cycle.edges),
    },
    ladder: plainLadder(part, path, setting),
    registers: settingRegisters(part, setting),
    checks: [
      ...checkEdges(trace, requirement, result.tickHz, tolerancePpm, result.steps, result.jitterS),
      ...otherWidths(part, setting, requirement, result),
      ...timingChecks(part, path, signal, setting),
    ],
    slips: slipsOf(part, setting, requirement, clock, tolerancePpm, clockOf(path, part.cpu.clock)),
  };
}

/** All settings for one signal of a plan. */
export function signalFit(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  drives: Drives = 'all',
  taken?: ReadonlySet<string>,
): Fit {
  const requirement = requirementOf(signal);
  const fit = fitRequirement(part, path, requirement, signal.pin, drives, taken);
  return signal.complement ? fitWithOpposite(part, path, requirement, fit, signal.complement) : fit;
}

/** The chosen setting, else the best of the fit; undefined where nothing can serve the signal. */
export function settingFor(part: Part, path: ClockPath, signal: PlanSignal): Setting | undefined {
  return signal.setting ?? signalFit(part, path, signal).candidates[0]?.setting;
}

/** A signal of a plan with its outcome; without one where nothing can serve it. */
export type PlanRow = { signal: PlanSignal; outcome?: SignalEvaluation };

/** A plan as a whole: every signal's outcome, and which of its signals stand in each other's way. */
export type PlanEvaluation = {
  rows: PlanRow[];
  conflicts: (Conflict & { sentence: string })[];
  /** The way from the oscillator to the processor, and what each group of timers runs at. */
  clockLine: string;
};

function clockLine(part: Part, path: ClockPath): string {
  const groups = new Map<string, string[]>();
  for (const timer of part.timers) {
    if (timer.variantOf === undefined && path.clocks.has(timer.clock))
      groups.set(timer.clock, [...(groups.get(timer.clock) ?? []), timer.name]);
  }
  const words = [...groups].map(([node, [first = '', ...more]]) => {
    const others = more.length > 0 ? ` and ${more.length} more` : '';
    return `${first}${others} ${printHz(clockOf(path, node).valueOf())}`;
  });
  return [clockPhrase(path, part.cpu.clock), ...words].join(' → ');
}

/** The outcome of all signals of a plan that fits its part. */
export function evaluatePlan(plan: Plan, part: Part): PlanEvaluation {
  const path = clockPath(part, plan.clock);
  const settings = new Map(plan.signals.map((signal) => [signal.id, settingFor(part, path, signal)]));
  const rows = plan.signals.map((signal): PlanRow => {
    const setting = settings.get(signal.id);
    if (!setting) return { signal };
    const outcome = evaluateSetting(part, path, signal, setting);
    const other = plan.signals.find(({ id }) => id === signal.phase?.to);
    const placed = other && settings.get(other.id);
    const to = other && placed ? { signal: other, setting: placed } : undefined;
    const checks = [...outcome.checks, ...phaseChecks(part, path, { signal, setting }, to)];
    return { signal, outcome: { ...outcome, checks } };
  });
  const holders = rows.flatMap(({ signal, outcome }) =>
    outcome ? [{ signal, setting: outcome.setting }] : [],
  );
  return {
    rows,
    clockLine: clockLine(part, path),
    conflicts: conflictsBetween(part, plan, holders).map((one) => ({
      ...one,
      sentence: `${one.title} ${one.text}`,
    })),
  };
}

/** The C files of a plan. @throws CodeError when its settings cannot be one program. */
export function planCode(plan: Plan, part: Part): CodeFile[] {
  const path = clockPath(part, plan.clock);
  const signals = plan.signals.flatMap((signal) => {
    const setting = settingFor(part, path, signal);
    return setting
      ? [{ name: signal.name, sentence: sentenceText(signal, (pin) => pinName(plan, pin)), setting }]
      : [];
  });
  return cFiles(part, path, plan.name, signals);
}
