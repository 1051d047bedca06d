import type { ClockPath } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { isOutput } from '../timer/drives/index.ts';
import { fieldWrites, interruptWrites, type FieldWrite } from '../timer/fields.ts';
import { sendingWrites } from '../timer/sending.ts';
import { timerIdOf, type Setting } from '../timer/setting.ts';
import type { Holder } from './conflicts.ts';
import { codeSequence } from './code-sequence.ts';
import { senderOf } from './send.ts';

/** What the code starts a signal with: its setting, low where a sequence or bits come later, and what counts its periods. */
export function startOf(
  part: Part,
  path: ClockPath,
  holder: Holder,
  all: readonly Holder[],
): { setting: Setting; counting: FieldWrite[] } {
  const { signal, setting } = holder;
  const alone = all.filter((other) => timerIdOf(other.setting) === timerIdOf(setting)).length === 1;
  const sequence = codeSequence(part, path, signal, setting, alone);
  if (sequence && 'entries' in sequence && sequence.tick && isOutput(setting)) {
    const counting = fieldWrites(interruptWrites(sequence.tick), { postscale: 1 });
    return sequence.gate
      ? { setting, counting: [...fieldWrites(sequence.gate.off), ...counting] }
      : { setting: { ...setting, compare: sequence.rest }, counting };
  }
  const sender = senderOf(part, path, holder, all);
  if (!sender || 'reason' in sender) return { setting, counting: [] };
  return {
    setting: { ...sender.setting, compare: sender.rest },
    counting: sendingWrites(sender),
  };
}
