import fc from 'fast-check';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';
import { actionStates, actionSteps } from '../../src/program/actions.ts';
import type { Interrupt } from '../../src/part/types.ts';
import type { Step, Value } from '../../src/program/step.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { planCpu } from '../../src/evaluate/cpu-model.ts';
import { settingsOf } from '../../src/evaluate/evaluate.ts';
import { clockPath } from '../../src/clock/path.ts';

/** Runs steps by their meaning, on variables and registers that the test keeps; apart from what plays and prints them. */
class Interpreter {
  readonly kept = new Map<string, number>();
  readonly registers = new Map<string, number>();
  private locals = new Map<string, number>();

  run(steps: readonly Step[]): void {
    this.locals = new Map();
    this.all(steps);
  }

  private all(steps: readonly Step[]): void {
    for (const step of steps) this.step(step);
  }

  private step(step: Step): void {
    if (step.do === 'clear') this.registers.set(step.interrupt.flag, 0);
    else if (step.do === 'local')
      this.locals.set(step.local.local, cut(this.value(step.value), step.local.type));
    else if (step.do === 'set') this.kept.set(step.to.kept, cut(this.value(step.value), step.to.type));
    else if (step.do === 'if') this.all(this.value(step.test) === 0 ? (step.else ?? []) : step.then);
    else throw new Error(`no ${step.do} here`);
  }

  private value(value: Value): number {
    if (typeof value === 'number') return value;
    if ('kept' in value) return this.kept.get(value.kept) ?? NaN;
    if ('local' in value) return this.locals.get(value.local) ?? NaN;
    if ('register' in value) return this.registers.get(value.register) ?? NaN;
    if ('flag' in value) return this.registers.get(value.flag) ?? NaN;
    if ('as' in value) return cut(this.value(value.value), value.as);
    if ('test' in value)
      return this.value(value.test) === 0 ? this.value(value.else) : this.value(value.then);
    if (!('left' in value)) throw new Error('no such value here');
    const [left, right] = [this.value(value.left), this.value(value.right)];
    const results: Partial<Record<string, number>> = {
      ...{ '+': left + right, '-': left - right, '<': Number(left < right), '==': Number(left === right) },
      ...{ '!=': Number(left !== right) },
    };
    return results[value.op] ?? NaN;
  }
}

function cut(value: number, type: string): number {
  const size = type === 'uint8_t' ? 2 ** 8 : type === 'uint16_t' ? 2 ** 16 : 2 ** 32;
  return ((value % size) + size) % size;
}

const RUN = 65_536;
const MEASURE = { do: 'measure', registers: ['ICR'], width: 16, counts: RUN, overflow: 'TOV' } as const;

const EDGE: Interrupt = { vector: 'CAPT', number: 10, enable: {}, flag: 'ICF', clear: 'entry-or-one' };

/**
 * What is known after each edge, 0 where nothing is: edges at some counts, handlers that wait for so many counts after anything has
 * happened and then come one after the other, the one of the edge first or last.
 */
function readings(edges: readonly number[], lates: readonly number[], captureFirst: boolean): number[] {
  const chip = new Interpreter();
  const part = shipped('atmega328p');
  for (const state of actionStates('wind', MEASURE)) chip.kept.set(state.kept, state.initial);
  for (const flag of ['TOV', 'ICF']) chip.registers.set(flag, 0);
  const handlers = {
    ICF: actionSteps(part, 'wind', MEASURE),
    TOV: actionSteps(part, 'wind', { do: 'lapse', measure: MEASURE, edge: EDGE }),
  };
  const last = edges[edges.length - 1] ?? 0;
  const ends = Array.from({ length: Math.ceil(last / RUN) + 2 }, (_, at) => (at + 1) * RUN);
  const happenings = [
    ...edges.map((t) => ({ t, flag: 'ICF' as const })),
    ...ends.map((t) => ({ t, flag: 'TOV' as const })),
  ];
  happenings.sort((one, other) => one.t - other.t);
  const read: number[] = [];
  let waiting: number[] = [];
  const serveAll = (): void => {
    for (const flag of captureFirst ? (['ICF', 'TOV'] as const) : (['TOV', 'ICF'] as const)) {
      if (chip.registers.get(flag) !== 1) continue;
      chip.registers.set(flag, 0);
      chip.run(handlers[flag]);
      if (waiting.length > 0 && chip.registers.get('ICF') === 0) {
        read.push(chip.kept.get('wind_counts') ?? NaN);
        waiting = [];
      }
    }
  };
  let busyUntil = 0;
  happenings.forEach(({ t, flag }, at) => {
    if (t >= busyUntil) serveAll();
    chip.registers.set(flag, 1);
    if (flag === 'ICF') {
      waiting.push(t);
      chip.registers.set('ICR', t % RUN);
    }
    busyUntil = Math.max(busyUntil, t + (lates[at % lates.length] ?? 0));
    if ((happenings[at + 1]?.t ?? Infinity) >= busyUntil) serveAll();
  });
  serveAll();
  return read;
}

describe('an input by captures', () => {
  it('gives each period that is shorter than a run, 0 for every longer one, whatever comes first at an overflow', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            fc.integer({ min: 900, max: 65_535 }),
            fc.integer({ min: 65_537, max: 400_000 }),
            fc.constant(65_535),
          ),
          {
            minLength: 2,
            maxLength: 12,
          },
        ),
        fc.integer({ min: 0, max: RUN }),
        fc.array(fc.integer({ min: 0, max: 400 }), { minLength: 1, maxLength: 5 }),
        fc.boolean(),
        (periods, start, lates, captureFirst) => {
          const edges = periods.reduce(
            (list, period) => [...list, (list[list.length - 1] ?? 0) + period],
            [start + 1000],
          );
          const read = readings(edges, lates, captureFirst);
          expect(read.length).toBe(edges.length);
          periods.forEach((period, at) => {
            expect([at, read[at + 1]]).toEqual([at, period < RUN ? period : 0]);
          });
        },
      ),
      { numRuns: Number(process.env['HZ_RUNS'] ?? 600) },
    );
  });

  it('is 0 for 0.9 Hz where 16 MHz / 64 run over after 0.262 s, and not the 15.992 Hz of what is left of 277,778 counts', () => {
    // 277,778 counts are 4 runs and 15,634 counts, which would be 15.99 Hz.
    const edges = [5000, 282_778, 560_556, 838_334];
    expect(277_778 % RUN).toBe(15_634);
    expect(readings(edges, [40], true)).toEqual([0, 0, 0, 0]);
  });

  it('has an interrupt at the end of each run among those of the plan', () => {
    const part = shipped('atmega328p');
    const plan = planOn(part, {
      ...{ id: 'wind', name: 'Wind', kind: 'measure', pin: 'PB0' },
      target: { minHz: 20, maxHz: 200 },
    });
    const path = clockPath(part, plan.clock);
    const { model } = planCpu(plan, part, path, settingsOf(plan, part, path));
    expect(model.tasks.map(({ arrivals }) => arrivals.kind)).toEqual(['sporadic', 'periodic']);
    expect(evaluatePlan(plan, part).failures).toEqual([]);
  });
});
