import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { planWaveforms } from '../../src/evaluate/waveforms.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import type { SequenceStep } from '../../src/signal/sequence.ts';
import { waveformSource } from '../../src/wave/source.ts';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

const PARTS = ['atmega328p', 'pic18f4620', 'samd21g18', 'stm32f401'].map(
  (id) => [shipped(id).name, shipped(id)] as const,
);

function horn(steps: SequenceStep[]): PlanSignal {
  return { id: 'horn', name: 'Horn', kind: 'tone', target: { frequencyHz: 440 }, sequence: { steps } };
}

/** Four notes of a fog horn that was never built: in Hz, in s; 0 Hz is silence. */
const NOTES = [
  [440, 0.25],
  [550, 0.25],
  [0, 0.1],
  [660, 0.5],
  [0, 0.4],
] as const;

const MELODY = horn(NOTES.map(([hz, forS]) => (hz === 0 ? { rest: true, forS } : { frequencyHz: hz, forS })));

function failing(plan: Plan, part: (typeof PARTS)[number][1]): string[] {
  const checks = evaluatePlan(plan, part).signals.flatMap(({ outcome }) => outcome?.checks ?? []);
  return checks.flatMap(({ label, property, verdict }) => (verdict === 'pass' ? [] : [label ?? property]));
}

describe.each(PARTS)('a melody on %s', (_, part) => {
  const plan = planOn(part, MELODY);

  it('has each note for its time, and the pauses between them, pass after pass', () => {
    expect(failing(plan, part)).toEqual([]);
    expect(planCode(plan, part).leftOut).toEqual([]);
    const [lane] = planWaveforms(plan, part);
    if (!lane) throw new Error('no waveform');
    const edges = waveformSource(lane.waveform, lane.tickHz).edges(0, 6.1);
    const rises = [...edges].filter((__, at) => at % 2 === 0);
    const [first = 0] = rises;
    // 0.25 s of 440 Hz are 110 periods, 0.25 s of 550 Hz 137.5, 0.5 s of 660 Hz 330.
    for (const pass of [0, 1, 2]) {
      // Each note may end up to a period late or early, so a pass may be up to three of them longer or shorter.
      let at = first + 1.5 * pass;
      for (const [hz, seconds] of NOTES) {
        const apart = 0.008 * (pass + 1);
        const own = rises.filter((rise) => rise > at + apart && rise < at + seconds - apart);
        if (hz === 0) expect(own).toEqual([]);
        else {
          const period = ((own.at(-1) ?? 0) - (own[0] ?? 0)) / (own.length - 1);
          // Five cents.
          expect(Math.abs(1200 * Math.log2(1 / period / hz))).toBeLessThanOrEqual(5);
          expect(Math.abs(own.length - (seconds - 2 * apart) * hz)).toBeLessThanOrEqual(1.5);
        }
        at += seconds;
      }
    }
  });

  it('says which step fails where one is out of what the timer can follow at this resolution', () => {
    // From 440 Hz to 443 Hz in 2 s, and on 443 Hz for a second: ends and lengths of both steps are judged.
    const glide = horn([
      { frequencyHz: 440, toHz: 443, forS: 2 },
      { frequencyHz: 443, forS: 1 },
    ]);
    const labels = evaluatePlan(planOn(part, glide), part).signals[0]?.outcome?.checks.map(
      ({ label }) => label,
    );
    expect(labels).toEqual(
      expect.arrayContaining(['frequency of a step', 'duty of a step', 'length of a step', 'cycle']),
    );
  });
});

it('fails a step that the timer is too coarse for: 8 bits make 440 Hz and not 443', () => {
  // Timer 2 of ATmega328P at 16 MHz, ÷256, toggled: 440.14 Hz at top 70, 434.03 at 71, 446.43 at 69; 443 +- 0.29 % is none of them.
  const part = shipped('atmega328p');
  const signal: PlanSignal = {
    ...horn([
      { frequencyHz: 440, forS: 1 },
      { frequencyHz: 443, forS: 1 },
    ]),
    setting: {
      drive: 'toggle',
      timer: 'TIMER2',
      mode: 'ctc',
      channel: 'OC2A',
      pin: 'PB3',
      prescaler: 256,
      top: 70,
      compare: 70,
    },
  };
  const checks = evaluatePlan(planOn(part, signal), part).signals[0]?.outcome?.checks ?? [];
  const own = checks.find(({ label }) => label === 'frequency of a step');
  expect(own).toMatchObject({ verdict: 'fail', value: expect.closeTo(440.14, 1) as number });
  expect([own?.low, own?.high]).toEqual([expect.closeTo(441.72, 1), expect.closeTo(444.28, 1)]);
});
