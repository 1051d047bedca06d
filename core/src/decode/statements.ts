import type { Part, Register } from '../part/types.ts';
import { CodeFault, valueOf } from './expression.ts';
import { placeOf } from '../timer/fields.ts';

/** One store to a register, in the order of the text: the value it has afterwards, and the line. */
export type Store = { register: string; value: number; line: number };

/** What was read out of a text: the registers as they stand at its end, and how they came to it. */
export type Registers = {
  values: Map<string, number>;
  stores: Store[];
  /** Whether the text lets interrupts happen. */
  interruptsAllowed: boolean;
};

/** The longest text that is read. */
const LONGEST = 200_000;

const STATEMENT = /^([A-Za-z_][\w.]*(?:\s*->\s*\w+)?)\s*(\|=|&=|\^=|\+=|<<=|=)\s*(.+)$/s;

/** Lines that say nothing about registers. */
const PLAIN = /^(#.*|return.*|break|while.*|for.*|if.*|else|do|static.*|volatile.*|extern.*|[{}]*)$/;

function withoutComments(text: string): string {
  return text.replace(/\/\*[^]*?\*\//g, (comment) => comment.replace(/[^\n]/g, ' ')).replace(/\/\/.*$/gm, '');
}

/** TIM3->PSC is TIM3_PSC, GPIOB.MODER is GPIOB_MODER. */
function plainName(name: string): string {
  return name.replace(/\s*->\s*/, '_').replace('.', '_');
}

/** Registers by name, whatever the case of its letters. */
function registerNamed(part: Part, name: string): Register | undefined {
  const wanted = plainName(name).toLowerCase();
  return part.registers.find((register) => register.name.toLowerCase() === wanted);
}

function fieldNamed({ fields }: Register, name: string): readonly [number, number] | undefined {
  return Object.hasOwn(fields, name) ? fields[name] : undefined;
}

/**
 * What a name stands for in an expression: a field of the register that is written (its lowest bit), a field of any
 * other, REGISTER_FIELD, or a register's value.
 */
function nameValue(
  part: Part,
  register: Register,
  values: ReadonlyMap<string, number>,
  name: string,
): number | undefined {
  const own = fieldNamed(register, name);
  if (own) return own[1];
  const [, field] = new RegExp(`^${register.name}_(\\w+)$`).exec(name) ?? [];
  const combined = field === undefined ? undefined : fieldNamed(register, field);
  if (combined) return combined[1];
  const other = part.registers.find((one) => Object.hasOwn(one.fields, name));
  if (other) return other.fields[name]?.[1];
  const whole = registerNamed(part, name);
  return whole && (values.get(whole.name) ?? whole.reset);
}

function combined(before: bigint, operator: string, value: bigint): bigint {
  if (operator === '|=') return before | value;
  if (operator === '&=') return before & value;
  if (operator === '^=') return before ^ value;
  if (operator === '+=') return before + value;
  if (operator === '<<=') return before << value;
  return value;
}

/** A field written by its own name, "TIM3_CR1.CEN = 1". */
function fieldStore(part: Part, name: string): { register: Register; field: string } | undefined {
  const [first = '', field = ''] = name.split('.');
  const register = registerNamed(part, first);
  return register && Object.hasOwn(register.fields, field) ? { register, field } : undefined;
}

function nearestName(part: Part, name: string): string {
  const stem = plainName(name).slice(0, 4).toLowerCase();
  const like = part.registers.filter((one) => one.name.toLowerCase().startsWith(stem)).slice(0, 4);
  return like.length > 0 ? ` Did you mean ${like.map((one) => one.name).join(', ')}?` : '';
}

/**
 * Reads register writes out of C or plain lines: REGISTER = value, |=, &=, ^=, with several to a line. Everything else
 * is passed over. @throws CodeFault with the line, for a register the part does not have or a value that is not understood.
 */
export function readStores(part: Part, text: string): Registers {
  if (text.length > LONGEST) throw new CodeFault('The text is far too long to be a few lines of code.');
  const values = new Map<string, number>();
  const stores: Store[] = [];
  const plain = withoutComments(text);
  let line = 1;
  for (const piece of plain.split(/(?<=[;{}\n])/)) {
    const at = line + (/^\s*/.exec(piece)?.[0].split('\n').length ?? 1) - 1;
    line += piece.split('\n').length - 1;
    const statement = piece.replace(/[;{}\s]+$/, '').replace(/^[\s{}]+/, '');
    if (statement === '' || PLAIN.test(statement)) continue;
    const match = STATEMENT.exec(statement);
    if (!match) continue;
    const [, name = '', operator = '', expression = ''] = match;
    const field = fieldStore(part, name);
    const register = field?.register ?? registerNamed(part, name);
    if (!register) {
      if (!/^[A-Z][A-Z0-9_]{2,}/.test(name)) continue;
      throw new CodeFault(
        `Line ${at}: ${part.name} has no register ${plainName(name)}.${nearestName(part, name)}`,
      );
    }
    try {
      const value = valueOf(expression, (one) => nameValue(part, register, values, one));
      const before = BigInt(values.get(register.name) ?? register.reset);
      const limit = 1n << BigInt(register.width);
      let after = combined(before, operator, value);
      if (field) {
        const { shift, mask } = placeOf(register, field.field);
        after = (before & ~BigInt(mask)) | ((value << BigInt(shift)) & BigInt(mask));
      }
      const kept = Number(((after % limit) + limit) % limit);
      values.set(register.name, kept);
      stores.push({ register: register.name, value: kept, line: at });
    } catch (error) {
      if (error instanceof CodeFault) throw new CodeFault(`Line ${at}: ${error.message}`);
      throw error;
    }
  }
  const allow = part.code.allow.replace(/[;\s]/g, '');
  const interruptsAllowed = allow !== '' && plain.replace(/[;\s]/g, '').includes(allow);
  return { values, stores, interruptsAllowed };
}
