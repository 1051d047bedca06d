import { clockOf, type ClockPath } from '../../clock/path.ts';
import { timerPins } from '../../part/find.ts';
import type { Part } from '../../part/types.ts';
import type { Exact } from '../../quantity/exact.ts';
import { compareForShare } from '../../timer/count.ts';
import { delayLoopOutcome, softwareOutcome } from '../../timer/outcome-software.ts';
import type { Outcome } from '../../timer/outcome.ts';
import {
  isTopChannel,
  type DelayLoopSetting,
  type SoftwarePwmSetting,
  type InterruptDriven,
  type InterruptPairSetting,
  type Setting,
} from '../../timer/setting.ts';
import type { Requirement } from '../../signal/requirement.ts';
import type { Candidate } from '../candidate.ts';
import {
  divideRuns,
  runFor,
  softwareStepsFor,
  interruptSources,
  type InterruptSource,
} from './interrupt-sources.ts';

/** Interrupts that take more of the processor than this are not offered. */
const MAX_CPU = 0.5;

/** Where only a least frequency is asked for, so much above it, for oscillators that are slow. */
const ABOVE_MIN = 1.01;

/** What a software drive is judged with. */
type Judge = { part: Part; requirement: Requirement; cpuHz: Exact; wantedHz: number };

function within(value: Exact, low: Exact, high: Exact | undefined): boolean {
  return value.compare(low) >= 0 && (high === undefined || value.compare(high) <= 0);
}

/** A software setting as a candidate, judged against its goal. */
export function softwareCandidate(requirement: Requirement, setting: Setting, outcome: Outcome): Candidate {
  const { frequency } = requirement;
  const near = frequency.kind === 'near';
  const meetsDuty = requirement.width
    ? within(outcome.duty.div(outcome.frequency), requirement.width.low, requirement.width.high)
    : within(outcome.duty, requirement.duty.low, requirement.duty.high);
  const inTime = within(outcome.frequency, frequency.low, near ? frequency.high : undefined);
  const steady = requirement.jitterS === undefined || outcome.jitterS <= requirement.jitterS;
  return {
    setting,
    periodTicks: outcome.cycle.periodTicks,
    frequencyHz: outcome.frequency.valueOf(),
    errorPpm: near ? outcome.frequency.div(frequency.ideal).sub(1).mul(1000000).valueOf() : 0,
    duty: outcome.duty.valueOf(),
    dutyError: outcome.duty.sub(requirement.duty.ideal).valueOf(),
    steps: outcome.steps,
    bits: outcome.bits,
    stepS: outcome.stepTicks / outcome.tickHz.valueOf(),
    meets: inTime && meetsDuty && steady && outcome.steps >= requirement.minSteps && outcome.cpu <= 1,
    meetsDuty,
    cpu: outcome.cpu,
    jitterS: outcome.jitterS,
  };
}

/** The interrupts of one ticker, every so many of them a toggle of the pin, or a tick. */
function interruptSettings(
  source: InterruptSource,
  wantedHz: number,
  pin: string | undefined,
): InterruptDriven[] {
  const changes = pin === undefined ? 1 : 2;
  return divideRuns(source, wantedHz * changes, MAX_CPU).map(({ counter, postscale, divider }) => ({
    drive: 'interrupt',
    ...counter,
    ...(pin === undefined ? {} : { pin }),
    ...(postscale > 1 ? { postscale } : {}),
    divider,
  }));
}

function softwarePwmSettings(
  source: InterruptSource,
  { requirement, wantedHz }: Judge,
  pin: string,
): SoftwarePwmSetting[] {
  const share = requirement.duty.ideal.valueOf();
  return softwareStepsFor(requirement).flatMap((divider) => {
    const counter = runFor(source, wantedHz * divider, MAX_CPU, requirement.frequency.kind === 'min');
    if (!counter) return [];
    return [
      { drive: 'software-pwm' as const, ...counter, pin, divider, compare: Math.round(share * divider) },
    ];
  });
}

function interruptPairSettings(
  source: InterruptSource,
  { requirement, wantedHz }: Judge,
  pin: string,
): InterruptPairSetting[] {
  const { timer, mode } = source;
  if (mode.count !== 'up' || mode.top.kind === 'reload' || mode.top.kind === 'moved') return [];
  const channel = timer.channels.find(
    ({ id, interrupt }) => interrupt && id !== mode.tick && !isTopChannel(mode, id),
  );
  if (!channel) return [];
  const counter = runFor(source, wantedHz, MAX_CPU / 2, requirement.frequency.kind === 'min');
  if (!counter) return [];
  const compare = compareForShare(mode, counter.top, requirement.duty.ideal.valueOf());
  return [{ drive: 'interrupt-pair', ...counter, channel: channel.id, pin, compare }];
}

/** Passes of the delay loop for a period: the nearest whole number, or as many as are still fast enough. */
function delayLoopSettings({ part, requirement, cpuHz, wantedHz }: Judge, pin: string): DelayLoopSetting[] {
  const passes = cpuHz.valueOf() / (part.cpu.loopCycles * wantedHz);
  const top = requirement.frequency.kind === 'min' ? Math.floor(passes) : Math.round(passes);
  if (top < 2 || top > 2 ** 31) return [];
  return [{ drive: 'delay-loop', pin, top, compare: Math.round(requirement.duty.ideal.valueOf() * top) }];
}

/** The pin for a software drive: the wanted one, else one that no timer could drive, else any the program can. */
function softwarePinFor(
  part: Part,
  wanted: string | undefined,
  taken: ReadonlySet<string>,
): string | undefined {
  const able = part.pins.filter((pin) => pin.software).map((pin) => pin.id);
  if (wanted !== undefined) return able.includes(wanted) ? wanted : undefined;
  const driven = new Set(timerPins(part));
  const free = able.filter((pin) => !taken.has(pin));
  return free.find((pin) => !driven.has(pin)) ?? free[0] ?? able[0];
}

/**
 * Settings in which interrupts or a delay loop make the signal, for each timer that can interrupt: toggles and ticks
 * with the front of least processor time and least error, counted pins, pairs of interrupts, and the delay loop.
 */
export function softwareFit(
  part: Part,
  path: ClockPath,
  requirement: Requirement,
  pin?: string,
  taken: ReadonlySet<string> = new Set(),
): Candidate[] {
  const cpuHz = clockOf(path, part.cpu.clock);
  const { frequency } = requirement;
  const wantedHz =
    frequency.kind === 'near' ? frequency.ideal.valueOf() : frequency.low.valueOf() * ABOVE_MIN;
  const judge: Judge = { part, requirement, cpuHz, wantedHz };
  const place = requirement.pin ? softwarePinFor(part, pin, taken) : undefined;
  if (
    (requirement.pin && place === undefined) ||
    requirement.alsoWidths ||
    requirement.span?.of === 'frequency'
  )
    return [];
  const sources = interruptSources(part, path);
  const judged = sources.flatMap((source) => {
    const settings: InterruptDriven[] =
      place === undefined
        ? interruptSettings(source, wantedHz, undefined)
        : [
            ...(requirement.frequency.kind === 'near' ? interruptSettings(source, wantedHz, place) : []),
            ...softwarePwmSettings(source, judge, place),
            ...interruptPairSettings(source, judge, place),
          ];
    return settings.map((setting) =>
      softwareCandidate(requirement, setting, softwareOutcome(part, setting, source.clockHz, cpuHz)),
    );
  });
  const waiting = place === undefined ? [] : delayLoopSettings(judge, place);
  return [
    ...judged,
    ...waiting.map((setting) =>
      softwareCandidate(requirement, setting, delayLoopOutcome(part, setting, cpuHz)),
    ),
  ];
}
