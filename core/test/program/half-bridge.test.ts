import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import { rp2040 } from '../../src/part/parts/rp2/rp2040.ts';
import { stm32f401 } from '../../src/part/parts/stm32/stm32f401.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { F401, MISSING_FOR_THUMB, PICO, thumbProgram } from '../helpers/arm/compiled.ts';
import { AvrBoard } from '../helpers/avr/board.ts';
import { MISSING_FOR_AVR, programOfFiles } from '../helpers/avr/compiled.ts';
import { F401Board } from '../helpers/f401/board.ts';
import { planOn } from '../helpers/plan.ts';
import { PicoBoard } from '../helpers/rp2/board.ts';
import type { CodeFile } from '../../src/codegen/c-files.ts';

/** A half bridge of 20 kHz whose upper switch is on for 45 %, with a pause of 1 us, both switches by channels of one timer. */
function bridge(part: Part, upper: string, lower: string): Plan {
  return planOn(part, {
    ...{ id: 'bridge', name: 'Sluice bridge', kind: 'pwm', pin: upper },
    target: { frequencyHz: 20_000, duty: 0.45 },
    complement: { pin: lower, deadS: 1e-6 },
  });
}

type Edges = ReadonlyMap<string, readonly number[]>;

/** The chips of which there is a model: how many of their cycles the pause has, by hand, and what runs files on them. */
const CHIPS: readonly {
  part: Part;
  pins: [string, string];
  dead: number;
  period: number;
  missing: readonly string[];
  run: (files: readonly CodeFile[], then: string) => Edges;
}[] = [
  {
    // 16 MHz: 1 us is 16 cycles, and one more since the crystal may be fast.
    ...{ part: atmega328p, pins: ['PB1', 'PB2'], dead: 17, period: 800, missing: MISSING_FOR_AVR },
    run: (files, then) => {
      const board = new AvrBoard(programOfFiles(files, then));
      board.runUntil(120_000);
      return board.edges;
    },
  },
  {
    ...{ part: rp2040, pins: ['GPIO2', 'GPIO3'], dead: 126, period: 6250, missing: MISSING_FOR_THUMB },
    run: (files, then) => {
      const board = new PicoBoard(thumbProgram(PICO, files, then), 125);
      board.runUntil(900_000);
      return board.edges;
    },
  },
  {
    ...{ part: stm32f401, pins: ['PA6', 'PA7'], dead: 85, period: 4200, missing: MISSING_FOR_THUMB },
    run: (files, then) => {
      const board = new F401Board(thumbProgram(F401, files, then));
      board.runUntil(600_000);
      return board.edges;
    },
  },
];

/** The stretches of time for which a pin is high; the last one may have no end. */
function highs(edges: readonly number[]): [number, number][] {
  return edges.flatMap((edge, at): [number, number][] =>
    at % 2 === 0 ? [[edge, edges[at + 1] ?? Infinity]] : [],
  );
}

/** For how long both pins are high at once, over all. */
function overlap(one: readonly [number, number][], other: readonly [number, number][]): number {
  return one.reduce(
    (sum, [from, to]) =>
      sum +
      other.reduce((all, [start, end]) => all + Math.max(0, Math.min(to, end) - Math.max(from, start)), 0),
    0,
  );
}

const wait = (rounds: number): string => `for (volatile unsigned i = 0; i < ${rounds}u; i++) { }`;

describe.each(CHIPS.map((chip) => [chip.part.name, chip] as const))(
  'an output with its opposite by a second channel of %s',
  (_, { part, pins: [upper, lower], dead, period, missing, run }) => {
    const plan = bridge(part, upper, lower);
    const { files } = planCode(plan, part, { failing: true });

    it('passes', () => {
      const { failures, signals } = evaluatePlan(plan, part);
      expect(failures).toEqual([]);
      expect(signals[0]?.outcome?.setting).toMatchObject({ complement: { pin: lower } });
      expect(signals[0]?.outcome?.setting).toHaveProperty('complement.channel');
    });

    (missing.length > 0 ? it.skip : it)('keeps the pause at both edges, under the compiled program', () => {
      const edges = run(files, '');
      const [above, below] = [highs(edges.get(upper) ?? []), highs(edges.get(lower) ?? [])];
      expect(above.length).toBeGreaterThan(20);
      expect(overlap(above, below)).toBe(0);
      for (const [from, to] of above.slice(3, 20)) {
        const [before] = below.filter(([, end]) => end <= from).slice(-1);
        const after = below.find(([start]) => start >= to);
        expect([from - (before?.[1] ?? 0), (after?.[0] ?? 0) - to]).toEqual([dead, dead]);
        expect((after?.[0] ?? 0) - (before?.[0] ?? 0)).toBe(period);
      }
    });

    (missing.length > 0 ? it.skip : it).each([310, 387, 455, 512])(
      'never has both pins high, with a stop after %d rounds and a start',
      (rounds) => {
        const edges = run(files, `${wait(rounds)} STEM_stop(); ${wait(400)} STEM_start();`);
        const [above, below] = [highs(edges.get(upper) ?? []), highs(edges.get(lower) ?? [])];
        expect(below.length).toBeGreaterThan(20);
        expect(overlap(above, below)).toBe(0);
      },
    );
  },
);
