import { clockOf, type ClockPath } from '../clock/path.ts';
import { timerPins } from '../part/find.ts';
import type { Part } from '../part/schema.ts';
import type { Exact } from '../quantity/exact.ts';
import { compareForShare } from '../timer/count.ts';
import { produceBusy, produceSoft } from '../timer/produce-soft.ts';
import type { Outcome } from '../timer/outcome.ts';
import {
  isTopChannel,
  type BusySetting,
  type CountedSetting,
  type InterruptDriven,
  type PairSetting,
  type Setting,
} from '../timer/setting.ts';
import type { Goal } from '../target/goal.ts';
import type { Candidate } from './candidate.ts';
import { divideRuns, runFor, softStepsFor, tickersOf, type Ticker } from './tickers.ts';

/** Interrupts that take more of the processor than this are not offered. */
const MOST_CPU = 0.5;

/** Where only a least frequency is asked for, so much above it, for oscillators that are slow. */
const ABOVE_LEAST = 1.01;

/** What a software drive is judged with. */
type Judge = { part: Part; goal: Goal; cpuHz: Exact; wantedHz: number };

function within(value: Exact, low: Exact, high: Exact | undefined): boolean {
  return value.compare(low) >= 0 && (high === undefined || value.compare(high) <= 0);
}

/** A software setting as a candidate, judged against its goal. */
export function softCandidate(goal: Goal, setting: Setting, outcome: Outcome): Candidate {
  const { frequency } = goal;
  const near = frequency.kind === 'near';
  const meetsDuty = goal.width
    ? within(outcome.duty.div(outcome.frequency), goal.width.low, goal.width.high)
    : within(outcome.duty, goal.duty.low, goal.duty.high);
  const inTime = within(outcome.frequency, frequency.low, near ? frequency.high : undefined);
  const steady = goal.jitterS === undefined || outcome.jitterS <= goal.jitterS;
  return {
    setting,
    periodTicks: outcome.cycle.periodTicks,
    frequencyHz: outcome.frequency.valueOf(),
    errorPpm: near ? outcome.frequency.div(frequency.ideal).sub(1).mul(1000000).valueOf() : 0,
    duty: outcome.duty.valueOf(),
    dutyError: outcome.duty.sub(goal.duty.ideal).valueOf(),
    steps: outcome.steps,
    bits: outcome.bits,
    stepS: outcome.stepTicks / outcome.tickHz.valueOf(),
    meets: inTime && meetsDuty && steady && outcome.steps >= goal.minSteps && outcome.cpu <= 1,
    meetsDuty,
    cpu: outcome.cpu,
    jitterS: outcome.jitterS,
  };
}

/** The interrupts of one ticker, every so many of them a toggle of the pin, or a tick. */
function interruptSettings(ticker: Ticker, wantedHz: number, pin: string | undefined): InterruptDriven[] {
  const changes = pin === undefined ? 1 : 2;
  return divideRuns(ticker, wantedHz * changes, MOST_CPU).map(({ counter, postscale, divider }) => ({
    drive: 'interrupt',
    ...counter,
    ...(pin === undefined ? {} : { pin }),
    ...(postscale > 1 ? { postscale } : {}),
    divider,
  }));
}

function countedSettings(ticker: Ticker, { goal, wantedHz }: Judge, pin: string): CountedSetting[] {
  const share = goal.duty.ideal.valueOf();
  return softStepsFor(goal).flatMap((divider) => {
    const counter = runFor(ticker, wantedHz * divider, MOST_CPU, goal.frequency.kind === 'least');
    if (!counter) return [];
    return [{ drive: 'counted' as const, ...counter, pin, divider, compare: Math.round(share * divider) }];
  });
}

function pairSettings(ticker: Ticker, { goal, wantedHz }: Judge, pin: string): PairSetting[] {
  const { timer, mode } = ticker;
  if (mode.count !== 'up' || mode.top.kind === 'reload' || mode.top.kind === 'moved') return [];
  const channel = timer.channels.find(
    ({ id, interrupt }) => interrupt && id !== mode.tick && !isTopChannel(mode, id),
  );
  if (!channel) return [];
  const counter = runFor(ticker, wantedHz, MOST_CPU / 2, goal.frequency.kind === 'least');
  if (!counter) return [];
  const compare = compareForShare(mode, counter.top, goal.duty.ideal.valueOf());
  return [{ drive: 'pair', ...counter, channel: channel.id, pin, compare }];
}

/** Passes of the delay loop for a period: the nearest whole number, or as many as are still fast enough. */
function busySettings({ part, goal, cpuHz, wantedHz }: Judge, pin: string): BusySetting[] {
  const passes = cpuHz.valueOf() / (part.cpu.loopCycles * wantedHz);
  const top = goal.frequency.kind === 'least' ? Math.floor(passes) : Math.round(passes);
  if (top < 2 || top > 2 ** 31) return [];
  return [{ drive: 'busy', pin, top, compare: Math.round(goal.duty.ideal.valueOf() * top) }];
}

/** The pin for a software drive: the wanted one, else one that no timer could drive, else any the program can. */
function softPin(part: Part, wanted: string | undefined, taken: ReadonlySet<string>): string | undefined {
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
export function softFit(
  part: Part,
  path: ClockPath,
  goal: Goal,
  pin?: string,
  taken: ReadonlySet<string> = new Set(),
): Candidate[] {
  const cpuHz = clockOf(path, part.cpu.clock);
  const { frequency } = goal;
  const wantedHz =
    frequency.kind === 'near' ? frequency.ideal.valueOf() : frequency.low.valueOf() * ABOVE_LEAST;
  const judge: Judge = { part, goal, cpuHz, wantedHz };
  const place = goal.pin ? softPin(part, pin, taken) : undefined;
  if ((goal.pin && place === undefined) || goal.alsoWidths || goal.span?.of === 'frequency') return [];
  const tickers = tickersOf(part, path);
  const judged = tickers.flatMap((ticker) => {
    const settings: InterruptDriven[] =
      place === undefined
        ? interruptSettings(ticker, wantedHz, undefined)
        : [
            ...(goal.frequency.kind === 'near' ? interruptSettings(ticker, wantedHz, place) : []),
            ...countedSettings(ticker, judge, place),
            ...pairSettings(ticker, judge, place),
          ];
    return settings.map((setting) =>
      softCandidate(goal, setting, produceSoft(part, setting, ticker.clockHz, cpuHz)),
    );
  });
  const waiting = place === undefined ? [] : busySettings(judge, place);
  return [
    ...judged,
    ...waiting.map((setting) => softCandidate(goal, setting, produceBusy(part, setting, cpuHz))),
  ];
}
