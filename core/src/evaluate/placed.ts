import { clockAt, clockOf, type ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import type { Exact } from '../quantity/exact.ts';
import { requirementOf } from '../signal/requirement-of.ts';
import type { Requirement } from '../signal/requirement.ts';
import {
  driveOf,
  isOutput,
  outcomeUnder,
  resolveSetting,
  type Drive,
  type Resolved,
} from '../timer/drives/index.ts';
import type { Outcome } from '../timer/outcome.ts';
import type { Setting } from '../timer/setting.ts';

/** A signal with its setting, everything looked up once: what all that is said of it starts from. */
export type PlacedSetting = {
  part: Part;
  path: ClockPath;
  signal: PlanSignal;
  setting: Setting;
  drive: Drive;
  requirement: Requirement;
  /** The clock that decides the frequency, in Hz, with its tolerance; and that of the processor. */
  clockHz: Exact;
  tolerancePpm: number;
  cpuHz: Exact;
  outcome: Outcome;
  /** Timer, mode, channel and division, where a timer's own output makes the signal. */
  output?: Resolved;
};

/** Looks everything up of a setting for a signal. @throws SettingError when the part cannot do the setting. */
export function placedSetting(
  part: Part,
  path: ClockPath,
  signal: PlanSignal,
  setting: Setting,
): PlacedSetting {
  const drive = driveOf(setting);
  const { hz: clockHz, tolerancePpm } = clockAt(path, drive.clockNode(part, setting));
  return {
    part,
    path,
    signal,
    setting,
    drive,
    requirement: requirementOf(signal),
    clockHz,
    tolerancePpm,
    cpuHz: clockOf(path, part.cpu.clock),
    outcome: outcomeUnder(part, path, setting),
    ...(isOutput(setting) ? { output: resolveSetting(part, setting) } : {}),
  };
}
