import { clockPath } from '../clock/path.ts';
import { CodeError, type CodeFile } from '../codegen/c-files.ts';
import { startupNeeds } from '../codegen/clock-lines.ts';
import { buildLines } from '../codegen/main-file.ts';
import { inStyle } from '../part/register-names.ts';
import type { Part } from '../part/types.ts';
import { withoutSignal } from '../plan/edit.ts';
import type { Plan } from '../plan/plan.ts';
import { labelsOf } from '../program/names.ts';
import { planCode, type PlanCodeOptions } from './code.ts';
import { lineMarks, type LineMark } from './code-marks.ts';
import { evaluatePlan, settingsOf } from './evaluate.ts';
import { evaluationMemory, type EvaluationMemory } from './memory.ts';
import { planProgram } from './program.ts';
import { registerRows, type RegisterRow } from './register-rows.ts';

/** A signal that is kept back, with the reason. */
export type KeptBack = { signal: string; name: string; reason: string };

/** All that is handed over of a plan, as it is looked at: files and registers that point at each other and at the signals. */
export type Workspace = {
  /** The files, a minimal main program among them; none where nothing is left that could be one program. */
  files: (CodeFile & { marks: LineMark[] })[];
  /** How they are compiled, as lines of a shell. */
  build: string[];
  registers: RegisterRow[];
  /** What must have been done before the program runs: fuses, configuration bits, clocks, lines of interrupts. */
  before: string[];
  /** What the code does not do of the signals in it. */
  leftOut: string[];
  /** Signals that conflict or fail, which the files and registers here leave out. */
  keptBack: KeptBack[];
  /** Why there are no files all the same. */
  fault?: string;
};

/** The plan without the signals that stand in a conflict or fail a check, and those with their reasons. */
function passing(plan: Plan, part: Part, memory: EvaluationMemory): { plan: Plan; keptBack: KeptBack[] } {
  const { conflicts, failures } = evaluatePlan(plan, part, memory);
  const reasons = new Map<string, string>();
  for (const { signals, sentence } of conflicts)
    for (const id of signals) if (!reasons.has(id)) reasons.set(id, sentence);
  for (const { signal, text } of failures)
    if (signal !== undefined && !reasons.has(signal)) reasons.set(signal, text);
  const keptBack = plan.signals.flatMap(({ id, name }): KeptBack[] => {
    const reason = reasons.get(id);
    return reason === undefined ? [] : [{ signal: id, name, reason }];
  });
  return { plan: keptBack.reduce((rest, { signal }) => withoutSignal(rest, signal), plan), keptBack };
}

/**
 * What is handed over of a plan: its files with a minimal main program, its registers field by field, and which line belongs to which.
 * Signals that conflict or fail are kept back and named; everything else is there.
 */
export function planWorkspace(
  plan: Plan,
  part: Part,
  options: PlanCodeOptions,
  memory: EvaluationMemory = evaluationMemory(),
): Workspace {
  const { plan: able, keptBack } = passing(plan, part, memory);
  const nothing = { files: [], build: [], registers: [], before: [], leftOut: [], keptBack };
  if (able.signals.length === 0) return nothing;
  const path = clockPath(part, able.clock);
  const settings = settingsOf(able, part, path, memory);
  const { signals } = planProgram(able, part, path, settings);
  const registers = registerRows(part, evaluatePlan(able, part, memory));
  const needs = startupNeeds(part, path, signals);
  const before = [
    ...needs.fixed,
    ...(options.startUp === true ? [] : [...needs.clocks, ...needs.interrupts]),
  ];
  try {
    const { files: all, leftOut } = planCode(able, part, { ...options, main: true }, memory);
    const labels = labelsOf(signals).map((label, at) => ({ label, signal: able.signals[at]?.id ?? '' }));
    const styled = inStyle(part, options.registers ?? 'own');
    return {
      files: all.map((file) => ({ ...file, marks: lineMarks(styled, file, registers, labels) })),
      build: buildLines(part, all),
      registers,
      before,
      leftOut,
      keptBack,
    };
  } catch (error) {
    if (error instanceof CodeError) return { ...nothing, registers, before, fault: error.message };
    throw error;
  }
}
