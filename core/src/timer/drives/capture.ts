import { ratio } from '../../quantity/exact.ts';
import { clockOf } from '../../clock/path.ts';
import type { Division } from '../../part/division.ts';
import { modeOf, pinOf, timerOf } from '../../part/find.ts';
import type { CaptureUnit, CaptureInput, Interrupt, Mode, Part, Timer } from '../../part/types.ts';
import { countsOf, grainOf } from '../count.ts';
import { counterNumbers, interruptWrites, outsideSequence } from '../fields.ts';
import { clockRungs, prescalerRung, topRung } from '../rungs.ts';
import { look, resolveCounter, SettingError, topRange, type CaptureSetting } from '../setting.ts';
import type { Drive } from './drive.ts';
import { COUNTER, ID } from './setting-fields.ts';
import { channelPlace, counterText } from './output.ts';

/** A capture setting with its names resolved against a part. */
type ResolvedCapture = {
  setting: CaptureSetting;
  timer: Timer;
  mode: Mode;
  division: Division;
  capture: CaptureUnit;
  input: CaptureInput;
};

/**
 * Looks up every name of a capture setting and checks its numbers: the counter runs through its whole width, so that
 * the difference of two counts is the time between two edges. @throws SettingError with the field at fault.
 */
function resolveCapture(part: Part, setting: CaptureSetting): ResolvedCapture {
  const { timer, mode, division } = resolveCounter(part, setting);
  const capture = timer.captures?.find((one) => one.id === setting.channel);
  if (!capture) throw new SettingError('channel', `${timer.name} has no capture input ${setting.channel}.`);
  if (capture.mode !== mode.id) {
    throw new SettingError('mode', `${capture.name} captures in ${capture.mode}, not in ${mode.id}.`);
  }
  const { max } = topRange(mode);
  if (setting.top !== max) {
    throw new SettingError(
      'top',
      `A counter that is captured runs to ${max}; ${setting.top} is not possible.`,
    );
  }
  const input = capture.inputs.find((one) => one.pin === setting.pin);
  if (!input) {
    const pins = capture.inputs.map((one) => one.pin).join(', ');
    throw new SettingError('pin', `${capture.name} listens to ${pins}, not to ${setting.pin}.`);
  }
  return { setting, timer, mode, division, capture, input };
}

/** The interrupt at the end of a run, without which two edges that lie more than a run apart look like near ones. @throws SettingError */
function overflowOf({ name, interrupts }: Timer): Interrupt {
  if (!interrupts.overflow)
    throw new SettingError('timer', `${name} has no interrupt at the end of its run, which captures need.`);
  return interrupts.overflow;
}

/** Counts in a run of the counter that is captured. */
function captureCounts({ mode, setting }: ResolvedCapture): number {
  return setting.top + mode.base;
}

/**
 * The timer copies its count at each rising edge of an input, and the interrupt takes the difference: a period. Its run
 * is the longest period between two edges (`frequency` the slowest signal), a count the finest difference. The pin itself
 * is not driven.
 */
export const capture: Drive<CaptureSetting> = {
  id: 'capture',
  name: 'input capture',
  short: 'capture',
  cause: 'input',
  duty: 'none',
  divides: false,
  interruptsPerRun: 0,
  start: 'cycle',
  fields: { timer: ID, mode: ID, channel: ID, pin: ID, ...COUNTER },
  places: (timer, mode) =>
    (timer.captures ?? [])
      .filter((one) => one.mode === mode.id)
      .flatMap(({ id, inputs }) => inputs.map(({ pin }) => ({ channel: id, pin, outputs: [] }))),
  canMeet: ({ input }) => input !== undefined,
  runsPerPeriod: () => 1,
  check: (part, setting) => {
    resolveCapture(part, setting);
  },
  outcome: (part, setting, clockHz) => {
    const resolved = resolveCapture(part, setting);
    const { mode, division } = resolved;
    const tickHz = clockHz.mul(division.scale).mul(grainOf(mode));
    const run = countsOf(mode, setting.top) * grainOf(mode) * division.n;
    const steps = captureCounts(resolved);
    return {
      cycle: { periodTicks: run, edges: { level: 0 } },
      tickHz,
      highTicks: 0,
      frequency: tickHz.div(run),
      duty: ratio(0, 1),
      steps,
      bits: Math.log2(steps),
      stepTicks: run / steps,
      jitterS: division.n % division.scale === 0 ? 0 : 1 / clockHz.valueOf(),
      reach: { min: ratio(0, 1), max: ratio(0, 1) },
      cpu: 0,
    };
  },
  clockNode: (part, setting) => look('timer', () => timerOf(part, setting.timer)).clock,
  countTicks: (_, setting) => setting.prescaler,
  numbers: (part, { timer, top, prescaler }) => counterNumbers(timerOf(part, timer), top, prescaler),
  writes: (part, setting) => {
    const { timer, mode, division, input, capture: own } = resolveCapture(part, setting);
    return {
      ...timer.power,
      ...pinOf(part, setting.pin).idle,
      ...mode.writes,
      ...division.writes,
      ...(mode.top.kind === 'fixed' ? {} : mode.top.writes),
      ...input.writes,
      ...interruptWrites(own.interrupt),
      ...interruptWrites(overflowOf(timer)),
    };
  },
  pinWrites: (part, setting) => {
    const { input, timer } = resolveCapture(part, setting);
    return outsideSequence(timer, input.writes);
  },
  ladder: (part, path, setting) => {
    const resolved = resolveCapture(part, setting);
    const { timer, division } = resolved;
    const counterHz = clockOf(path, timer.clock).mul(division.scale).div(division.n);
    const counting = { ...resolved, numbers: capture.numbers(part, setting) };
    const run = topRung(part, counting, counterHz);
    delete run.choices;
    return [
      ...clockRungs(path, timer.clock),
      prescalerRung(part, counting, counterHz),
      { ...run, label: 'Slowest: a whole run' },
    ];
  },
  // The overflow comes once a run; when an edge comes, the input decides.
  events: (part, setting) => {
    const { timer, mode, division } = resolveCapture(part, setting);
    const run = countsOf(mode, setting.top) * grainOf(mode) * division.n;
    return [{ interrupt: overflowOf(timer), firstTicks: run, everyTicks: run }];
  },
  handlers: (part, setting) => {
    const resolved = resolveCapture(part, setting);
    const { capture: own, timer } = resolved;
    const counts = captureCounts(resolved);
    const overflow = overflowOf(timer);
    const measure = {
      do: 'measure',
      registers: own.value,
      width: timer.width,
      counts,
      overflow: overflow.flag,
    } as const;
    return [
      { interrupt: own.interrupt, keepsRunning: false, actions: [measure] },
      { interrupt: overflow, keepsRunning: false, actions: [{ do: 'lapse', measure, edge: own.interrupt }] },
    ];
  },
  adjust: (_, setting, __, field, value) => ({ ...setting, [field]: value }),
  movable: () => ({}),
  means: (setting) => setting.channel,
  numbersText: counterText,
  method: (part, setting) => {
    const timer = timerOf(part, setting.timer);
    const mode = modeOf(timer, setting.mode).name;
    return `${timer.name}, capture ${setting.channel} on ${setting.pin}, ${mode}`;
  },
  place: channelPlace,
};
