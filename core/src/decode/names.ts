import type { Part, Register } from '../part/types.ts';
import { CodeFault, KnownLater, valueOf, type Calls, type Names } from './expression.ts';
import { registerNamed } from './places.ts';
import { macroCall, macroValue, pinBit } from './symbols.ts';
import type { ProgramText } from './syntax.ts';
import { variablesIn } from './variables.ts';

/** What names stand for at a place of a program; `locals` are the arguments of the call, undefined where only the running program knows. */
export type Scope = { names: Names; calls: Calls; locals: ReadonlyMap<string, bigint | undefined> };

/** A definition that stands for a register by its address. */
function isPlace(text: string): boolean {
  return /^\(*\*\s*\(/.test(text);
}

/** Definitions within definitions are followed so far. */
const DEEPEST = 20;

function fieldNamed({ fields }: Register, name: string): readonly [number, number] | undefined {
  return Object.hasOwn(fields, name) ? fields[name] : undefined;
}

/**
 * What a name of the part stands for in an expression: a field of the register that is written (its lowest bit), a pin of its
 * port, a field of any other register, REGISTER_FIELD, a register's value, or a macro of the headers.
 */
function partName(
  part: Part,
  register: Register | undefined,
  values: ReadonlyMap<string, number>,
  name: string,
): bigint | undefined {
  const number = (value: number | undefined): bigint | undefined =>
    value === undefined ? undefined : BigInt(value);
  if (register) {
    const own = fieldNamed(register, name);
    if (own) return BigInt(own[1]);
    const stem = `${register.name}_`;
    const combined = name.startsWith(stem) ? fieldNamed(register, name.slice(stem.length)) : undefined;
    if (combined) return BigInt(combined[1]);
    const pin = pinBit(register, name);
    if (pin !== undefined) return BigInt(pin);
  }
  const other = part.registers.find((one) => Object.hasOwn(one.fields, name));
  if (other) return number(other.fields[name]?.[1]);
  const whole = registerNamed(part, name);
  return whole ? number(values.get(whole.name) ?? whole.reset) : macroValue(part, register, name);
}

/** A left side with the definition of its first name put in place, as often as there is one: "#define LAMP_PORT PORTB". */
export function targetOf(part: Part, { defines }: ProgramText, target: string): string {
  let text = target.trim();
  for (let depth = 0; depth < DEEPEST; depth += 1) {
    const [name = ''] = /^[A-Za-z_]\w*/.exec(text) ?? [];
    const define = defines.get(name);
    if (!define || define.parameters || define.text === '' || registerNamed(part, name)) return text;
    const own = define.text.replace(/^\((.*)\)$/s, '$1').trim();
    text = `${own}${text.slice(name.length)}`;
  }
  return text;
}

/** A left side whose indexes by names are numbers: "slice[SLICE]" with "#define SLICE 3". */
export function indexed({ defines, enums }: ProgramText, target: string): string {
  return target.replace(/\[ ?([A-Za-z_]\w*) ?\]/g, (whole, name: string) => {
    const text = defines.get(name)?.text ?? enums.get(name) ?? '';
    const [, number] = /^\(?(\d+)[uU]?\)?$/.exec(text.trim()) ?? [];
    return number === undefined ? whole : `[${number}]`;
  });
}

/** What names of a program stand for, by the register that is written and the arguments of the function that runs. */
export function namesIn(
  part: Part,
  program: ProgramText,
  values: ReadonlyMap<string, number>,
): (register: Register | undefined, locals: Scope['locals']) => Scope {
  const { defines, enums } = program;
  let variables: ReturnType<typeof variablesIn> = { declared: new Set(), constants: new Map() };

  const scopeAt = (register: Register | undefined, locals: Scope['locals'], depth: number): Scope => {
    const within = (body: string, own: Scope['locals']): bigint => {
      if (depth >= DEEPEST) throw new CodeFault('Definitions that go round in a circle.');
      const inner = scopeAt(register, own, depth + 1);
      return valueOf(body, inner.names, inner.calls);
    };
    const names: Names = (name) => {
      if (locals.has(name)) {
        const value = locals.get(name);
        if (value === undefined) throw new KnownLater();
        return value;
      }
      const constant = variables.constants.get(name);
      if (constant !== undefined) return constant;
      const define = defines.get(name);
      if (define && !define.parameters && define.text !== '' && !isPlace(define.text))
        return within(define.text, locals);
      const one = enums.get(name);
      if (one !== undefined) return within(one, locals);
      const value = partName(part, register, values, name);
      if (value === undefined && variables.declared.has(/^\w+/.exec(name)?.[0] ?? '')) throw new KnownLater();
      return value;
    };
    const calls: Calls = (name, given) => {
      const define = defines.get(name);
      if (define?.parameters)
        return within(define.text, new Map(define.parameters.map((one, at) => [one, given[at]])));
      const [first] = given;
      return first === undefined ? undefined : macroCall(part, register, name, first);
    };
    return { names, calls, locals };
  };

  const none: Scope['locals'] = new Map();
  // Registers of the part are no constants: what a variable takes from one is known only as the program runs.
  const { names, calls } = scopeAt(undefined, none, 0);
  const defined = (name: string): boolean => defines.has(name) || enums.has(name);
  variables = variablesIn(program.plain, {
    names: (name) => (defined(name) ? names(name) : undefined),
    calls,
  });
  return (register, locals) => scopeAt(register, locals, 0);
}
