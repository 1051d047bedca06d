import { structuredPatch } from 'diff';
import { CodeError, type CodeFile } from '../codegen/c-files.ts';
import type { Plan } from '../plan/plan.ts';
import type { Part } from '../part/types.ts';
import { placeText } from '../timer/drives/index.ts';
import { planCode } from '../evaluate/code.ts';

/** A line of a file that goes, comes or stays, with its number in the new file where it is there. */
type ChangedLine = { kind: 'gone' | 'new' | 'same'; text: string; at?: number };

/** What becomes of one generated file: pieces of changed lines with what stands around them. */
export type FileChange = { name: string; gone: number; came: number; pieces: ChangedLine[][] };

/** What changes from one plan to another that was made of it. */
export type PlanChange = {
  places: { signal: string; name: string; before?: string; after?: string }[];
  code: FileChange[];
  /** Why there is no code before or after the change, if so. */
  noCode?: { before?: string; after?: string };
};

/** Unchanged lines that are shown around a change. */
const AROUND = 2;

const KINDS: Record<string, ChangedLine['kind']> = { '-': 'gone', '+': 'new', ' ': 'same' };

function fileChange(name: string, before: string, after: string): FileChange {
  const { hunks } = structuredPatch(name, name, before, after, '', '', { context: AROUND });
  const pieces = hunks.map(({ newStart, lines }) => {
    let at = newStart;
    return lines.flatMap((line): ChangedLine[] => {
      const kind = KINDS[line.charAt(0)];
      if (kind === undefined) return [];
      const text = line.slice(1);
      if (kind === 'gone') return [{ kind, text }];
      at += 1;
      return [{ kind, text, at: at - 1 }];
    });
  });
  const count = (kind: ChangedLine['kind']): number =>
    pieces.reduce((sum, lines) => sum + lines.filter((line) => line.kind === kind).length, 0);
  return { name, gone: count('gone'), came: count('new'), pieces };
}

/** What becomes of generated files, line by line; files without a change are left out. */
export function codeChange(before: readonly CodeFile[], after: readonly CodeFile[]): FileChange[] {
  const names = [...new Set([...after, ...before].map(({ name }) => name))];
  const textOf = (files: readonly CodeFile[], name: string): string =>
    files.find((file) => file.name === name)?.text ?? '';
  return names
    .map((name) => fileChange(name, textOf(before, name), textOf(after, name)))
    .filter(({ pieces }) => pieces.length > 0);
}

function codeOrFault(plan: Plan, part: Part): { files: CodeFile[]; fault?: string } {
  try {
    return { files: planCode(plan, part).files };
  } catch (error) {
    if (error instanceof CodeError) return { files: [], fault: error.message };
    throw error;
  }
}

/** What changes from a plan on its part to another, perhaps on another part: where each signal is, and the code. */
export function planChange(before: Plan, beforeOn: Part, after: Plan, afterOn: Part): PlanChange {
  const settingsOf = ({ signals }: Plan) => new Map(signals.map(({ id, setting }) => [id, setting]));
  const [old, next] = [settingsOf(before), settingsOf(after)];
  const names = new Map([...before.signals, ...after.signals].map(({ id, name }) => [id, name]));
  const [own, their] = [codeOrFault(before, beforeOn), codeOrFault(after, afterOn)];
  const faults = {
    ...(own.fault === undefined ? {} : { before: own.fault }),
    ...(their.fault === undefined ? {} : { after: their.fault }),
  };
  return {
    places: [...names].map(([signal, name]) => {
      const [was, is] = [old.get(signal), next.get(signal)];
      return {
        signal,
        name,
        ...(was ? { before: placeText(beforeOn, was) } : {}),
        ...(is ? { after: placeText(afterOn, is) } : {}),
      };
    }),
    code: codeChange(own.files, their.files),
    ...(Object.keys(faults).length > 0 ? { noCode: faults } : {}),
  };
}
