import type { Candidate } from '../../src/fit/candidate.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { isOutput } from '../../src/timer/drives/index.ts';

/** A candidate whose setting is an output's. */
export type Hardware = Candidate & { setting: OutputSetting };

/** The candidates that the hardware serves by itself. */
export function hardware(candidates: readonly Candidate[]): Hardware[] {
  return candidates.filter((one): one is Hardware => isOutput(one.setting));
}
