import fc from 'fast-check';
import { planCode } from '../../src/evaluate/code.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { AvrBoard } from '../helpers/avr/board.ts';
import { MISSING_FOR_AVR, programOfFiles } from '../helpers/avr/compiled.ts';
import { PicoBoard } from '../helpers/rp2/board.ts';
import { F401, MISSING_FOR_THUMB, PICO, thumbProgram } from '../helpers/arm/compiled.ts';
import { F401Board } from '../helpers/f401/board.ts';
import { runsByItself, witnessed, type Witnessed, type WitnessChip } from '../helpers/witness.ts';
import { rp2040 } from '../../src/part/parts/rp2/rp2040.ts';
import { stm32f401 } from '../../src/part/parts/stm32/stm32f401.ts';
import { typedPlans } from '../helpers/random-plans.ts';
import { LOCK_GATE, planOn } from '../helpers/plan.ts';

if (MISSING_FOR_AVR.length > 0)
  process.stderr.write(
    `skipped: no compiled program is run, since ${MISSING_FOR_AVR.join(' and ')} is missing\n`,
  );

/** Plans that are compiled and run; `HZ_RUNS` makes them more. */
const RUNS = Number(process.env['HZ_RUNS'] ?? 4);

/** Pins without an output of a timer, and two with one. */
const PINS = ['PB0', 'PD2', 'PD4', 'PD7', 'PC0', 'PB1', 'PD3'];

/** Such pins of an STM32F401. */
const F401_PINS = ['PA4', 'PB2', 'PC13', 'PA12', 'PC0', 'PA8', 'PB6'];

/** Edges of a pin under the compiled program of some signals, in cycles; `then` is what the program does after the start. */
function edgesOf(signals: PlanSignal[], pin: string, cycles: number, then = ''): number[] {
  const plan: Plan = { ...LOCK_GATE, signals };
  const board = new AvrBoard(programOfFiles(planCode(plan, atmega328p, { failing: true }).files, then));
  board.runUntil(cycles);
  return board.edges.get(pin) ?? [];
}

const apart = (edges: readonly number[]): number[] =>
  edges.slice(1).map((edge, at) => edge - (edges[at] ?? 0));

const output = (setting: object, pin: string): PlanSignal =>
  ({
    ...{ id: 'lamp', name: 'Lamp', kind: 'dim', pin, target: { minHz: 100, minSteps: 2 } },
    setting: { drive: 'pwm', pin, ...setting },
  }) as PlanSignal;

(MISSING_FOR_AVR.length > 0 ? describe.skip : describe)('the compiled program on a model of its chip', () => {
  // From the data sheet: fast PWM is high for compare + 1 of top + 1 counts, phase-correct PWM for 2 x compare of 2 x top.
  it('makes fast PWM: 64 counts of 256, by 8 cycles each', () => {
    const edges = edgesOf(
      [
        output(
          { timer: 'TIMER2', mode: 'fast', channel: 'OC2A', prescaler: 8, top: 255, compare: 63 },
          'PB3',
        ),
      ],
      'PB3',
      20_000,
    );
    expect(apart(edges).slice(0, 6)).toEqual([512, 1536, 512, 1536, 512, 1536]);
  });

  it('makes phase-correct PWM: 2 x 1,000 of 2 x 5,000 cycles', () => {
    const edges = edgesOf(
      [
        output(
          { timer: 'TIMER1', mode: 'phase-icr', channel: 'OC1A', prescaler: 1, top: 5000, compare: 1000 },
          'PB1',
        ),
      ],
      'PB1',
      60_000,
    );
    expect(apart(edges).slice(1, 5)).toEqual([8000, 2000, 8000, 2000]);
  });

  it.each([
    ['fast PWM', { timer: 'TIMER1', mode: 'fast-icr', channel: 'OC1A' }, 'PB1', [16_000, 24_000]],
    ['phase-correct PWM', { timer: 'TIMER1', mode: 'phase-icr', channel: 'OC1A' }, 'PB1', [31_984, 48_000]],
    ['a toggled output', { timer: 'TIMER1', mode: 'ctc', channel: 'OC1A' }, 'PB1', [40_000, 40_000]],
  ] as const)(
    'starts %s anew after a stop in the middle of a pulse, with whole pulses and no others',
    (_, where, pin, [high, low]) => {
      const drive = where.mode === 'ctc' ? 'toggle' : 'pwm';
      const [top, compare] = drive === 'toggle' ? [4999, 4999] : [4999, 1999];
      const lamp = output({ drive, ...where, prescaler: 8, top, compare }, pin);
      const wait = (rounds: number): string => `for (volatile uint16_t i = 0; i < ${rounds}u; i++) { }`;
      let cut = 0;
      for (const rounds of [3600, 3900, 4400, 4700, 5300]) {
        const edges = edgesOf(
          [lamp],
          pin,
          500_000,
          `${wait(rounds)} STEM_stop(); ${wait(2000)} STEM_start();`,
        );
        const lengths = apart(edges);
        const wrong = lengths.filter((length, at) => length !== (at % 2 === 0 ? high : low));
        // The pulse that the stop ends, and the low time until the start; the first low time is before all edges.
        const [stopped, ...others] = wrong.filter((length) => length !== low);
        const ended = stopped !== undefined && stopped < high;
        cut += ended ? 1 : 0;
        expect((ended ? others : wrong).length).toBeLessThanOrEqual(1);
        expect((ended ? others : wrong).every((length) => length > 30_000)).toBe(true);
      }
      expect(cut).toBeGreaterThan(0);
    },
  );
});

(MISSING_FOR_THUMB.length > 0 ? describe.skip : describe)('a toggled output of an STM32F401', () => {
  // 84 MHz / 2 / 10,500 = 4 kHz, low for its first 10,500 cycles.
  const hum: PlanSignal = {
    ...{ id: 'hum', name: 'Hum', kind: 'tone', target: { frequencyHz: 4000 }, pin: 'PA0' },
    setting: {
      ...{ drive: 'toggle', timer: 'TIM2', mode: 'up', channel: 'CH1', pin: 'PA0' },
      ...{ prescaler: 1, top: 10_499, compare: 10_499 },
    },
  };
  const plan = planOn(stm32f401, hum);

  it.each([2000, 3000, 4100, 5300])(
    'begins low after a stop and a start, %d rounds after the first',
    (rounds) => {
      const wait = (count: number): string => `for (volatile unsigned i = 0; i < ${count}u; i++) { }`;
      const { files } = planCode(plan, stm32f401, { failing: true });
      const then = `${wait(rounds)} STEM_stop(); ${wait(2000)} STEM_start();`;
      const board = new F401Board(thumbProgram(F401, files, then));
      board.runUntil(1_000_000);
      const lengths = apart(board.edges.get('PA0') ?? []);
      const whole = lengths.filter((length) => length === 10_500);
      const others = lengths.filter((length) => length !== 10_500);
      expect(whole.length).toBeGreaterThan(80);
      // The pulse that the stop ends, and the low time until the first pulse after the start, which holds a whole run.
      expect(others.filter((length) => length < 10_500).length).toBeLessThanOrEqual(1);
      expect(others.filter((length) => length > 10_500 + 20_000)).toHaveLength(1);
      expect(others.length).toBeLessThanOrEqual(2);
    },
  );
});

/** How far edges lie apart at most, by drive, for whoever runs many plans. */
function tell(all: readonly Witnessed[]): void {
  const told = new Map<string, number[]>();
  for (const { drive, apart: distance } of all) told.set(drive, [...(told.get(drive) ?? []), distance]);
  for (const [drive, distances] of told)
    process.stderr.write(
      `${drive}: ${distances.length} pins, at most ${Math.max(...distances)} cycles apart\n`,
    );
}

const CHIPS: readonly (WitnessChip & {
  missing: readonly string[];
  pins: readonly string[];
  seconds: number;
})[] = [
  {
    ...{ part: atmega328p, cpuHz: 16_000_000, pins: PINS, seconds: 1.1, missing: MISSING_FOR_AVR },
    ...{ grain: 0, cutsFirst: false },
    run: (files, seconds) => {
      const board = new AvrBoard(programOfFiles(files));
      board.runUntil(seconds * 16_000_000);
      return board.edges;
    },
  },
  {
    ...{ part: rp2040, cpuHz: 125_000_000, pins: [], seconds: 0.4, missing: MISSING_FOR_THUMB },
    ...{ grain: 2, cutsFirst: true },
    run: (files, seconds) => {
      const board = new PicoBoard(thumbProgram(PICO, files), 125);
      board.runUntil(seconds * 125_000_000);
      return board.edges;
    },
  },
  {
    ...{ part: stm32f401, cpuHz: 84_000_000, pins: F401_PINS, seconds: 0.4, missing: MISSING_FOR_THUMB },
    ...{ grain: 0, cutsFirst: true },
    run: (files, seconds) => {
      const board = new F401Board(thumbProgram(F401, files));
      board.runUntil(seconds * 84_000_000);
      return board.edges;
    },
  },
];

describe.each(CHIPS.map((chip) => [chip.part.name, chip] as const))(
  'the compiled program on %s',
  (_, chip) => {
    (chip.missing.length > 0 ? it.skip : it)(
      'makes the edges that the product says, of random plans: to the cycle, or within what the handlers take',
      () => {
        const all: Witnessed[] = [];
        fc.assert(
          fc.property(typedPlans(chip.part, chip.pins), (typed) => {
            // Tasks of a plan are the user's own interrupts, which this program does not have.
            const plan = { ...typed };
            delete plan.cpu;
            fc.pre(plan.signals.some(({ kind }) => kind !== 'tick') && runsByItself(chip.part, plan));
            for (const one of witnessed(chip, plan, chip.seconds)) {
              all.push(one);
              expect({ ...one, within: one.apart <= one.allowed }).toMatchObject({ within: true });
              expect(Math.abs(one.seen - one.said)).toBeLessThanOrEqual(2);
            }
          }),
          { numRuns: RUNS, ...(process.env['HZ_RUNS'] === undefined ? { seed: 11 } : {}) },
        );
        expect(all.length).toBeGreaterThan(0);
        if (process.env['HZ_RUNS'] !== undefined) tell(all);
      },
    );
  },
);
