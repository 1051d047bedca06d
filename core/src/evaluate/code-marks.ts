import type { CodeFile } from '../codegen/c-files.ts';
import { namesField } from '../codegen/field-names.ts';
import { registerName } from '../part/register-names.ts';
import type { Part } from '../part/types.ts';
import type { RegisterRow } from './register-rows.ts';

/** A line of a generated file, from 1, with the registers that it names and the signals that it serves. */
export type LineMark = { line: number; registers: string[]; signals: string[] };

/** Lines that only name things: remarks and definitions. */
const NAMING = /^\s*(?:\/\*|\*|#|\/\/)/;

/** Parts of a line that are words of C, with the arrow and the dot of a structure. */
const WORDS = /[A-Za-z_]\w*(?:(?:->|\.)[A-Za-z_]\w*)*/g;

/** Where the functions that set everything up end a line's way to its signal: what their names begin with, by signal. */
type Labels = readonly { label: string; signal: string }[];

function labelled(word: string, labels: Labels): string | undefined {
  const own = labels.filter(({ label }) => word === label || word.startsWith(`${label}_`));
  own.sort((one, other) => other.label.length - one.label.length);
  return own[0]?.signal;
}

/** The registers that words name, by themselves or by one of their fields. */
function rowsNamed(
  words: readonly string[],
  rows: readonly RegisterRow[],
  byName: ReadonlyMap<string, RegisterRow>,
): RegisterRow[] {
  const own = words.flatMap((word) => byName.get(word) ?? []);
  const byField = rows.filter((row) =>
    row.fields.some(({ name }) => words.some((word) => namesField(word, row.name, name))),
  );
  return [...new Set([...own, ...byField])];
}

/**
 * The lines of a file that name registers of a plan or belong to one of its signals, by what is written there. A register that several
 * signals share marks a line for those of them whose fields it names; for all of them if it names none.
 */
export function lineMarks(
  part: Part,
  file: CodeFile,
  rows: readonly RegisterRow[],
  labels: Labels,
): LineMark[] {
  const byName = new Map(rows.map((row) => [registerName(part, row.name), row]));
  return file.text.split('\n').flatMap((text, at): LineMark[] => {
    if (NAMING.test(text)) return [];
    const words = text.match(WORDS) ?? [];
    const named = rowsNamed(words, rows, byName);
    const signals = new Set(words.flatMap((word) => labelled(word, labels) ?? []));
    for (const row of named) {
      const mentioned = row.fields.filter(({ name }) =>
        words.some((word) => word === name || namesField(word, row.name, name)),
      );
      const own = mentioned.flatMap((field) => field.signals);
      for (const id of own.length > 0 ? own : row.signals) signals.add(id);
    }
    const registers = [...new Set(named.map(({ name }) => name))];
    return registers.length > 0 || signals.size > 0
      ? [{ line: at + 1, registers, signals: [...signals] }]
      : [];
  });
}
