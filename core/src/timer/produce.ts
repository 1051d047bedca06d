import type { Exact } from '../quantity/exact.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import { timerOf } from '../part/find.ts';
import type { Part } from '../part/schema.ts';
import type { Outcome } from './outcome.ts';
import { produceCapture } from './capture.ts';
import { produceOutput } from './produce-output.ts';
import { produceBusy, produceSoft } from './produce-soft.ts';
import { isOutput, look, type Setting } from './setting.ts';

/** The clock that decides a setting's frequency: its timer's, or the processor's where the program waits. @throws SettingError */
export function clockNode(part: Part, setting: Setting): string {
  return setting.drive === 'busy' ? part.cpu.clock : look('timer', () => timerOf(part, setting.timer)).clock;
}

/**
 * The exact outcome of any setting.
 * @param clockHz the clock of `clockNode`, in Hz. @param cpuHz the processor's. @throws SettingError when the part cannot do it.
 */
export function produce(part: Part, setting: Setting, clockHz: Exact, cpuHz: Exact = clockHz): Outcome {
  if (isOutput(setting)) return produceOutput(part, setting, clockHz);
  if (setting.drive === 'capture') return produceCapture(part, setting, clockHz);
  return setting.drive === 'busy'
    ? produceBusy(part, setting, clockHz)
    : produceSoft(part, setting, clockHz, cpuHz);
}

/** The exact outcome of a setting under a clock path. @throws SettingError when the part cannot do it. */
export function produceUnder(part: Part, path: ClockPath, setting: Setting): Outcome {
  const clockHz = clockOf(path, clockNode(part, setting));
  return produce(part, setting, clockHz, clockOf(path, part.cpu.clock));
}
