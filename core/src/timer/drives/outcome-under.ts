import { clockOf, type ClockPath } from '../../clock/path.ts';
import type { Part } from '../../part/types.ts';
import type { Exact } from '../../quantity/exact.ts';
import type { Outcome } from '../outcome.ts';
import type { Setting } from '../setting.ts';
import { driveOf } from './drive.ts';

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
  return driveOf(setting).outcome(part, setting, clockHz, cpuHz);
}

/** The clock that decides a setting's frequency: its timer's, or the processor's where the program waits. @throws SettingError */
export function clockNode(part: Part, setting: Setting): string {
  return driveOf(setting).clockNode(part, setting);
}

/** The exact outcome of a setting under a clock path. @throws SettingError when the part cannot do it. */
export function outcomeUnder(part: Part, path: ClockPath, setting: Setting): Outcome {
  const clockHz = clockOf(path, clockNode(part, setting));
  return computeOutcome(part, setting, clockHz, clockOf(path, part.cpu.clock));
}
