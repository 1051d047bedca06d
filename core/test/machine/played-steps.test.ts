import fc from 'fast-check';
import { StepPlayer, type Hardware } from '../../src/machine/played-steps.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import { stepCycles } from '../../src/program/cycles.ts';
import { when, type Kept, type Routine, type Step, type Table, type Value } from '../../src/program/step.ts';

const PUT: number[] = [];
const HARDWARE: Hardware = {
  change: () => undefined,
  put: (_, __, value) => () => void PUT.push(value),
  reload: () => undefined,
};

function player(routines: readonly Routine[] = [], tables: readonly Table[] = []): StepPlayer {
  const named = new Map(tables.map((table) => [table.name, table]));
  return new StepPlayer(stepCycles(atmega328p, routines, 'slowest'), named, HARDWARE);
}

const COUNT: Kept = { kept: 'count', type: 'uint8_t' };
const LEFT: Kept = { kept: 'left', type: 'uint16_t' };

describe('steps that are played', () => {
  it('count to five and start again', () => {
    const own = player();
    const run = own.handler([
      when({ left: { increased: COUNT }, op: '>=', right: 5 }, { do: 'set', to: COUNT, value: 0 }),
    ]);
    const seen = Array.from({ length: 7 }, () => {
      run();
      return own.kept.get('count');
    });
    expect(seen).toEqual([1, 2, 3, 4, 0, 1, 2]);
  });

  it('take longer on the way that does more', () => {
    const run = player().handler([
      when({ left: { increased: COUNT }, op: '>=', right: 2 }, { do: 'set', to: COUNT, value: 0 }),
    ]);
    // A byte of 0 is a number, 1 cycle, and its store 2.
    const [first, second] = [run(), run()];
    expect(second.cycles - first.cycles).toBe(3);
  });

  it('wrap at the width of a variable', () => {
    const own = player();
    own.kept.set('left', 0);
    own.handler([{ do: 'set', to: LEFT, op: '-', value: 1 }])();
    expect(own.kept.get('left')).toBe(65_535);
  });

  it('read rows of a table, and call routines', () => {
    const table: Table = {
      name: 'rows',
      says: '',
      members: [
        { name: 'periods', type: 'uint8_t' },
        { name: 'compare', type: 'uint16_t' },
      ],
      rows: [
        [3, 700],
        [1, 12],
      ],
    };
    const value: Value = { table: 'rows', row: COUNT, member: 'compare', type: 'uint16_t' };
    const routine: Routine = { name: 'step', steps: [{ do: 'set', to: LEFT, value }], inner: true };
    const own = player([routine], [table]);
    const run = own.handler([{ do: 'call', routine: 'step' }]);
    run();
    expect(own.kept.get('left')).toBe(700);
    own.kept.set('count', 1);
    run();
    expect(own.kept.get('left')).toBe(12);
  });

  it('hand a value over when they come to it, not before', () => {
    const run = player().handler([
      { do: 'local', local: { local: 'compare', type: 'uint16_t' }, value: 321 },
      { do: 'put', writes: { OCR1B: { of: 'compare' } }, name: 'compare' },
    ]);
    PUT.length = 0;
    const { effects, cycles } = run();
    expect(PUT).toEqual([]);
    expect(effects).toHaveLength(1);
    expect(effects[0]?.at).toBeGreaterThan(0);
    expect(effects[0]?.at).toBeLessThan(cycles);
    effects[0]?.happen(0, 0);
    expect(PUT).toEqual([321]);
  });

  it('compute as C does with unsigned numbers of 32 bits', () => {
    const number = fc.nat({ max: 2 ** 32 - 1 });
    const operators = ['+', '-', '<', '>=', '==', '!='] as const;
    fc.assert(
      fc.property(number, number, fc.constantFrom(...operators), (left, right, op) => {
        const own = player();
        const to: Kept = { kept: 'result', type: 'uint32_t' };
        const step: Step = { do: 'set', to, value: { left, op, right } };
        own.handler([step])();
        const wanted = {
          '+': (left + right) % 2 ** 32,
          '-': (left - right + 2 ** 32) % 2 ** 32,
          '<': Number(left < right),
          '>=': Number(left >= right),
          '==': Number(left === right),
          '!=': Number(left !== right),
        }[op];
        expect(own.kept.get('result')).toBe(wanted);
      }),
    );
  });
});
