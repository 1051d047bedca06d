import { registerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { fieldBits } from '../timer/fields.ts';

/** How a field is called: its register and its own name; one that C could not write has no name. */
function nameOf(register: string, field: string): string | undefined {
  return /^\w+$/.test(field) ? `${register}_${field}` : undefined;
}

function bitsOf(part: Part, register: string, field: string): { shift: number; highest: number } {
  const { shift, mask } = fieldBits(registerOf(part, register), field);
  return { shift, highest: mask / 2 ** shift };
}

/** A field of a register with a number or an expression in it, as the code writes it: "TCON_RUN_BIT", "TCON_DIV_FIELD(3u)"; undefined without a name. */
export function fieldTerm(
  part: Part,
  register: string,
  field: string,
  value: number | string,
): string | undefined {
  const name = nameOf(register, field);
  if (name === undefined) return undefined;
  if (bitsOf(part, register, field).highest === 1) return value === 1 ? `${name}_BIT` : undefined;
  return `${name}_FIELD(${typeof value === 'number' ? `${value}u` : value})`;
}

/** All bits of a field. */
export function fieldMask(part: Part, register: string, field: string): string | undefined {
  return fieldTerm(part, register, field, bitsOf(part, register, field).highest);
}

/** Whether a word of the code names a field of a register. */
export function namesField(word: string, register: string, field: string): boolean {
  return word === `${register}_${field}_BIT` || word === `${register}_${field}_FIELD`;
}

/** Definitions of the fields that a text uses. */
export function fieldDefinitions(part: Part, text: string): string[] {
  const words = new Set(text.match(/\b\w+_(?:BIT|FIELD)\b/g));
  if (words.size === 0) return [];
  return part.registers.flatMap((register) =>
    Object.keys(register.fields).flatMap((field) => {
      const name = `${register.name}_${field}`;
      const { shift, highest } = bitsOf(part, register.name, field);
      if (words.has(`${name}_BIT`))
        return [`#define ${name}_BIT 0x${(2 ** shift).toString(16).toUpperCase()}u`];
      if (!words.has(`${name}_FIELD`)) return [];
      return highest === 1 ? [] : [`#define ${name}_FIELD(n) ${shift === 0 ? '(n)' : `((n) << ${shift})`}`];
    }),
  );
}

/** Columns that a line of code may have before it is continued on the next. */
const COLUMNS = 110;

/** Lines that are too long, continued before an operator. */
export function continued(text: string): string {
  return text
    .split('\n')
    .flatMap((line) => {
      const lines: string[] = [];
      let rest = line;
      const indent = ' '.repeat(line.length - line.trimStart().length + 8);
      while (rest.length > COLUMNS && /_(?:BIT|FIELD)\b/.test(rest)) {
        const at = Math.max(rest.lastIndexOf(' | ', COLUMNS), rest.lastIndexOf(' & ~', COLUMNS));
        if (at <= indent.length) break;
        lines.push(rest.slice(0, at));
        rest = `${indent}${rest.slice(at + 1)}`;
      }
      return [...lines, rest];
    })
    .join('\n');
}
