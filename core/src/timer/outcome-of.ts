import type { Exact } from '../quantity/exact.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import { timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import type { Outcome } from './outcome.ts';
import { captureOutcome } from './capture.ts';
import { outputOutcome } from './outcome-output.ts';
import { delayLoopOutcome, softwareOutcome } from './outcome-software.ts';
import { isOutput, look, type Setting } from './setting.ts';

/** The clock that decides a setting's frequency: its timer's, or the processor's where the program waits. @throws SettingError */
export function clockNode(part: Part, setting: Setting): string {
  return setting.drive === 'delay-loop'
    ? part.cpu.clock
    : look('timer', () => timerOf(part, setting.timer)).clock;
}

/**
 * The exact outcome of any setting.
 * @param clockHz the clock of `clockNode`, in Hz. @param cpuHz the processor's. @throws SettingError when the part cannot do it.
 */
export function computeOutcome(
  part: Part,
  setting: Setting,
  clockHz: Exact,
  cpuHz: Exact = clockHz,
): Outcome {
  if (isOutput(setting)) return outputOutcome(part, setting, clockHz);
  if (setting.drive === 'capture') return captureOutcome(part, setting, clockHz);
  return setting.drive === 'delay-loop'
    ? delayLoopOutcome(part, setting, clockHz)
    : softwareOutcome(part, setting, clockHz, cpuHz);
}

/** The exact outcome of a setting under a clock path. @throws SettingError when the part cannot do it. */
export function outcomeUnder(part: Part, path: ClockPath, setting: Setting): Outcome {
  const clockHz = clockOf(path, clockNode(part, setting));
  return computeOutcome(part, setting, clockHz, clockOf(path, part.cpu.clock));
}
