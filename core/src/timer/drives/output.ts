import { ratio, type Exact } from '../../quantity/exact.ts';
import { clockOf, type ClockPath } from '../../clock/path.ts';
import { channelOf, modeOf, pinOf, timerOf } from '../../part/find.ts';
import type { Mode, Part, Timer, Writes } from '../../part/types.ts';
import { printNumber } from '../../quantity/print.ts';
import { grainOf } from '../count.ts';
import { counterNumbers, encodedWrites, outsideSequence, type Numbers } from '../fields.ts';
import { highTicksOf, pulsesOf, type Cycle, type Outcome } from '../outcome.ts';
import { clockRungs, prescalerRung, topRung, type Rung } from '../rungs.ts';
import { look, topRange, type OutputDrive, type OutputSetting } from '../setting.ts';
import type { Drive, Movable, TimerPlace } from './drive.ts';
import { resolveSetting, type Resolved } from './output-setting.ts';
import { COUNT, COUNTER, ID, optional } from './setting-fields.ts';

/** One clock for a divider with a fraction; one count where the counts are spread. */
function jitterOf({ mode, division }: Pick<Resolved, 'mode' | 'division'>, clockHz: Exact): number {
  const fraction = division.n % division.scale === 0 ? 0 : 1 / clockHz.valueOf();
  const count = mode.pwm?.spread ? division.n / division.scale / clockHz.valueOf() : 0;
  return fraction + count;
}

/**
 * The exact outcome of a periodic output. Up-counter: f = clk / (prescaler x (top + base)), base being 1
 * nearly everywhere; up-down counter: f = clk / (2 x prescaler x (top + base)), base mostly 0; a toggled output has half
 * of that.
 * @param clockHz the clock that feeds the timer, in Hz.
 */
export function cycleOutcome(
  { mode, division }: Resolved,
  cycle: Cycle,
  clockHz: Exact,
  steps: number,
  reach: Outcome['reach'],
): Outcome {
  const tickHz = clockHz.mul(division.scale * grainOf(mode));
  const highTicks = highTicksOf(cycle);
  return {
    cycle,
    tickHz,
    highTicks,
    frequency: tickHz.mul(Math.max(1, pulsesOf(cycle))).div(cycle.periodTicks),
    duty: ratio(highTicks, cycle.periodTicks),
    steps,
    bits: Math.log2(steps),
    stepTicks: cycle.periodTicks / steps,
    jitterS: jitterOf({ mode, division }, clockHz),
    reach,
    cpu: 0,
  };
}

function outputNumbers(part: Part, setting: OutputSetting): Numbers {
  const { top, prescaler, compare, complement, begin } = setting;
  return {
    ...counterNumbers(timerOf(part, setting.timer), top, prescaler),
    compare,
    match: compare - top,
    ...(begin === undefined ? {} : { begin }),
    ...(complement && complement.channel === undefined ? { dead: complement.deadTicks } : {}),
  };
}

/** The compare value of the channel that makes the opposite. */
function secondCompare(part: Part, timer: Timer, second: OutputSetting | undefined): Writes {
  return second ? encodedWrites(channelOf(timer, second.channel).compare, outputNumbers(part, second)) : {};
}

function outputWrites(part: Part, setting: OutputSetting): Writes {
  const { timer, mode, channel, output, division, opposite } = resolveSetting(part, setting);
  const pin = pinOf(part, setting.pin);
  const other = opposite && pinOf(part, opposite.pin);
  return {
    ...timer.power,
    ...pin.idle,
    ...pin.enable,
    ...mode.writes,
    ...division.writes,
    ...output.writes,
    ...other?.idle,
    ...other?.enable,
    ...opposite?.writes,
    ...channel.compare,
    ...secondCompare(part, timer, opposite?.second),
    ...(mode.top.kind === 'fixed' ? {} : mode.top.writes),
    ...(setting.begin && timer.counter !== undefined ? { [timer.counter]: { of: 'begin' } } : {}),
  };
}

/** The rungs that all outputs have: the oscillator, the prescaler and the top. */
export function outputRungs(part: Part, path: ClockPath, setting: OutputSetting): Rung[] {
  const resolved = resolveSetting(part, setting);
  const { division, timer } = resolved;
  const counterHz = clockOf(path, timer.clock).mul(division.scale).div(division.n);
  const counting = { ...resolved, numbers: outputNumbers(part, setting) };
  return [
    ...clockRungs(path, timer.clock),
    prescalerRung(part, counting, counterHz),
    topRung(part, counting, counterHz),
  ];
}

/** A top that can move by single counts: a greater one is a lower frequency. */
export function movableTop(part: Part, setting: { timer: string; mode: string }): { frequency?: Movable } {
  const mode = modeOf(timerOf(part, setting.timer), setting.mode);
  if (mode.top.kind === 'power' || mode.top.kind === 'fixed') return {};
  return { frequency: { field: 'top', ...topRange(mode), falling: true } };
}

/** "TIM3 CH3 on PB0": a channel of a timer and its pin. */
export function channelPlace(part: Part, setting: { timer: string; channel: string; pin: string }): string {
  return `${timerOf(part, setting.timer).name} ${setting.channel} on ${setting.pin}`;
}

/** "fast-icr ÷ 64, top 15 624". */
export function counterText(setting: {
  mode: string;
  prescaler: number;
  top: number;
  begin?: number;
}): string {
  const from = setting.begin ? `, from ${printNumber(setting.begin)}` : '';
  return `${setting.mode} ÷ ${setting.prescaler}, top ${printNumber(setting.top)}${from}`;
}

/** The outputs of a timer that a drive has in a mode, one for each channel and pin. */
export function outputPlaces(drive: OutputDrive, timer: Timer, mode: Mode): TimerPlace[] {
  const able = mode[drive]?.channels ?? [];
  return timer.channels
    .filter(({ id }) => able.includes(id))
    .flatMap(({ id: channel, outputs }) => {
      const own = outputs.filter((output) => output.drive === drive);
      const pins = [...new Set(own.map(({ pin }) => pin))];
      return pins.map((pin) => ({ channel, pin, outputs: own.filter((output) => output.pin === pin) }));
    });
}

/** What the two drives by a timer's own output have in common. */
export const OUTPUT = {
  cause: 'output',
  divides: false,
  interruptsPerRun: 0,
  fields: {
    timer: ID,
    mode: ID,
    channel: ID,
    pin: ID,
    polarity: optional({ is: 'choice', choices: ['normal', 'inverted'] }),
    ...COUNTER,
    compare: COUNT,
  },
  check: (part: Part, setting: OutputSetting) => {
    resolveSetting(part, setting);
  },
  clockNode: (part: Part, setting: OutputSetting) => look('timer', () => timerOf(part, setting.timer)).clock,
  countTicks: (_: Part, setting: OutputSetting) => setting.prescaler,
  numbers: outputNumbers,
  writes: outputWrites,
  pinWrites: (part: Part, setting: OutputSetting): Writes => {
    const { output, timer, opposite } = resolveSetting(part, setting);
    return { ...outsideSequence(timer, output.writes), ...outsideSequence(timer, opposite?.writes ?? {}) };
  },
  handlers: () => [],
  means: (setting: OutputSetting) => setting.channel,
  numbersText: counterText,
  method: (part: Part, setting: OutputSetting) => {
    const timer = timerOf(part, setting.timer);
    const by = setting.complement?.channel === undefined ? '' : ` by ${setting.complement.channel}`;
    const opposite = setting.complement ? `, its opposite${by} on ${setting.complement.pin}` : '';
    const mode = modeOf(timer, setting.mode).name;
    return `${timer.name}, ${setting.channel} on ${setting.pin}${opposite}, ${mode}`;
  },
  place: channelPlace,
} as const satisfies Partial<Drive<OutputSetting>>;
