import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import type { PlanSignal } from '../plan/plan.ts';
import type { Setting } from '../timer/setting.ts';
import { codeSequence } from './code-sequence.ts';
import { sendingAlone } from './send.ts';
import { checksAlone } from './signal-checks.ts';

/** Whether the program makes all of a signal with a setting: its sequence and its bits, no other signal on its timer. */
function delivers(part: Part, path: ClockPath, signal: PlanSignal, setting: Setting): boolean {
  const sequence = codeSequence(part, path, signal, setting, true);
  if (sequence && 'reason' in sequence) return false;
  const sending = sendingAlone(part, path, { signal, setting });
  return !(sending && 'reason' in sending);
}

/** Whether a setting passes every check of a signal by itself that another setting could pass, and the program makes all of it. */
export function passesAlone(part: Part, path: ClockPath, signal: PlanSignal, setting: Setting): boolean {
  const checks = checksAlone(part, path, signal, setting);
  return (
    checks.every(({ verdict, fixed }) => verdict === 'pass' || fixed) && delivers(part, path, signal, setting)
  );
}
