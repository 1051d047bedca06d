import { EXCLUSIONS } from '../part/exclusion.ts';
import type { Part, Register } from '../part/types.ts';
import { registerOfDevice } from '../part/register-names.ts';
import { singleSpaced } from '../quantity/words.ts';
import { applied, CodeFault, valueOf } from './expression.ts';
import { fieldBits } from '../timer/fields.ts';
import { variablesIn } from './variables.ts';

/** One store to a register, in the order of the text: the value it has afterwards, and the line. */
type Store = { register: string; value: number; line: number };

/** What was read out of a text: the registers as they stand at its end, and how they came to it. */
export type Registers = {
  values: Map<string, number>;
  stores: Store[];
  /** Stores of values that are known only as the program runs: what a register holds in the end is what stood there before. */
  later: Omit<Store, 'value'>[];
  /** Whether the text lets interrupts happen. */
  interruptsAllowed: boolean;
};

/** The longest text that is read. */
const LONGEST = 200_000;

/** What a statement writes to, in a text whose spaces are single. */
const TARGET = /^[A-Za-z_]\w*(?: ?(?:->|\.) ?[A-Za-z_]\w*|\[\d+\])*/;

/** Signs that write, the longest first, and what they are applied as; "=" takes the value alone. */
const ASSIGNMENTS = ['<<=', '>>=', '|=', '&=', '^=', '+=', '-=', '*=', '/=', '%='] as const;

type Assignment = { target: string; operator: string; expression: string };

/** A statement that writes, its target, sign and value apart; undefined where it does not write. */
function assignmentOf(statement: string): Assignment | undefined {
  const target = TARGET.exec(statement)?.[0];
  if (target === undefined) return undefined;
  const rest = statement.slice(target.length).trimStart();
  const counted = rest === '++' || rest === '--' ? rest.charAt(0) : undefined;
  if (counted !== undefined) return { target, operator: counted, expression: '1' };
  const sign = ASSIGNMENTS.find((one) => rest.startsWith(one));
  if (sign) return { target, operator: sign.slice(0, -1), expression: rest.slice(sign.length) };
  return /^=(?!=)/.test(rest) ? { target, operator: '', expression: rest.slice(1) } : undefined;
}

/** "++TCNT1" as "TCNT1++". */
function counting(statement: string): string {
  const sign = /^(?:\+\+|--)/.exec(statement)?.[0];
  return sign === undefined ? statement : `${statement.slice(2).trimStart()}${sign}`;
}

/** Lines that say nothing about registers. */
const PLAIN = /^(#.*|return.*|break|while.*|for.*|if.*|else|do|static.*|volatile.*|extern.*|[{}]*)$/;

function withoutComments(text: string): string {
  const pieces: string[] = [];
  for (let at = 0; at < text.length;) {
    const block = text.startsWith('/*', at);
    if (!block && !text.startsWith('//', at)) {
      const next = text.indexOf('/', at + 1);
      pieces.push(text.slice(at, next < 0 ? text.length : next));
      at = next < 0 ? text.length : next;
      continue;
    }
    const close = text.indexOf(block ? '*/' : '\n', at + 2);
    const end = close < 0 ? text.length : close + (block ? 2 : 0);
    pieces.push(text.slice(at, end).replace(/[^\n]/g, ' '));
    at = end;
  }
  return pieces.join('');
}

/** TIM3->PSC is TIM3_PSC, GPIOB.MODER is GPIOB_MODER. */
function plainName(name: string): string {
  return name.replace(/ ?-> ?/, '_').replace('.', '_');
}

/** Registers by name, whatever the case of its letters. */
function registerNamed(part: Part, name: string): Register | undefined {
  const own = registerOfDevice(part, name.replace(/\s/g, ''));
  const wanted = (own ?? plainName(name)).toLowerCase();
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
  const stem = `${register.name}_`;
  const combined = name.startsWith(stem) ? fieldNamed(register, name.slice(stem.length)) : undefined;
  if (combined) return combined[1];
  const other = part.registers.find((one) => Object.hasOwn(one.fields, name));
  if (other) return other.fields[name]?.[1];
  const whole = registerNamed(part, name);
  return whole && (values.get(whole.name) ?? whole.reset);
}

/** Thrown where a value depends on a variable whose value the text does not tell. */
class KnownLater extends Error {}

function combined(before: bigint, operator: string, value: bigint): bigint {
  return operator === '' ? value : applied(operator, before, value);
}

/** A field written by its own name, "TIM3_CR1.CEN = 1". */
function fieldStore(part: Part, name: string): { register: Register; field: string } | undefined {
  const [first = '', field = ''] = name.split('.');
  const register = registerNamed(part, first);
  return register && Object.hasOwn(register.fields, field) ? { register, field } : undefined;
}

/** A register with one of its fields set, or changed by the sign of an assignment. */
function withField(
  register: Register,
  field: string,
  before: bigint,
  operator: string,
  value: bigint,
): bigint {
  const { shift, mask } = fieldBits(register, field);
  const own = (before & BigInt(mask)) >> BigInt(shift);
  const made = combined(own, operator, value) << BigInt(shift);
  return (before & ~BigInt(mask)) | (made & BigInt(mask));
}

function nearestName(part: Part, name: string): string {
  const stem = plainName(name).slice(0, 4).toLowerCase();
  const like = part.registers.filter((one) => one.name.toLowerCase().startsWith(stem)).slice(0, 4);
  return like.length > 0 ? ` Did you mean ${like.map((one) => one.name).join(', ')}?` : '';
}

/** What a line computes; undefined where only the running program knows it. @throws CodeFault with the line */
function atLine<T>(line: number, compute: () => T): T | undefined {
  try {
    return compute();
  } catch (error) {
    if (error instanceof KnownLater) return undefined;
    if (error instanceof CodeFault) throw new CodeFault(`Line ${line}: ${error.message}`);
    throw error;
  }
}

/** The processor's register that keeps whether interrupts are taken, where it has a name; it decides nothing of a signal. */
function statusRegister({ code }: Part): string | undefined {
  return code.excludes === undefined ? undefined : EXCLUSIONS[code.excludes].register;
}

/**
 * Reads register writes out of C or plain lines: REGISTER = value, |=, &=, ^=, the other
 * assignments of C, ++ and --, with several to a line. Variables that never change are their values. Everything else is passed over. @throws CodeFault with the line, for a register the part does not have or a value that is not understood.
 */
export function readStores(part: Part, text: string): Registers {
  if (text.length > LONGEST) throw new CodeFault('The text is far too long to be a few lines of code.');
  const values = new Map<string, number>();
  const stores: Store[] = [];
  const later: Registers['later'] = [];
  const plain = withoutComments(text);
  const { declared, constants } = variablesIn(plain);
  const named = (register: Register, name: string): number | undefined => {
    const value = constants.get(name) ?? nameValue(part, register, values, name);
    if (value === undefined && declared.has(/^\w+/.exec(name)?.[0] ?? '')) throw new KnownLater();
    return value;
  };
  let line = 1;
  for (const piece of plain.split(/(?<=[;{}\n])/)) {
    const at = line + piece.slice(0, piece.length - piece.trimStart().length).split('\n').length - 1;
    line += piece.split('\n').length - 1;
    const statement = counting(singleSpaced(piece.replace(/[;{}]/g, ' ')));
    if (statement === '' || PLAIN.test(statement)) continue;
    const assignment = assignmentOf(statement);
    if (!assignment) continue;
    const { target: name, operator, expression } = assignment;
    const field = fieldStore(part, name);
    const register = field?.register ?? registerNamed(part, name);
    if (!register) {
      if (!/^[A-Z][A-Z0-9_]{2,}/.test(name) || name === statusRegister(part)) continue;
      throw new CodeFault(
        `Line ${at}: ${part.name} has no register ${plainName(name)}.${nearestName(part, name)}`,
      );
    }
    const before = BigInt(values.get(register.name) ?? register.reset);
    const after = atLine(at, () => {
      const value = valueOf(expression, (one) => named(register, one));
      return field
        ? withField(register, field.field, before, operator, value)
        : combined(before, operator, value);
    });
    if (after === undefined) {
      later.push({ register: register.name, line: at });
      continue;
    }
    const limit = 1n << BigInt(register.width);
    const kept = Number(((after % limit) + limit) % limit);
    values.set(register.name, kept);
    stores.push({ register: register.name, value: kept, line: at });
  }
  const allow = part.code.allow.replace(/[;\s]/g, '');
  const interruptsAllowed = allow !== '' && plain.replace(/[;\s]/g, '').includes(allow);
  return { values, stores, later, interruptsAllowed };
}
