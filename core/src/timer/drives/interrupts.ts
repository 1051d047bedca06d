import type { ClockPath } from '../../clock/path.ts';
import { clockOf } from '../../clock/path.ts';
import { divisionRange, type Division } from '../../part/division.ts';
import { timerOf } from '../../part/find.ts';
import type { Channel, Interrupt, Mode, Part, Pin, SoftwarePin, Timer, Writes } from '../../part/types.ts';
import { ratio, type Exact } from '../../quantity/exact.ts';
import type { Requirement } from '../../signal/requirement.ts';
import { grainOf } from '../count.ts';
import { counterNumbers, interruptWrites, type Numbers } from '../fields.ts';
import { highTicksOf, type Cycle, type Outcome } from '../outcome.ts';
import { clockRungs, prescalerRung, topRung, written, type Rung } from '../rungs.ts';
import { holdTicks, interruptCycles, reloadLatency, runTicks } from '../run.ts';
import { checkTop, look, resolveCounter, SettingError, type Counter } from '../setting.ts';
import { softwarePin, tickOf } from '../tick.ts';
import type { InterruptEvents } from './actions.ts';
import type { AdjustedField, Drive, TimerPlace } from './drive.ts';

/** What all settings have in which a timer interrupts. */
export type InterruptCounter = Counter & { drive: string; pin?: string; postscale?: number };

/** Such a setting with its names resolved against a part. `match` is the second interrupt of a pair. */
export type ResolvedInterrupts = {
  setting: InterruptCounter;
  timer: Timer;
  mode: Mode;
  division: Division;
  tick: Interrupt;
  pin?: Pin & { software: SoftwarePin };
  match?: { channel: Channel; interrupt: Interrupt };
};

/** What the interrupts make of the runs: the cycle of the pin, and how many interrupts a cycle takes. */
export type InterruptShape = { cycle: Cycle; steps: number; reach: Outcome['reach']; interrupts: number };

/** The duty of what is high for half of the time. */
export const HALVES = { min: ratio(1, 2), max: ratio(1, 2) };

/** Where interrupts of a timer can make edges: on any pin of the program, in modes that count up and interrupt once a run. */
export function anyPin(timer: Timer, mode: Mode): TimerPlace[] {
  return mode.count === 'up' && tickOf(timer, mode) && grainOf(mode) === 1 ? [{ outputs: [] }] : [];
}

/** Whether what the program makes with one duty at one frequency can meet a requirement. */
export function keepsDuty({ pin, input, alsoWidths, span }: Requirement): boolean {
  return pin && !input && !alsoWidths && span?.of !== 'frequency';
}

/** A pulse from the start of a cycle. */
export function pulseCycle(periodTicks: number, high: number): Cycle {
  if (high <= 0) return { periodTicks, edges: { level: 0 } };
  if (high >= periodTicks) return { periodTicks, edges: { level: 1 } };
  return { periodTicks, edges: { rise: 0, fall: high } };
}

/** Looks up the timer, its tick and the pin, and checks the numbers of the counter. @throws SettingError */
export function resolveInterrupts(part: Part, setting: InterruptCounter): ResolvedInterrupts {
  const { timer, mode, division } = resolveCounter(part, setting);
  const tick = tickOf(timer, mode);
  if (!tick) throw new SettingError('mode', `${timer.name} has no interrupt once a run in ${mode.name}.`);
  checkTop(setting, timer, mode);
  const pin = setting.pin === undefined ? undefined : softwarePin(part, setting.pin);
  return { setting, timer, mode, division, tick, ...(pin ? { pin } : {}) };
}

/** An outcome out of its shape. */
export function shapeOutcome(
  { cycle, steps, reach }: InterruptShape,
  tickHz: Exact,
  jitterS: number,
  cpu: number,
): Outcome {
  const { periodTicks } = cycle;
  const highTicks = highTicksOf(cycle);
  return {
    cycle,
    tickHz,
    highTicks,
    frequency: tickHz.div(periodTicks),
    duty: ratio(highTicks, periodTicks),
    steps,
    bits: Math.log2(steps),
    stepTicks: periodTicks / steps,
    jitterS,
    reach,
    cpu,
  };
}

/**
 * The exact outcome of interrupts, with nothing else that interrupts; entry and exit shift all edges alike. `shapeOf` is
 * told the ticks of a run and those that an interrupt takes, rounded up.
 * @param clockHz the timer's clock. @param cpuHz the processor's.
 */
export function interruptOutcome(
  part: Part,
  { mode, division, setting }: ResolvedInterrupts,
  clockHz: Exact,
  cpuHz: Exact,
  shapeOf: (run: number, busy: number) => InterruptShape,
): Outcome {
  const tickHz = clockHz.mul(division.scale * grainOf(mode));
  const run = runTicks(mode, division.n, division.scale, setting.top, reloadLatency(part.cpu));
  const cycles = interruptCycles(part.cpu);
  const busy = Math.ceil(tickHz.mul(cycles).div(cpuHz).valueOf());
  const shape = shapeOf(run, busy);
  const perSecond = tickHz.div(shape.cycle.periodTicks).mul(shape.interrupts).valueOf();
  const fraction = division.n % division.scale === 0 ? 0 : 1 / clockHz.valueOf();
  const jitterS = part.cpu.lateCycles / cpuHz.valueOf() + fraction;
  const outcome = shapeOutcome(shape, tickHz, jitterS, (perSecond * cycles) / cpuHz.valueOf());
  const { n, scale } = division;
  if (mode.top.kind !== 'reload' || !mode.top.clears || n <= scale) return outcome;
  return { ...outcome, unsurePpm: (1e6 * (n - scale) * grainOf(mode)) / run };
}

/** The run of a counter that its interrupt reloads: what is left of its width, and the clocks its write holds. */
function reloadRung(part: Part, resolved: ResolvedInterrupts, numbers: Numbers, runHz: Exact): Rung {
  const { timer, mode, division, setting } = resolved;
  const width = 2 ** timer.width;
  const { top } = mode;
  const hold = holdTicks(mode, division.n, division.scale, reloadLatency(part.cpu));
  const register = top.kind === 'reload' ? written(part, top.writes, numbers) : undefined;
  const held =
    hold === 0
      ? ')'
      : division.n === division.scale
        ? `+ ${hold} held )`
        : `), + ${hold / division.scale} clocks held`;
  const range = top.kind === 'reload' ? { min: width - 1 - top.max, max: width - 1 - top.min } : undefined;
  return {
    id: 'reload',
    label: 'Reload by interrupt',
    before: `÷ ( ${width} −`,
    value: width - (setting.top + 1),
    after: held,
    ...(range ? { choices: range } : {}),
    ...(register ? { register } : {}),
    hz: runHz,
  };
}

function postscaleRung({ tick, setting }: ResolvedInterrupts, interruptHz: Exact): Rung[] {
  if (!tick.postscaler) return [];
  return [
    {
      id: 'postscale',
      label: 'Postscaler',
      before: '÷',
      value: setting.postscale ?? 1,
      after: '(interrupts only)',
      choices: divisionRange(tick.postscaler),
      hz: interruptHz,
    },
  ];
}

/** The way from the oscillator to the interrupts, and their rate. `postscaled` where a postscaler may divide them. */
export function interruptRungs(
  part: Part,
  path: ClockPath,
  resolved: ResolvedInterrupts,
  postscaled: boolean,
): { rungs: Rung[]; interruptHz: Exact } {
  const { timer, mode, division, setting } = resolved;
  const clock = clockOf(path, timer.clock);
  const counterHz = clock.mul(division.scale).div(division.n);
  const run = runTicks(mode, division.n, division.scale, setting.top, reloadLatency(part.cpu));
  const runHz = clock.mul(division.scale).mul(grainOf(mode)).div(run);
  const interruptHz = runHz.div(setting.postscale ?? 1);
  const numbers = interruptNumbers(part, setting);
  const counting = { timer, mode, division, setting, numbers };
  const top = topRung(part, counting, counterHz);
  const counted =
    mode.top.kind === 'reload'
      ? reloadRung(part, resolved, numbers, runHz)
      : mode.top.kind === 'moved'
        ? { ...top, label: 'Match moved on by' }
        : top;
  const rungs = [
    ...clockRungs(path, timer.clock),
    prescalerRung(part, counting, counterHz),
    counted,
    ...(postscaled ? postscaleRung(resolved, interruptHz) : []),
  ];
  return { rungs, interruptHz };
}

/** When the interrupts come that a counter makes once a run, or once in so many runs where it has a postscaler. */
export function tickEvents(
  part: Part,
  { tick, mode, timer, division, setting }: ResolvedInterrupts,
): InterruptEvents {
  const { n, scale } = division;
  const run = runTicks(mode, n, scale, setting.top, reloadLatency(part.cpu));
  const every = run * (setting.postscale ?? 1);
  const base = { interrupt: tick, firstTicks: every, everyTicks: every };
  if (mode.top.kind !== 'reload') return base;
  const reload = {
    countTicks: n * grainOf(mode),
    counts: setting.top + 1,
    full: 2 ** timer.width,
    holdTicks: mode.top.hold * scale * grainOf(mode),
    clears: mode.top.clears === true,
  };
  return { ...base, reload };
}

/** The numbers of a counter that interrupts. */
export function interruptNumbers(part: Part, setting: InterruptCounter): Numbers {
  const { top, prescaler, postscale = 1 } = setting;
  return { ...counterNumbers(timerOf(part, setting.timer), top, prescaler), postscale };
}

/** What a setting with interrupts writes. */
export function interruptSettingWrites(resolved: ResolvedInterrupts): Writes {
  const { timer, mode, division, tick, pin, match, setting } = resolved;
  return {
    ...timer.power,
    ...pin?.idle,
    ...pin?.software.output,
    ...mode.writes,
    ...division.writes,
    ...match?.channel.compare,
    ...(mode.top.kind === 'fixed' ? {} : mode.top.writes),
    ...interruptWrites(tick, setting.postscale),
    ...(match ? interruptWrites(match.interrupt) : {}),
  };
}

/** A number of a counter that is reloaded or whose division is changed by hand; the top is the drive's own affair. */
export function adjustCounter<S extends Counter>(
  part: Part,
  setting: S,
  field: AdjustedField,
  value: number,
): S {
  if (field === 'reload') return { ...setting, top: 2 ** timerOf(part, setting.timer).width - 1 - value };
  return { ...setting, [field]: value };
}

/** " on PB0", or nothing for a tick. */
export function onPin({ pin }: { pin?: string }): string {
  return pin === undefined ? '' : ` on ${pin}`;
}

/** What all drives by interrupts have in common. */
export const INTERRUPTS = {
  cause: 'interrupts',
  start: 'cycle',
  clockNode: (part: Part, setting: InterruptCounter) =>
    look('timer', () => timerOf(part, setting.timer)).clock,
  countTicks: (_: Part, setting: InterruptCounter) => setting.prescaler,
  pinWrites: (part: Part, setting: InterruptCounter): Writes =>
    setting.pin === undefined ? {} : softwarePin(part, setting.pin).software.output,
  method: (part: Part, setting: InterruptCounter) => {
    const timer = timerOf(part, setting.timer);
    const mode = timer.modes.find(({ id }) => id === setting.mode)?.name ?? setting.mode;
    return `interrupts of ${timer.name}${onPin(setting)}, ${mode}`;
  },
} as const satisfies Partial<Drive<InterruptCounter>>;
