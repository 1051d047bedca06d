import { EXCLUSIONS } from '../part/exclusion.ts';
import type { Part, Register } from '../part/types.ts';
import { singleSpaced } from '../quantity/words.ts';
import { fieldBits } from '../timer/fields.ts';
import { applied, CodeFault, KnownLater, valueOf } from './expression.ts';
import { indexed, namesIn, targetOf, type Scope } from './names.ts';
import { placeNamed, plainName, type Place } from './places.ts';
import { programText, type FunctionText, type ProgramText, type Simple, type Step } from './syntax.ts';

/** One store to a register, in the order of the text: the value it has afterwards, and the line. */
type Store = { register: string; value: number; line: number };

/** A statement that was left out, and why, as a sentence without its line. */
export type Skipped = { line: number; text: string; why: string };

/** What a handler writes: a register, how, and the value where the text tells it. */
export type HandlerStore = { register: string; operator: string; value?: bigint; line: number };

/** A handler of the text, by the vector that its head names, with what it writes. */
export type HandlerText = { vector: string; line: number; stores: HandlerStore[] };

/** What was read out of a text: the registers as they stand once it has run, and how they came to it. */
export type Registers = {
  values: Map<string, number>;
  stores: Store[];
  /** Stores of values that are known only as the program runs: what a register holds in the end is what stood there before. */
  later: Omit<Store, 'value'>[];
  /** Whether the text lets interrupts happen. */
  interruptsAllowed: boolean;
  /** Statements that may write a register and are not understood. */
  skipped: Skipped[];
  /** Stores in a loop or under a condition that the text does not decide: taken once, as if it held. */
  once: { line: number; where: 'loop' | 'condition' }[];
  handlers: HandlerText[];
  /** Lines that hold anything but comments. */
  lines: number;
};

/** The longest text that is read. */
const LONGEST = 200_000;

/** No more statements are run, calls included. */
const MOST_STEPS = 20_000;

/** Calls within calls are followed so far. */
const DEEPEST = 12;

/** What a statement writes to: a name with its parts, an address behind a cast, or a macro with an address. */
const TARGET =
  /^(?:\*\s*\([^()]*\)\s*(?:\([^()]*\)|\w+)|(?:HWREG|REG32|REG16|REG8|_SFR_\w+|_MMIO_\w+)\s*\([^()]*\)|[A-Za-z_]\w*(?: ?(?:->|\.) ?[A-Za-z_]\w*|\[\w+\])*)/;

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

/** Functions of libraries for one bit of a register, and whether they set it. */
const BIT_FUNCTIONS = new Map([
  ['bitSet', true],
  ['sbi', true],
  ['BIT_SET', true],
  ['bitClear', false],
  ['cbi', false],
  ['BIT_CLEAR', false],
]);

/** Such functions as assignments: "bitSet(TCCR1B, CS11)". */
function bitFunction(statement: string): string {
  const open = statement.indexOf('(');
  const [name, list] = [statement.slice(0, Math.max(0, open)).trim(), statement.slice(open + 1)];
  if (!BIT_FUNCTIONS.has(name) || !list.endsWith(')')) return statement;
  const [place = '', bit = ''] = argumentsIn(list.slice(0, -1));
  return BIT_FUNCTIONS.get(name) === true ? `${place} |= 1 << (${bit})` : `${place} &= ~(1 << (${bit}))`;
}

function combined(before: bigint, operator: string, value: bigint): bigint {
  return operator === '' ? value : applied(operator, before, value);
}

/** A register with one of its fields or bytes set, or changed by the sign of an assignment. */
function written({ register, field, byte }: Place, before: bigint, operator: string, value: bigint): bigint {
  if (field === undefined && byte === undefined) return combined(before, operator, value);
  const { shift, mask } =
    field === undefined
      ? { shift: (byte ?? 0) * 8, mask: 0xff * 256 ** (byte ?? 0) }
      : fieldBits(register, field);
  const own = (before & BigInt(mask)) >> BigInt(shift);
  const made = combined(own, operator, value) << BigInt(shift);
  return (before & ~BigInt(mask)) | (made & BigInt(mask));
}

function nearestName(part: Part, name: string): string {
  const stem = plainName(name).slice(0, 4).toLowerCase();
  const like = part.registers.filter((one) => one.name.toLowerCase().startsWith(stem)).slice(0, 4);
  return like.length > 0 ? ` Did you mean ${like.map((one) => one.name).join(', ')}?` : '';
}

/** The processor's register that keeps whether interrupts are taken, where it has a name; it decides nothing of a signal. */
function statusRegister({ code }: Part): string | undefined {
  return code.excludes === undefined ? undefined : EXCLUSIONS[code.excludes].register;
}

/** Registers of inputs, which decide nothing of a timer. */
const INPUTS = /^PIN[A-L]$/;

/** Functions that come before others, and those that come after them, by their names. */
const FIRST = /(?:^|_)(?:clocks?|init|setup|begin|config\w*)$|(?:Init|Setup|Begin|Config)$/;
const LAST = /(?:^|_)(?:start|enable|run|on)$|(?:Start|Enable|Run|On)$/;

/** Functions that undo what others do, by their names; a program of which only the parts are pasted does not end with them. */
const UNDOING = /(?:^|_)(?:stop|off|disable|deinit|halt|sleep|end)$|(?:Stop|Off|Disable|End)$/;

class Reader {
  readonly result: Registers;
  private steps = 0;
  /** Whether stores are only looked at, not made: in a function that the text does not call. */
  private dry = false;
  /** Registers that are stored whatever a condition says: what one of them gets under a condition comes later, if at all. */
  private readonly settled = new Set<string>();
  private readonly functions: ReadonlyMap<string, FunctionText>;
  private readonly part: Part;
  private readonly program: ProgramText;
  private readonly scopeOf: (register: Register | undefined, locals: Scope['locals']) => Scope;

  constructor(part: Part, program: ProgramText) {
    this.part = part;
    this.program = program;
    this.functions = new Map(program.functions.map((one) => [one.name, one]));
    this.result = {
      values: new Map(),
      stores: [],
      later: [],
      interruptsAllowed: false,
      skipped: [],
      once: [],
      handlers: [],
      lines: program.lines,
    };
    this.scopeOf = namesIn(part, program, this.result.values);
  }

  /** Runs steps in order; `where` says whether a loop or a condition is around them. */
  run(list: readonly Step[], locals: Scope['locals'], where?: 'loop' | 'condition', depth = 0): void {
    for (const step of list) {
      this.steps += 1;
      if (this.steps > MOST_STEPS) return;
      if (step.do === 'loop') this.run(step.steps, locals, 'loop', depth);
      else if (step.do === 'simple') this.simple(step, locals, where, depth);
      else {
        const known = this.known(step.condition, locals);
        if (known === undefined)
          this.run(step.then.length > 0 ? step.then : step.otherwise, locals, 'condition', depth);
        else this.run(known ? step.then : step.otherwise, locals, where, depth);
      }
    }
  }

  /** Whether a condition holds; undefined where the text does not tell. */
  private known(condition: string, locals: Scope['locals']): boolean | undefined {
    try {
      const { names, calls } = this.scopeOf(undefined, locals);
      return valueOf(condition, names, calls) !== 0n;
    } catch (error) {
      if (error instanceof CodeFault || error instanceof KnownLater) return undefined;
      throw error;
    }
  }

  private call(
    { statement, line }: { statement: string; line: number },
    locals: Scope['locals'],
    where: 'loop' | 'condition' | undefined,
    depth: number,
  ): boolean {
    const [, name = '', list = ''] = /^([A-Za-z_]\w*)\s*\((.*)\)$/s.exec(statement) ?? [];
    const called = this.functions.get(name) ?? macroSteps(this.program, name, line);
    if (!called || depth >= DEEPEST) return false;
    const given = argumentsIn(list);
    const { names, calls } = this.scopeOf(undefined, locals);
    const own = new Map<string, bigint | undefined>();
    called.parameters.forEach((parameter, at) => {
      let value: bigint | undefined;
      try {
        value = valueOf(given[at] ?? '', names, calls);
      } catch (error) {
        if (!(error instanceof CodeFault || error instanceof KnownLater)) throw error;
      }
      own.set(parameter, value);
    });
    this.run(called.steps, own, where, depth + 1);
    return true;
  }

  private simple(
    step: Simple,
    locals: Scope['locals'],
    where: 'loop' | 'condition' | undefined,
    depth: number,
  ): void {
    const statement = bitFunction(counting(singleSpaced(step.text)));
    if (this.call({ statement, line: step.line }, locals, where, depth)) return;
    const assignment = assignmentOf(statement);
    if (assignment) this.store(assignment, step, locals, where);
  }

  /** The value of an expression for a register; a chain of assignments writes the others first. */
  private value(
    expression: string,
    register: Register | undefined,
    step: Simple,
    locals: Scope['locals'],
  ): bigint {
    const inner = assignmentOf(expression.trim());
    if (inner && /^[^=]*[^=!<>]=(?!=)/.test(expression)) {
      this.store(inner, step, locals, undefined);
      return this.value(inner.expression, register, step, locals);
    }
    const { names, calls } = this.scopeOf(register, locals);
    return valueOf(expression, names, calls);
  }

  private store(
    { target, operator, expression }: Assignment,
    step: Simple,
    locals: Scope['locals'],
    where: 'loop' | 'condition' | undefined,
  ): void {
    const { values, stores, later, once } = this.result;
    const { line } = step;
    try {
      const place = this.place(target, (text) => this.value(text, undefined, step, locals));
      if (!place) {
        this.unknown(target, step);
        return;
      }
      const { register } = place;
      const before = BigInt(values.get(register.name) ?? register.reset);
      const after = written(place, before, operator, this.value(expression, register, step, locals));
      if (this.dry) return;
      if (where === 'condition' && this.settled.has(register.name)) {
        later.push({ register: register.name, line });
        return;
      }
      if (where !== 'condition') this.settled.add(register.name);
      const limit = 1n << BigInt(register.width);
      const kept = Number(((after % limit) + limit) % limit);
      values.set(register.name, kept);
      stores.push({ register: register.name, value: kept, line });
      if (where !== undefined) once.push({ line, where });
    } catch (error) {
      if (error instanceof KnownLater) {
        const place = this.place(target, () => -1n);
        if (place) later.push({ register: place.register.name, line });
      } else if (error instanceof CodeFault) this.skip(step, error.message);
      else throw error;
    }
  }

  private place(target: string, value: (text: string) => bigint): Place | undefined {
    const whole = indexed(this.program, targetOf(this.part, this.program, target));
    return placeNamed(this.part, whole, value);
  }

  /** A left side that is no place: a register of another part, or a variable, which decides nothing. */
  private unknown(target: string, step: Simple): void {
    if (!/^[A-Z][A-Z0-9_]{2,}/.test(target) || INPUTS.test(target) || target === statusRegister(this.part))
      return;
    this.skip(
      step,
      `${this.part.name} has no register ${plainName(target)}.${nearestName(this.part, target)}`,
    );
  }

  private skip({ text, line }: Simple, why: string): void {
    const known = this.result.skipped.some((one) => one.line === line && one.why === why);
    if (!known) this.result.skipped.push({ line, text: singleSpaced(text).slice(0, 80), why });
  }

  /** A function with arguments that is not called: what it stores is known only as the program runs. */
  setter({ parameters, steps }: FunctionText): void {
    this.dry = true;
    this.run(steps, new Map(parameters.map((name) => [name, undefined])));
    this.dry = false;
  }

  /** What a handler writes, each statement by itself: when it comes is not known, so that nothing of it stands in a register. */
  handler({ handler = '', line, steps }: FunctionText): void {
    const stores: HandlerStore[] = [];
    const flat = (list: readonly Step[]): Simple[] =>
      list.flatMap((step) =>
        step.do === 'simple'
          ? [step]
          : step.do === 'loop'
            ? flat(step.steps)
            : [...flat(step.then), ...flat(step.otherwise)],
      );
    for (const step of flat(steps)) {
      const assignment = assignmentOf(bitFunction(counting(singleSpaced(step.text))));
      const place = assignment && this.place(assignment.target, () => -1n);
      if (!assignment || !place) continue;
      const value = this.handlerValue(assignment.expression, place.register);
      stores.push({
        register: place.register.name,
        operator: assignment.operator,
        ...(value === undefined ? {} : { value }),
        line: step.line,
      });
    }
    this.result.handlers.push({ vector: handler, line, stores });
  }

  private handlerValue(expression: string, register: Register): bigint | undefined {
    try {
      const { names, calls } = this.scopeOf(register, new Map());
      return valueOf(expression, names, calls);
    } catch (error) {
      if (error instanceof CodeFault || error instanceof KnownLater) return undefined;
      throw error;
    }
  }
}

/** Steps as they stand at one line, such as those of a definition that is used there. */
function atLine(list: readonly Step[], line: number): Step[] {
  return list.map((step): Step => {
    if (step.do === 'simple') return { ...step, line };
    if (step.do === 'loop') return { ...step, steps: atLine(step.steps, line) };
    return { ...step, then: atLine(step.then, line), otherwise: atLine(step.otherwise, line) };
  });
}

/** "do { … } while (0)", in which a definition wraps its statements so that they are one. */
const WRAPPED = /^do\s*\{(.*)\}\s*while\s*\(\s*0\s*\)$/s;

/** A definition with arguments whose text is statements, as a function; undefined where there is none. */
function macroSteps(
  { defines }: ProgramText,
  name: string,
  line: number,
): Pick<FunctionText, 'parameters' | 'steps'> | undefined {
  const define = defines.get(name);
  if (!define?.parameters) return undefined;
  const text = define.text.trim();
  const body = WRAPPED.exec(text)?.[1] ?? text;
  return assignmentOf(singleSpaced(body)) === undefined && !body.includes(';')
    ? undefined
    : { parameters: define.parameters, steps: atLine(programText(`${body};`).loose, line) };
}

/** Arguments of a call, apart at the commas outside of parentheses. */
function argumentsIn(list: string): string[] {
  const pieces = [''];
  let depth = 0;
  for (const sign of list) {
    if (sign === '(') depth += 1;
    if (sign === ')') depth -= 1;
    if (sign === ',' && depth === 0) pieces.push('');
    else pieces[pieces.length - 1] += sign;
  }
  return pieces.map((one) => one.trim());
}

/** The names of functions that some steps call. */
function calledIn(list: readonly Step[]): string[] {
  return list.flatMap((step) => {
    if (step.do === 'loop') return calledIn(step.steps);
    if (step.do === 'choice') return [...calledIn(step.then), ...calledIn(step.otherwise)];
    const [, name] = /^([A-Za-z_]\w*)\s*\(/.exec(step.text) ?? [];
    return name === undefined ? [] : [name];
  });
}

/**
 * The functions that run, in order: those that a program begins with, or of a few pasted ones all that are complete by
 * themselves: no handlers, none that others call, none that take arguments, none that stop what was started.
 */
function begun({ functions }: ProgramText): FunctionText[] {
  const named = (name: string): FunctionText[] => functions.filter((one) => one.name === name);
  const main = named('main');
  if (main.length > 0) return main;
  const sketch = [...named('setup'), ...named('loop')];
  if (sketch.length > 0) return sketch;
  const inner = new Set(functions.flatMap(({ steps }) => calledIn(steps)));
  const alone = functions.filter(
    ({ name, handler, parameters }) =>
      handler === undefined && parameters.length === 0 && !inner.has(name) && !UNDOING.test(name),
  );
  const turn = ({ name }: FunctionText): number => (FIRST.test(name) ? 0 : LAST.test(name) ? 2 : 1);
  return alone.sort((one, other) => turn(one) - turn(other));
}

/** Functions with arguments of a text that calls none of them: what they store is known only as the program runs. */
function setters({ functions }: ProgramText, ran: readonly FunctionText[]): FunctionText[] {
  const inner = new Set(ran.flatMap(({ steps }) => calledIn(steps)));
  return functions.filter(
    ({ name, handler, parameters }) => handler === undefined && parameters.length > 0 && !inner.has(name),
  );
}

/** Calls and instructions that let interrupts happen, whatever the part. */
const ALLOWS =
  /\b(?:sei|__enable_irq|__enable_interrupt|interrupts|ei|enable_interrupts)\s*\(\s*\)|["'\s](?:sei|cpsie i)\b/;

/** Whether the text lets interrupts happen: by the call of the part, or by the bits that its own statement sets. */
function allowsInterrupts(part: Part, text: string, values: ReadonlyMap<string, number>): boolean {
  const { allow } = part.code;
  if (allow === '') return false;
  const plain = (one: string): string => one.replace(/[;\s]/g, '');
  if (plain(text).includes(plain(allow)) || ALLOWS.test(text)) return true;
  const assignment = assignmentOf(singleSpaced(allow.replace(/;/g, '')));
  if (!assignment) return false;
  const own = readStores({ ...part, code: { ...part.code, allow: '' } }, allow);
  return [...own.values].every(
    ([register, bits]) => ((values.get(register) ?? 0) & bits) === bits && bits !== 0,
  );
}

/**
 * Runs the statements of C or of plain lines on the registers of a part: assignments of all signs, with definitions,
 * enumerations, constants, calls with their arguments, macros of headers, fields of structures, bytes of wide registers and
 * addresses. What is not understood is left out and listed with its place; loops are taken once. @throws CodeFault for a text that is too long.
 */
export function readStores(part: Part, text: string): Registers {
  if (text.length > LONGEST) throw new CodeFault('The text is far too long to be a few lines of code.');
  const program = programText(text);
  const reader = new Reader(part, program);
  reader.run(program.loose, new Map());
  const ran = begun(program);
  for (const one of ran) reader.run(one.steps, new Map());
  for (const one of setters(program, ran)) reader.setter(one);
  for (const one of program.functions) if (one.handler !== undefined) reader.handler(one);
  const { result } = reader;
  return { ...result, interruptsAllowed: allowsInterrupts(part, text, result.values) };
}
