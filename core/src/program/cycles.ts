import { registerOf } from '../part/find.ts';
import type { CycleRange, Operations, Part, Writes } from '../part/types.ts';
import { byRegister, plainWrites, type FieldWrite } from '../timer/fields.ts';
import type { Handler, Routine, Step, Unsigned, Value } from './step.ts';

const NONE: CycleRange = { min: 0, max: 0 };

const BYTES: Record<Unsigned, number> = { uint8_t: 1, uint16_t: 2, uint32_t: 4 };

function sum(...ranges: readonly CycleRange[]): CycleRange {
  return ranges.reduce((one, other) => ({ min: one.min + other.min, max: one.max + other.max }), NONE);
}

function times(count: number, { min, max }: CycleRange): CycleRange {
  return { min: count * min, max: count * max };
}

/** The longer and the shorter of two ways. */
function either(one: CycleRange, other: CycleRange): CycleRange {
  return { min: Math.min(one.min, other.min), max: Math.max(one.max, other.max) };
}

/** Operations that take their most, whatever the compiler could do. */
function slowest(ops: Operations): Operations {
  const most = ({ max }: CycleRange): CycleRange => ({ min: max, max });
  const {
    word,
    save,
    constant,
    bit,
    frame,
    load,
    store,
    read,
    write,
    compute,
    branch,
    index,
    table,
    call,
    exclude,
  } = ops;
  return {
    word,
    save,
    constant,
    ...(bit ? { bit } : {}),
    frame: most(frame),
    load: most(load),
    store: most(store),
    read: most(read),
    write: most(write),
    compute: most(compute),
    branch: most(branch),
    index: most(index),
    table: most(table),
    call: most(call),
    exclude: most(exclude),
  };
}

/** A compiler that is not known: any that optimises, or the slowest of them. */
export type Compiler = 'any' | 'slowest';

/** The cycles of steps on one part, whose routines may call each other. */
export class StepCycles {
  private readonly ops: Operations;

  constructor(
    private readonly part: Part,
    readonly routines: ReadonlyMap<string, Routine>,
    private readonly compiler: Compiler,
  ) {
    this.ops = compiler === 'any' ? part.cpu.operations : slowest(part.cpu.operations);
  }

  /** The jump over the other branch, at the end of the first of two. */
  get jump(): CycleRange {
    return this.upTo(this.ops.branch.max);
  }

  /** Cycles that a compiler may save altogether. */
  private upTo(max: number): CycleRange {
    return { min: this.compiler === 'any' ? 0 : max, max };
  }

  /** How many words of the processor a value of so many bytes has. */
  private words(bytes: number): number {
    return Math.ceil(bytes / this.ops.word);
  }

  private registerWords(register: string): number {
    return this.words(registerOf(this.part, register).width / 8);
  }

  private bytesOf(value: Value): number {
    if (typeof value === 'number') return value < 2 ** 8 ? 1 : value < 2 ** 16 ? 2 : 4;
    if ('kept' in value || 'local' in value || 'table' in value) return BYTES[value.type];
    if ('increased' in value) return BYTES[value.increased.type];
    if ('as' in value) return BYTES[value.as];
    if ('register' in value) return registerOf(this.part, value.register).width / 8;
    if ('left' in value) return Math.max(this.bytesOf(value.left), this.bytesOf(value.right));
    if ('test' in value) return Math.max(this.bytesOf(value.then), this.bytesOf(value.else));
    return 1;
  }

  /** What it takes to have a value at hand. */
  private value(value: Value): CycleRange {
    const { ops } = this;
    if (typeof value === 'number') return this.upTo(this.words(this.bytesOf(value)) * ops.constant);
    if ('local' in value) return NONE;
    const words = this.words(this.bytesOf(value));
    if ('kept' in value) return times(words, ops.load);
    if ('register' in value) return times(this.registerWords(value.register), ops.read);
    if ('flag' in value) return sum(ops.read, ops.compute);
    if ('table' in value) return sum(this.value(value.row), ops.index, times(words, ops.table));
    if ('increased' in value) return times(words, sum(ops.load, ops.compute, ops.store));
    if ('not' in value) return this.value(value.not);
    if ('as' in value) return this.value(value.value);
    if ('test' in value)
      return sum(this.test(value.test), either(this.value(value.then), this.value(value.else)));
    return sum(this.value(value.left), this.value(value.right), times(words, ops.compute));
  }

  /** A value, and the way on that it decides. */
  test(value: Value): CycleRange {
    return sum(
      this.value(value),
      times(this.words(this.bytesOf(value)), this.upTo(this.ops.compute.max)),
      this.ops.branch,
    );
  }

  /** Cycles of the instruction that changes a single bit of a register; undefined where there is none that reaches it. */
  private bitOf(register: string, bits: number): number | undefined {
    const { bit } = this.ops;
    return bit && bits === 1 && registerOf(this.part, register).address <= bit.last ? bit.cycles : undefined;
  }

  /** A change of some bits of each register: read, masked, written; or one write of all of it. */
  private change(writes: readonly FieldWrite[]): CycleRange {
    return sum(
      ...byRegister(writes).map(({ register, writes: own }) => {
        const { strobe } = registerOf(this.part, register);
        const words = this.registerWords(register);
        const whole = strobe || own.some(({ field }) => field === null);
        if (whole) return times(words, sum(this.ops.write, this.upTo(this.ops.constant)));
        const bit = this.bitOf(register, own.length);
        if (bit !== undefined) return { min: bit, max: bit };
        const bits = times(words, sum(this.ops.read, times(2, this.ops.compute), this.ops.write));
        return sum(bits, this.upTo(this.ops.constant));
      }),
    );
  }

  private put(writes: Writes): CycleRange {
    return sum(
      ...Object.entries(writes).map(([key, value]) => {
        const [register = '', field] = key.split('.');
        const words = this.registerWords(register);
        const encoded = typeof value === 'number' ? NONE : times(words, this.upTo(this.ops.compute.max));
        const stored = sum(times(words, this.ops.write), encoded);
        return field === undefined
          ? stored
          : sum(stored, times(words, sum(this.ops.read, times(2, this.ops.compute))));
      }),
    );
  }

  private clear(step: Extract<Step, { do: 'clear' }>): CycleRange {
    const { clear, flag, rearm } = step.interrupt;
    const again = rearm ? this.change(plainWrites([rearm])) : NONE;
    if (clear === 'entry' || clear === 'entry-or-one' || clear === 'none') return again;
    const words = this.registerWords(flag.split('.')[0] ?? '');
    const { read, write, constant } = this.ops;
    const own =
      clear === 'read'
        ? times(words, read)
        : clear === 'write-zero'
          ? this.change(plainWrites([{ [flag]: 0 }]))
          : times(words, sum(write, this.upTo(constant)));
    return sum(own, again);
  }

  /** A step with all that is in it. */
  step(step: Step): CycleRange {
    const { ops, part } = this;
    switch (step.do) {
      case 'say':
      case 'gap':
      case 'wait':
      case 'delay':
      case 'allow':
        return NONE;
      case 'store':
      case 'change':
        return this.change(step.writes);
      case 'order':
        return this.change(plainWrites([step.order]));
      case 'load': {
        const words = this.registerWords(step.register);
        const read = step.adds ? times(words, sum(ops.read, ops.compute)) : NONE;
        return sum(this.value(step.value), read, times(words, ops.write));
      }
      case 'read':
        return times(this.registerWords(step.register), ops.read);
      case 'clear':
        return this.clear(step);
      case 'reload':
        return times(2, sum(ops.read, ops.compute, ops.write));
      case 'put':
        return this.put(step.writes);
      case 'local':
        return this.value(step.value);
      case 'set': {
        const words = this.words(BYTES[step.to.type]);
        const changed = step.op ? times(words, sum(ops.load, ops.compute)) : NONE;
        return sum(this.value(step.value), changed, times(words, ops.store));
      }
      case 'if':
        return sum(
          this.test(step.test),
          either(this.steps(step.then), step.else ? sum(this.steps(step.else), this.jump) : NONE),
        );
      case 'while':
        // What comes in time does not run its steps.
        return this.test(step.test);
      case 'block':
        return this.steps(step.steps);
      case 'together':
        return sum(this.steps(step.steps), part.code.excludes === undefined ? NONE : ops.exclude);
      case 'call': {
        const own = this.routines.get(step.routine);
        if (!own) return ops.call;
        return sum(own.shared ? this.upTo(ops.call.max) : NONE, this.steps(own.steps));
      }
    }
  }

  /** The words that are at hand at once: of two operands, and of a wider result. */
  private atHand(value: Value): number {
    if (typeof value === 'number' || !('left' in value)) return 0;
    const own = [value.left, value.right].flatMap((one) => (typeof one === 'number' ? [] : [one]));
    const operands = own.reduce((sum, one) => sum + this.words(this.bytesOf(one)), 0);
    const nested = own.some((one) => 'left' in one || ('as' in one && isComputed(one.value)));
    return nested ? 2 * operands : operands;
  }

  /** What a handler of some steps saves and restores: as many words as its widest value has, and up to those of two operands, one more and an address. */
  frame(steps: readonly Step[]): CycleRange {
    const values = valuesIn(steps, this.routines);
    const widest = Math.max(0, ...values.map((value) => this.words(this.bytesOf(value))));
    const both = Math.max(widest, ...values.map((value) => this.atHand(value)));
    const address = values.some((value) => typeof value === 'object' && 'table' in value) ? this.words(2) : 0;
    const { frame, save } = this.ops;
    const most = (both + address + 1) * save;
    return sum(frame, { min: this.compiler === 'any' ? widest * save : most, max: most });
  }

  steps(steps: readonly Step[]): CycleRange {
    return sum(...steps.map((step) => this.step(step)));
  }
}

/** Whether a value is the result of an operator. */
function isComputed(value: Value): boolean {
  return typeof value === 'object' && 'left' in value;
}

/** The values that steps compute with, those inside of others too. */
function valuesIn(steps: readonly Step[], routines: ReadonlyMap<string, Routine>): Value[] {
  const inside = (value: Value): Value[] => {
    if (typeof value === 'number') return [value];
    const parts =
      'left' in value
        ? [value.left, value.right]
        : 'test' in value
          ? [value.test, value.then, value.else]
          : 'not' in value
            ? [value.not]
            : 'as' in value
              ? [value.value]
              : 'table' in value
                ? [value.row]
                : [];
    return [value, ...parts.flatMap(inside)];
  };
  return steps.flatMap((step): Value[] => {
    if (step.do === 'if')
      return [...inside(step.test), ...valuesIn([...step.then, ...(step.else ?? [])], routines)];
    if (step.do === 'while') return [...inside(step.test), ...valuesIn(step.steps, routines)];
    if (step.do === 'block' || step.do === 'together') return valuesIn(step.steps, routines);
    if (step.do === 'local') return [step.local, ...inside(step.value)];
    if (step.do === 'set') return [{ left: step.to, op: '+', right: step.value }, ...inside(step.value)];
    if (step.do === 'load') return inside(step.value);
    return step.do === 'call' ? valuesIn(routines.get(step.routine)?.steps ?? [], routines) : [];
  });
}

/** The cycles of steps whose routines are given. */
export function stepCycles(part: Part, routines: readonly Routine[], compiler: Compiler): StepCycles {
  return new StepCycles(part, new Map(routines.map((routine) => [routine.name, routine])), compiler);
}

/**
 * Cycles of what a handler does at each of its flags, from its first instruction to its last; the way in and out is the processor's. A flag's
 * own test counts with it, and what is saved and restored with each, since each may come alone.
 */
export function handlerCycles(
  part: Part,
  { flags }: Handler,
  routines: readonly Routine[],
  compiler: Compiler = 'any',
): CycleRange[] {
  const counted = stepCycles(part, routines, compiler);
  return flags.map(({ interrupt: { flag, status = flag }, steps }) =>
    sum(counted.frame(steps), flags.length > 1 ? counted.test({ flag: status }) : NONE, counted.steps(steps)),
  );
}
