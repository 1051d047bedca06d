import { clockPath } from '../clock/path.ts';
import { cFiles, CodeError, type CodeFile, type CodeOptions } from '../codegen/c-files.ts';
import type { Part } from '../part/types.ts';
import { pinName } from '../plan/pin-names.ts';
import type { Plan, PlanSignal } from '../plan/plan.ts';
import { requirementOf } from '../signal/requirement.ts';
import { sentenceText } from '../signal/sentence.ts';
import { sequenceText } from '../signal/sequence-text.ts';
import { timerIdOf } from '../timer/setting.ts';
import { courseOf } from './course.ts';
import { evaluatePlan, settingsOf } from './evaluate.ts';

/** The files of a plan, and what of the plan they do not do, a sentence each. */
export type PlanCode = { files: CodeFile[]; leftOut: string[] };

/** What the generated code does not do of a signal. */
function leftOutOf(signal: PlanSignal, course: ReturnType<typeof courseOf>): string[] {
  const { name, sequence } = signal;
  const reason = course && 'reason' in course ? course.reason : undefined;
  return [
    ...(sequence && reason !== undefined
      ? [`${name}: its sequence (${sequenceText(sequence)}); the signal runs steadily, since ${reason}.`]
      : []),
    ...(signal.handler?.priority
      ? [
          `${name}: the priority ${signal.handler.priority} of its interrupts; all have the priority that start-up code leaves them.`,
        ]
      : []),
    ...(requirementOf(signal).alsoWidths
      ? [`${name}: sending the bits; the timer repeats one of them until the program writes the next width.`]
      : []),
  ];
}

/**
 * The C files of a plan, with the settings of its evaluation. `allowInterrupts` lets the processor take interrupts at the end of
 * the start; else that is left to the program. `failing` also takes a plan whose checks fail, to count the cycles of its handlers.
 * @throws CodeError where the plan has no signal, a signal has no setting or fails a check, signals are in conflict, or
 * settings cannot be one program: the message names the signal and the reason.
 */
export function planCode(
  plan: Plan,
  part: Part,
  options: Pick<CodeOptions, 'allowInterrupts'> & { failing?: boolean } = {},
): PlanCode {
  const path = clockPath(part, plan.clock);
  const settings = settingsOf(plan, part, path);
  const timers = [...settings.values()].map(timerIdOf);
  const courses = new Map(
    plan.signals.map((signal) => {
      const setting = settings.get(signal.id);
      const alone = timers.filter((timer) => setting && timer === timerIdOf(setting)).length === 1;
      return [signal.id, setting && courseOf(part, path, signal, setting, alone)] as const;
    }),
  );
  const signals = plan.signals.flatMap((signal) => {
    const setting = settings.get(signal.id);
    const course = courses.get(signal.id);
    const { span, input } = requirementOf(signal);
    const sentence = sentenceText(signal, (pin) => pinName(plan, pin));
    const follows = course && 'entries' in course ? { course } : {};
    const more = {
      ...follows,
      ...(span ? { span } : {}),
      ...(input ? { slowestHz: input.slowest.valueOf() } : {}),
    };
    return setting ? [{ name: signal.name, sentence, setting, ...more }] : [];
  });
  const { conflicts, failures } = evaluatePlan(plan, part);
  const [conflict] = conflicts;
  if (conflict) throw new CodeError(conflict.sentence);
  const [failure] = failures;
  if (failure && options.failing !== true) throw new CodeError(`“${failure.name}”: ${failure.text}.`);
  const leftOut = plan.signals.flatMap((signal) => leftOutOf(signal, courses.get(signal.id)));
  return { files: cFiles(part, path, plan.name, signals, { ...options, leftOut }), leftOut };
}
