import { clockPath } from '../clock/path.ts';
import { cFiles, CodeError, type CodeFile, type CodeOptions } from '../codegen/c-files.ts';
import { mainFile } from '../codegen/main-file.ts';
import { interruptsIn } from '../part/find.ts';
import { inStyle, type RegisterStyle } from '../part/register-names.ts';
import type { Part } from '../part/types.ts';
import type { Plan } from '../plan/plan.ts';
import { evaluatePlan, settingsOf } from './evaluate.ts';
import { evaluationMemory, type EvaluationMemory } from './memory.ts';
import { priorityWrites } from './priorities.ts';
import { planProgram } from './program.ts';

/** The files of a plan, and what of the plan they do not do, a sentence each. */
export type PlanCode = { files: CodeFile[]; leftOut: string[] };

/** What a user chooses of the code: `startUp` adds functions for the start-up, `registers` says whose names registers have. */
export type PlanCodeOptions = Pick<CodeOptions, 'allowInterrupts' | 'startUp' | 'unverified'> & {
  registers?: RegisterStyle;
  /** Whether a minimal main program comes with it. */
  main?: boolean;
};

/** Why there is no code on demand for the start-up of a part; undefined where there is. */
export function noStartUpCode(part: Part): string | undefined {
  const { name, bringUp, code } = part;
  if (Array.isArray(bringUp) || interruptsIn(part).some(({ route }) => route !== undefined)) return undefined;
  if (typeof bringUp === 'string') return `${name}: no code for its clocks, since ${bringUp}.`;
  return code.setsClock
    ? `${name}: init sets the clocks in any case.`
    : `${name}: its data has no steps that bring its clocks up.`;
}

/**
 * The C files of a plan, with the settings of its evaluation. `allowInterrupts` lets the processor take interrupts at the end of
 * the start; else that is left to the program. `failing` also takes a plan whose checks fail, to count the cycles of its handlers.
 * @throws CodeError where code for the start-up is wanted and the part has none, the plan has no signal, a signal has no setting or fails a check, signals are in conflict, or
 * settings cannot be one program: the message names the signal and the reason.
 */
export function planCode(
  plan: Plan,
  part: Part,
  options: PlanCodeOptions & { failing?: boolean } = {},
  memory: EvaluationMemory = evaluationMemory(),
): PlanCode {
  const refusal = options.startUp === true ? noStartUpCode(part) : undefined;
  if (refusal !== undefined) throw new CodeError(refusal);
  const path = clockPath(part, plan.clock);
  const settings = settingsOf(plan, part, path, memory);
  const holders = plan.signals.flatMap((signal) => {
    const setting = settings.get(signal.id);
    return setting ? [{ signal, setting }] : [];
  });
  const { signals, leftOut: left } = planProgram(plan, part, path, settings);
  const { conflicts, failures } = evaluatePlan(plan, part, memory);
  const [conflict] = conflicts;
  if (conflict) throw new CodeError(conflict.sentence);
  const [failure] = failures;
  if (failure && options.failing !== true)
    throw new CodeError(`“${failure.name}”: ${failure.text.replace(/\.$/, '')}.`);
  const leftOut = left.map(({ text }) => text);
  const styled = inStyle(part, options.registers ?? 'own');
  const files = cFiles(styled, path, plan.name, signals, {
    ...options,
    priorities: priorityWrites(part, path, holders),
    leftOut,
  });
  const main = options.main === true ? [mainFile(styled, plan.name, signals, options)] : [];
  return { files: [...files, ...main], leftOut };
}
