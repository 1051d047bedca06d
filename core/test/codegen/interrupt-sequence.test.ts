import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { sequenceWaveform } from '../../src/evaluate/sequence-rows.ts';
import type { Interrupt, Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { driveOf, outcomeUnder } from '../../src/timer/drives/index.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { waveformSource } from '../../src/wave/source.ts';
import { comeLines, momentsOf, playedEdges, playLines } from '../helpers/chip-play.ts';
import { imagesOf } from '../helpers/chip-image.ts';
import { runOnChip, type Program, type Step } from '../helpers/chip.ts';
import { planOn } from '../helpers/plan.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { DOTS, FADE, planWith, WAYS } from '../helpers/sequence-plans.ts';

const PERIODS = 16;

const cases = PARTS.flatMap((part) =>
  WAYS.flatMap(([drive, signal]) => {
    const made = planWith(part, signal, drive);
    return made ? [[`${part.name}, ${drive}`, part, made.plan, made.setting] as const] : [];
  }),
);

/** The interrupts of a signal's code, played over some periods; statements come before. */
function programOf(part: Part, { plan, setting }: { plan: Plan; setting: Setting }): Program {
  const moments = momentsOf(part, plan, setting, PERIODS, 20_000);
  const { files } = planCode(plan, part, { failing: true });
  return {
    part,
    files,
    body: ['try_out_init();', 'try_out_start();', 'mark("play");', ...playLines(part, setting, moments)],
  };
}

/** The interrupt that begins a period of a setting. */
function tickIn(part: Part, setting: Setting): Interrupt {
  const [first] = driveOf(setting).handlers(part, setting);
  if (!first) throw new Error('no handler');
  return first.interrupt;
}

/** Edges of the sequence's waveform in s, up to a time. */
function wantedEdges(part: Part, plan: Plan, setting: Setting, untilS: number): number[] {
  const [signal] = plan.signals;
  if (!signal?.sequence) throw new Error('no sequence');
  const path = clockPath(part, plan.clock);
  const waveform = sequenceWaveform(part, path, signal, signal.sequence, setting);
  const tickHz = outcomeUnder(part, path, setting).tickHz.valueOf();
  return [...waveformSource(waveform, tickHz).edges(0, untilS + 0.5 / tickHz)];
}

function tickHzOf(part: Part, plan: Plan, setting: Setting): number {
  return outcomeUnder(part, clockPath(part, plan.clock), setting).tickHz.valueOf();
}

/** Edges of a play in ticks. */
function edgesIn(part: Part, plan: Plan, setting: Setting, steps: readonly Step[]): number[] {
  const moments = momentsOf(part, plan, setting, PERIODS, 20_000);
  const from = steps.findIndex((step) => step.do === 'mark' && step.name === 'play');
  const tickHz = tickHzOf(part, plan, setting);
  return playedEdges(part, setting.pin ?? '', moments, steps.slice(from)).map((time) =>
    Math.round(time * tickHz),
  );
}

/** Edges of the waveform in the same time, in ticks. */
function wantedTicks(part: Part, plan: Plan, setting: Setting): number[] {
  const untilS = momentsOf(part, plan, setting, PERIODS, 20_000).at(-1)?.atS ?? 0;
  const tickHz = tickHzOf(part, plan, setting);
  return wantedEdges(part, plan, setting, untilS).map((time) => Math.round(time * tickHz));
}

describe('a sequence of edges that interrupts make', () => {
  it('is tried with all three drives, and on all parts', () => {
    const names = cases.map(([name]) => name);
    for (const part of PARTS) expect(names.some((name) => name.startsWith(part.name))).toBe(true);
    for (const [drive] of WAYS)
      expect(names.filter((name) => name.endsWith(`, ${drive}`)).length).toBeGreaterThan(4);
  });

  it('moves the pin as the waveform says, tick by tick, twice over', () => {
    const runs = runOnChip(cases.map(([, part, plan, setting]) => programOf(part, { plan, setting })));
    cases.forEach(([name, part, plan, setting], at) => {
      expect([name, planCode(plan, part, { failing: true }).leftOut]).toEqual([name, []]);
      const made = edgesIn(part, plan, setting, runs[at] ?? []);
      expect([name, made]).toEqual([name, wantedTicks(part, plan, setting)]);
      expect(made.length).toBeGreaterThan(10);
    });
  });

  it('does so for sequences at random, steady, moving and dark by turns', () => {
    const step = fc.oneof(
      fc.record({ periods: fc.integer({ min: 1, max: 4 }) }),
      fc.record({ periods: fc.integer({ min: 1, max: 4 }), duty: fc.constantFrom(0, 0.1, 0.5, 0.9, 1) }),
      fc.record({
        periods: fc.integer({ min: 2, max: 5 }),
        duty: fc.constantFrom(0, 0.2, 1),
        toDuty: fc.constantFrom(0.1, 0.8),
      }),
      fc.record({ rest: fc.constant(true), periods: fc.integer({ min: 1, max: 3 }) }),
    );
    const drawn = fc.sample(
      fc.record({
        at: fc.nat(PARTS.length - 1),
        steps: fc.array(step, { minLength: 1, maxLength: 5 }),
        once: fc.boolean(),
      }),
      { numRuns: 60, seed: 271_129 },
    );
    const made = drawn.flatMap(({ at, steps, once }) => {
      const part = PARTS[at];
      const signal: PlanSignal = { ...FADE, sequence: { steps, ...(once ? { once } : {}) } };
      const found = part && planWith(part, signal, 'software-pwm');
      return found ? [{ part, ...found }] : [];
    });
    expect(made.length).toBeGreaterThan(30);
    const runs = runOnChip(made.map(({ part, ...own }) => programOf(part, own)));
    made.forEach(({ part, plan, setting }, at) => {
      const [signal] = plan.signals;
      expect([signal, edgesIn(part, plan, setting, runs[at] ?? [])]).toEqual([
        signal,
        wantedTicks(part, plan, setting),
      ]);
    });
  });

  it('flashes by hand: 10 Hz by a tick of 20 Hz, dark for a period first; edges at every half period that is not dark', () => {
    const part = shipped('atmega328p');
    const setting: Setting = {
      drive: 'interrupt',
      timer: 'TIMER1',
      mode: 'ctc',
      prescaler: 64,
      top: 12_499,
      divider: 1,
      pin: 'PB5',
    };
    const plan = planOn(part, { ...DOTS, setting });
    const moments = momentsOf(part, plan, setting, PERIODS, 1000);
    const steps = runOnChip([programOf(part, { plan, setting })])[0] ?? [];
    const from = steps.findIndex((step) => step.do === 'mark' && step.name === 'play');
    // 16 MHz / 64 / 12500 = 20 Hz: a tick is 50 ms. Low for 100, two flashes, 300 dark, one flash; then again.
    const edges = playedEdges(part, 'PB5', moments, steps.slice(from)).map((time) => Math.round(time * 1000));
    expect(edges.slice(0, 8)).toEqual([150, 200, 250, 300, 650, 700, 750, 800]);
    expect(edges.slice(8, 12)).toEqual([850, 900, 1250, 1300]);
  });

  it('hands the width of each row to the match of a pair, before it is due', () => {
    const part = shipped('atmega328p');
    const made = planWith(part, FADE, 'interrupt-pair');
    if (made?.setting.drive !== 'interrupt-pair') throw new Error('no pair');
    const { top, channel } = made.setting;
    const program = programOf(part, made);
    const tick = ['mark("call");', ...comeLines(part, tickIn(part, made.setting))];
    const body = ['try_out_init();', 'try_out_start();', ...Array.from({ length: 9 }, () => tick).flat()];
    const steps = runOnChip([{ ...program, body: [...body, 'mark("call end");'] }])[0] ?? [];
    const register = `OCR${channel.slice(2)}`;
    const widths = imagesOf(steps).map((image) => image.get(register));
    // High for 30 %, then 20 to 80 %, of top + 1 counts, one of them for the match itself; the dark period leaves the last one.
    const share = (percent: number) => Math.round(((top + 1) * percent) / 100) - 1;
    expect(widths.slice(0, 9)).toEqual([...[30, 30, 30, 20, 40, 60, 80, 80, 30].map(share)]);
  });

  it('ends with the running period when asked, and begins anew', () => {
    const part = shipped('atmega328p');
    const made = planWith(part, DOTS, 'interrupt');
    if (!made) throw new Error('no interrupt');
    const program = programOf(part, made);
    const moments = momentsOf(part, made.plan, made.setting, PERIODS, 20_000);
    const body = [
      ...program.body,
      'lamp_play(0);',
      'mark("asked");',
      ...playLines(part, made.setting, moments),
    ];
    const steps = runOnChip([{ ...program, body: [...body, 'mark("end");'] }])[0] ?? [];
    const second = steps.slice(steps.findIndex((step) => step.do === 'mark' && step.name === 'asked'));
    // At most the fall of the period under way is left.
    expect(playedEdges(part, made.setting.pin ?? '', moments, second).length).toBeLessThan(3);
  });

  it('that moves its frequency needs a period that is taken at once, of its own', () => {
    const sweep: PlanSignal = {
      ...DOTS,
      sequence: { steps: [{ periods: 2 }, { periods: 2, frequencyHz: 20 }] },
    };
    const reasonOn = (id: string, drive: string): string => {
      const part = shipped(id);
      const made = planWith(part, sweep, drive);
      return made ? planCode(made.plan, part, { failing: true }).leftOut.join() : 'no such setting';
    };
    // CTC of AVR compares with what is written; ARR of STM32F401 is buffered here.
    expect(reasonOn('atmega328p', 'interrupt')).toBe('');
    const made = planWith(shipped('atmega328p'), sweep, 'interrupt');
    expect(made && planCode(made.plan, shipped('atmega328p'), { failing: true }).files[0]?.text).toMatch(
      /^ +(?:ICR|OCR)\d\w? = top;$/m,
    );
    expect(reasonOn('stm32f401', 'interrupt')).toMatch(/a new period only after one more run/);
    expect(reasonOn('atmega328p', 'software-pwm')).toMatch(/would end with the new one/);
  });

  it('is started and ended by a call', () => {
    for (const [name, part, plan] of cases) {
      const header = planCode(plan, part, { failing: true }).files.find((file) => file.name.endsWith('.h'));
      expect([name, header?.text.includes('void lamp_play(uint8_t on);')]).toEqual([name, true]);
    }
  });
});
