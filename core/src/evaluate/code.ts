import { clockPath } from '../clock/path.ts';
import { cFiles, CodeError, type CodeFile } from '../codegen/c-files.ts';
import type { Part } from '../part/types.ts';
import { pinName } from '../plan/pin-names.ts';
import type { Plan } from '../plan/plan.ts';
import { sentenceText } from '../signal/sentence.ts';
import { evaluatePlan, settingsOf } from './evaluate.ts';

/**
 * The C files of a plan, with the settings of its evaluation.
 * @throws CodeError where settings cannot be one program, or the plan has a conflict.
 */
export function planCode(plan: Plan, part: Part): CodeFile[] {
  const path = clockPath(part, plan.clock);
  const settings = settingsOf(plan, part, path);
  const signals = plan.signals.flatMap((signal) => {
    const setting = settings.get(signal.id);
    return setting
      ? [{ name: signal.name, sentence: sentenceText(signal, (pin) => pinName(plan, pin)), setting }]
      : [];
  });
  const files = cFiles(part, path, plan.name, signals);
  const [conflict] = evaluatePlan(plan, part).conflicts;
  if (conflict) throw new CodeError(conflict.sentence);
  return files;
}
