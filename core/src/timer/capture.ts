import { ratio, type Exact } from '../quantity/exact.ts';
import type { Division } from '../part/division.ts';
import type { Capture, CaptureInput, Mode, Part, Timer } from '../part/types.ts';
import { grainOf } from './count.ts';
import type { Outcome } from './outcome.ts';
import { runTicks } from './run.ts';
import { resolveCounter, SettingError, topRange, type CaptureSetting } from './setting.ts';

/** A capture setting with its names resolved against a part. */
export type ResolvedCapture = {
  setting: CaptureSetting;
  timer: Timer;
  mode: Mode;
  division: Division;
  capture: Capture;
  input: CaptureInput;
};

/**
 * Looks up every name of a capture setting and checks its numbers: the counter runs through its whole width, so that
 * the difference of two counts is the time between two edges. @throws SettingError with the field at fault.
 */
export function resolveCapture(part: Part, setting: CaptureSetting): ResolvedCapture {
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

/** Counts in a run of the counter that is captured. */
export function captureCounts({ mode, setting }: ResolvedCapture): number {
  return setting.top + mode.base;
}

/**
 * What a captured counter can tell: its run is the longest period between two edges (`frequency` the slowest signal),
 * a count the finest difference. The pin itself is not driven.
 * @param clockHz the timer's clock. @throws SettingError when the part cannot do it.
 */
export function captureOutcome(part: Part, setting: CaptureSetting, clockHz: Exact): Outcome {
  const resolved = resolveCapture(part, setting);
  const { mode, division } = resolved;
  const tickHz = clockHz.mul(division.scale).mul(grainOf(mode));
  const run = runTicks(mode, division.n, division.scale, setting.top, 0);
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
}
