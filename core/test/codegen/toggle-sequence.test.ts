import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { sequenceWaveform } from '../../src/evaluate/sequence-rows.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { outcomeUnder, resolveSetting } from '../../src/timer/drives/index.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { tickOf } from '../../src/timer/tick.ts';
import { waveformSource } from '../../src/wave/source.ts';
import { holdsWrites, imagesOf } from '../helpers/chip-image.ts';
import { comeLines } from '../helpers/chip-play.ts';
import { faultsOf } from '../helpers/chip-rules.ts';
import { runOnChip, type Step } from '../helpers/chip.ts';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';
import { DOTS } from '../helpers/sequence-plans.ts';

/** 10 Hz of two runs each, toggled at the top: 16 MHz / 64 / 12500, and 84 MHz / 8400 / 500, are 20 Hz. */
const SETTINGS: Readonly<Record<string, OutputSetting>> = {
  atmega328p: {
    ...{ drive: 'toggle', timer: 'TIMER1', mode: 'ctc', channel: 'OC1A', pin: 'PB1' },
    ...{ prescaler: 64, top: 12_499, compare: 12_499 },
  },
  stm32f401: {
    ...{ drive: 'toggle', timer: 'TIM3', mode: 'up', channel: 'CH1', pin: 'PA6' },
    ...{ prescaler: 8400, top: 499, compare: 499 },
  },
};

const RUNS = 36;

function planFor(id: string, sequence = DOTS.sequence): { part: Part; plan: Plan; setting: OutputSetting } {
  const part = shipped(id);
  const setting = SETTINGS[id];
  if (!setting || !sequence) throw new Error('no setting');
  return { part, plan: planOn(part, { ...DOTS, sequence, setting }), setting };
}

/** The program of a plan with the interrupts at the ends of runs; statements come before one by its number. */
function playedOf(
  { part, plan, setting }: ReturnType<typeof planFor>,
  calls: Record<number, string> = {},
): Parameters<typeof runOnChip>[0][number] {
  const { timer, mode } = resolveSetting(part, setting);
  const tick = tickOf(timer, mode);
  if (!tick) throw new Error('no tick');
  const runs = Array.from({ length: RUNS }, (_, at) => [
    `mark("call ${at}");`,
    ...(calls[at] === undefined ? [] : [calls[at]]),
    ...comeLines(part, tick),
  ]);
  const { files } = planCode(plan, part, { failing: true });
  return {
    part,
    files,
    body: [
      'try_out_init();',
      'mark("start");',
      'try_out_start();',
      'mark("run");',
      ...runs.flat(),
      'mark("call end");',
    ],
  };
}

/** Edges of the pin in ticks: at the match of each run its output changes, or is kept low, as the registers say before it. */
function edgesOf({ part, setting }: ReturnType<typeof planFor>, steps: readonly Step[]): number[] {
  const { output, mode, division } = resolveSetting(part, setting);
  const { low = {} } = output;
  const on = Object.fromEntries(Object.keys(low).map((key) => [key, output.writes[key] ?? 0]));
  const images = imagesOf([{ do: 'mark', name: 'call' }, ...steps]);
  const run = (setting.top + 1) * division.n;
  const match = (setting.compare + (mode.lag ?? 0)) * division.n;
  let level = false;
  return images.slice(0, RUNS).flatMap((image, at) => {
    const next = holdsWrites(part, on, {}, image) ? !level : false;
    const changed = next !== level;
    level = next;
    return changed ? [at * run + match] : [];
  });
}

/** Edges of the computed waveform in the same time, in ticks. */
function wantedOf({ part, plan, setting }: ReturnType<typeof planFor>): number[] {
  const [signal] = plan.signals;
  if (!signal?.sequence) throw new Error('no sequence');
  const path = clockPath(part, plan.clock);
  const waveform = sequenceWaveform(part, path, signal, signal.sequence, setting);
  const { tickHz, cycle } = outcomeUnder(part, path, setting);
  const hz = tickHz.valueOf();
  const until = (RUNS * cycle.periodTicks) / 2;
  return [...waveformSource(waveform, hz).edges(0, (until + 0.5) / hz)].map((time) => Math.round(time * hz));
}

describe.each(Object.keys(SETTINGS))('a sequence of an output that toggles at its match, on %s', (id) => {
  it('changes the pin as the waveform says, and starts low', () => {
    const made = planFor(id);
    expect(planCode(made.plan, made.part, { failing: true }).leftOut).toEqual([]);
    const steps = runOnChip([playedOf(made)])[0] ?? [];
    expect(edgesOf(made, steps)).toEqual(wantedOf(made));
    expect(edgesOf(made, steps).length).toBeGreaterThan(15);
  });

  it('leaves the registers of the table behind as it starts', () => {
    const made = planFor(id);
    const program = playedOf(made);
    const body = [
      'try_out_init();',
      'mark("start");',
      'try_out_start();',
      'mark("run");',
      'mark("stop");',
      'try_out_stop();',
    ];
    const steps = runOnChip([{ ...program, body }])[0] ?? [];
    const { registers } = evaluatePlan(made.plan, made.part);
    const found = registers.flatMap(({ name, value, mask }) => {
      const last = [
        ...steps.slice(
          0,
          steps.findIndex((step) => step.do === 'mark' && step.name === 'run'),
        ),
      ]
        .reverse()
        .find((step) => step.do === 'write' && step.register === name);
      return last?.do === 'write' ? [[name, (last.value & mask) >>> 0, value]] : [];
    });
    expect(found.length).toBeGreaterThan(4);
    for (const [name, left, table] of found) expect([name, left]).toEqual([name, table]);
    expect(faultsOf(made.part, [made.setting], registers, steps)).toEqual([]);
  });

  it('does so for sequences at random', () => {
    const step = fc.oneof(
      fc.record({ periods: fc.integer({ min: 1, max: 4 }) }),
      fc.record({ rest: fc.constant(true), periods: fc.integer({ min: 1, max: 3 }) }),
    );
    const drawn = fc.sample(
      fc.record({ steps: fc.array(step, { minLength: 1, maxLength: 5 }), once: fc.boolean() }),
      { numRuns: 15, seed: 271_130 },
    );
    const made = drawn.map(({ steps, once }) => planFor(id, { steps, ...(once ? { once } : {}) }));
    const runs = runOnChip(made.map((one) => playedOf(one)));
    made.forEach((one, at) => {
      expect([one.plan.signals[0]?.sequence, edgesOf(one, runs[at] ?? [])]).toEqual([
        one.plan.signals[0]?.sequence,
        wantedOf(one),
      ]);
    });
  });

  it('ends with the running period when asked', () => {
    const made = planFor(id, { steps: [{ periods: 1 }] });
    const steps = runOnChip([playedOf(made, { 6: 'lamp_play(0);' })])[0] ?? [];
    // Low for two runs, then changes at every one; asked in the seventh run, it is low from the ninth on.
    expect(edgesOf(made, steps)).toHaveLength(6);
  });
});

it('moves its frequency where a period is taken at once: the top and the match with it', () => {
  const sweep: PlanSignal['sequence'] = { steps: [{ periods: 2 }, { periods: 2, frequencyHz: 20 }] };
  const avr = planFor('atmega328p', sweep);
  const { files, leftOut } = planCode(avr.plan, avr.part, { failing: true });
  expect(leftOut).toEqual([]);
  // Half of 12500 counts, less one.
  expect(files[0]?.text).toMatch(/\{ 2u, 1u, 6249u \}/);
  expect(files[0]?.text).toContain('OCR1A = compare;');
  const arm = planFor('stm32f401', sweep);
  expect(planCode(arm.plan, arm.part, { failing: true }).leftOut[0]).toMatch(/cannot move|one more run/);
});
