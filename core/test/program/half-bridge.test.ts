import { stepBudget } from '../../src/assign/step-budget.ts';
import { clockPath } from '../../src/clock/path.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import { rp2040 } from '../../src/part/parts/rp2/rp2040.ts';
import { stm32f401 } from '../../src/part/parts/stm32/stm32f401.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { assignPlan } from '../../src/resolve/assign-plan.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
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

describe('a signal on a pin that has the opposite, its opposite on the pin of the channel', () => {
  // 84 MHz: 20 kHz are 4200 cycles, of which the pulse has 1890 and the opposite what two dead times of 85 leave.
  const plan = bridge(stm32f401, 'PB13', 'PA8');
  const setting = {
    ...{
      drive: 'pwm' as const,
      timer: 'TIM1',
      mode: 'up',
      prescaler: 1,
      top: 4199,
      channel: 'CH1',
      pin: 'PB13',
    },
    ...{ compare: 1975, complement: { pin: 'PA8', deadTicks: 85 } },
  };
  const placed = { ...plan, signals: plan.signals.map((signal) => ({ ...signal, setting })) };

  it('is found and assigned', () => {
    const { failures, signals } = evaluatePlan(plan, stm32f401);
    expect(failures).toEqual([]);
    expect(signals[0]?.outcome?.setting).toMatchObject({ timer: 'TIM1', channel: 'CH1', pin: 'PB13' });
    const found = assignPlan(plan, stm32f401, stepBudget(1e6));
    expect(found.settings.map((one) => one.setting.pin)).toEqual(['PB13']);
  });

  // PWM mode 2 (7) without inversion: CC1E, CC1NE.
  it('turns the compare mode over, and neither polarity', () => {
    const values = new Map(settingRegisters(stm32f401, setting).map(({ name, value }) => [name, value]));
    expect([values.get('TIM1_CCMR1'), values.get('TIM1_CCER')]).toEqual([0x78, 0x5]);
    const { files } = planCode(placed, stm32f401);
    const text = files.map((file) => file.text).join('\n');
    const read = decodeText(stm32f401, clockPath(stm32f401, plan.clock), text);
    expect(read.ok && read.value.timers.flatMap(({ effects }) => effects.map((one) => one.setting))).toEqual([
      setting,
    ]);
  });

  (MISSING_FOR_THUMB.length > 0 ? it.skip : it)(
    'keeps the pause under the compiled program, and after a stop',
    () => {
      const { files } = planCode(placed, stm32f401);
      const board = new F401Board(
        thumbProgram(F401, files, `${wait(455)} STEM_stop(); ${wait(400)} STEM_start();`),
      );
      board.runUntil(600_000);
      const [above, below] = [highs(board.edges.get('PB13') ?? []), highs(board.edges.get('PA8') ?? [])];
      expect(overlap(above, below)).toBe(0);
      for (const [from, to] of above.slice(-20, -3)) {
        const after = below.find(([start]) => start >= to);
        expect([to - from, (after?.[0] ?? 0) - to, (after?.[1] ?? 0) - (after?.[0] ?? 0)]).toEqual([
          1890, 85, 2140,
        ]);
      }
    },
  );
});

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
