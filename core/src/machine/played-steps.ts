import type { FieldWrite } from '../timer/fields.ts';
import type { Writes } from '../part/types.ts';
import type { StepCycles } from '../program/cycles.ts';
import type { Routine, Step, Table, Unsigned, Value } from '../program/step.ts';
import type { Effect } from './firmware.ts';

/** What steps do to the hardware: the effect of a change of bits, of a value put into registers, of a reload; undefined where it is none that is played. */
export type Hardware = {
  change: (writes: readonly FieldWrite[]) => Effect['happen'] | undefined;
  put: (writes: Writes, name: 'compare' | 'top', value: number) => Effect['happen'] | undefined;
  reload: () => Effect['happen'] | undefined;
};

/** One run of steps as it goes on. */
type Run = { cycles: number; effects: Effect[]; locals: Map<string, number> };

type Play = (run: Run) => void;
type Read = (run: Run) => number;

const MODULUS: Record<Unsigned, number> = { uint8_t: 2 ** 8, uint16_t: 2 ** 16, uint32_t: 2 ** 32 };

/** A number as an unsigned type has it. */
function wrapped(value: number, type: Unsigned): number {
  const modulus = MODULUS[type];
  return ((value % modulus) + modulus) % modulus;
}

function computed(op: Extract<Value, { op: string }>['op'], left: number, right: number): number {
  switch (op) {
    case '+':
      return left + right;
    case '-':
      return left - right;
    case '|':
      return left | right;
    case '<<':
      return left * 2 ** right;
    case '>>':
      return Math.floor(left / 2 ** right);
    case '<':
      return left < right ? 1 : 0;
    case '>=':
      return left >= right ? 1 : 0;
    case '==':
      return left === right ? 1 : 0;
    case '!=':
      return left === right ? 0 : 1;
  }
}

/**
 * Makes steps into functions that run them: on variables that stay, with the cycles that each takes, and with effects at their places. What is
 * read from registers counts as 0: the program that is played makes its edges without it.
 */
export class StepPlayer {
  /** The variables that stay from one interrupt to the next, by their names. */
  readonly kept = new Map<string, number>();
  private readonly routines = new Map<string, Play>();

  constructor(
    private readonly cycles: StepCycles,
    private readonly tables: ReadonlyMap<string, Table>,
    private readonly hardware: Hardware,
  ) {}

  private table({ table, row, member }: Extract<Value, { table: string }>): Read {
    const at = this.value(row);
    const own = this.tables.get(table);
    const column = own?.members.findIndex(({ name }) => name === member) ?? -1;
    return (run) => own?.rows[at(run)]?.[column] ?? 0;
  }

  /** A value as a function of the run. */
  private value(value: Value): Read {
    const { kept } = this;
    if (typeof value === 'number') return () => value;
    if ('kept' in value) return () => kept.get(value.kept) ?? 0;
    if ('local' in value) return ({ locals }) => locals.get(value.local) ?? 0;
    if ('table' in value) return this.table(value);
    if ('increased' in value) {
      const { kept: name, type } = value.increased;
      return () => {
        const more = wrapped((kept.get(name) ?? 0) + 1, type);
        kept.set(name, more);
        return more;
      };
    }
    if ('not' in value) {
      const own = this.value(value.not);
      return (run) => (own(run) === 0 ? 1 : 0);
    }
    if ('as' in value) {
      const own = this.value(value.value);
      return (run) => wrapped(own(run), value.as);
    }
    if ('test' in value) {
      const [test, then, other] = [this.value(value.test), this.value(value.then), this.value(value.else)];
      return (run) => (test(run) === 0 ? other(run) : then(run));
    }
    if (!('left' in value)) return () => 0;
    const [left, right] = [this.value(value.left), this.value(value.right)];
    return (run) => computed(value.op, left(run), right(run));
  }

  private routine({ name, steps }: Routine): Play {
    const known = this.routines.get(name);
    if (known) return known;
    const own = this.steps(steps);
    this.routines.set(name, own);
    return own;
  }

  private branches({ test, then, else: other }: Extract<Step, { do: 'if' }>): Play {
    const asked = this.value(test);
    const cost = this.cycles.test(test).max;
    const jump = other ? this.cycles.jump.max : 0;
    const [yes, no] = [this.steps(then), this.steps(other ?? [])];
    return (run) => {
      run.cycles += cost;
      if (asked(run) === 0) return no(run);
      yes(run);
      run.cycles += jump;
    };
  }

  private called(step: Extract<Step, { do: 'call' }>): Play {
    const own = this.cycles.routines.get(step.routine);
    const whole = this.cycles.step(step).max;
    if (!own)
      return (run) => {
        run.cycles += whole;
      };
    const inner = this.routine(own);
    const around = whole - this.cycles.steps(own.steps).max;
    return (run) => {
      run.cycles += around;
      inner(run);
    };
  }

  private set({ to, op, value }: Extract<Step, { do: 'set' }>): Play {
    const own = this.value(value);
    const { kept } = this;
    return (run) => {
      const [before, given] = [kept.get(to.kept) ?? 0, own(run)];
      const after = op === '-' ? before - given : op === '^' ? before ^ given : given;
      kept.set(to.kept, wrapped(after, to.type));
    };
  }

  /** What a step without steps in it does, its cycles aside. */
  private doing(step: Step): Play | undefined {
    const effect = (happen: Effect['happen'] | undefined): Play | undefined =>
      happen && ((run) => void run.effects.push({ at: run.cycles, happen }));
    switch (step.do) {
      case 'change':
        return effect(this.hardware.change(step.writes));
      case 'reload':
        return effect(this.hardware.reload());
      case 'load':
        return step.adds ? effect(this.hardware.reload()) : undefined;
      case 'put':
        return (run) => {
          const value = run.locals.get(step.name) ?? 0;
          const happen = this.hardware.put(step.writes, step.name, value);
          if (happen) run.effects.push({ at: run.cycles, happen });
        };
      case 'local': {
        const own = this.value(step.value);
        const { local, type } = step.local;
        return (run) => void run.locals.set(local, wrapped(own(run), type));
      }
      case 'set':
        return this.set(step);
      default:
        return undefined;
    }
  }

  private step(step: Step): Play {
    if (step.do === 'if') return this.branches(step);
    if (step.do === 'block') return this.steps(step.steps);
    if (step.do === 'call') return this.called(step);
    if (step.do === 'together') {
      const around = this.cycles.step(step).max - this.cycles.steps(step.steps).max;
      const inner = this.steps(step.steps);
      return (run) => {
        run.cycles += around;
        inner(run);
      };
    }
    const cost = this.cycles.step(step).max;
    const act = this.doing(step);
    // What a step changes is there at its end.
    return (run) => {
      run.cycles += cost;
      act?.(run);
    };
  }

  /** Steps one after the other. */
  steps(steps: readonly Step[]): Play {
    const all = steps.map((step) => this.step(step));
    return (run) => {
      for (const play of all) play(run);
    };
  }

  /** A handler's part as a function that runs it: its registers are saved before and put back after its steps. */
  handler(steps: readonly Step[]): () => { cycles: number; effects: Effect[] } {
    const frame = this.cycles.frame(steps).max;
    const before = Math.ceil(frame / 2);
    const own = this.steps(steps);
    return () => {
      const run: Run = { cycles: before, effects: [], locals: new Map() };
      own(run);
      return { cycles: run.cycles + frame - before, effects: run.effects };
    };
  }
}
