import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { planWaveforms } from '../../src/evaluate/waveforms.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { waveformSource } from '../../src/wave/source.ts';
import { LIGHTS, MORSE, type Light } from '../helpers/lights.ts';
import { planOn } from '../helpers/plan.ts';
import { shipped } from '../helpers/parts.ts';

const CASES = ['atmega328p', 'pic18f4620', 'samd21g18', 'stm32f401'].flatMap((id) =>
  [...LIGHTS, MORSE].map((light) => [shipped(id).name, light.name, shipped(id), light] as const),
);

/** A plan for a light, with a crystal where the clock of a new plan would be too rough for a rhythm. */
function planFor(part: Part, { signal }: Light): Plan {
  return planOn(part, signal);
}

/** Lit and dark times of the second pass, in s. */
function timesIn(part: Part, plan: Plan, { times }: Light): number[] {
  const [lane] = planWaveforms(plan, part);
  if (!lane) throw new Error('no waveform');
  const passS = times.reduce((sum, one) => sum + one, 0);
  const edges = [...waveformSource(lane.waveform, lane.tickHz).edges(0, 5 * passS)];
  const [first = 0] = edges;
  // The first pass begins with the first edge; from the one that is a pass later on everything repeats.
  const from = edges.findIndex((edge) => edge > first + passS - Math.min(...times) / 2);
  const own = edges.slice(from, from + times.length + 1);
  return own.slice(1).map((edge, at) => edge - (own[at] ?? 0));
}

describe.each(CASES)('%s: %s', (_, __, part, light) => {
  const plan = planFor(part, light);

  it('flashes as its chart says, and the code does all of it', () => {
    const { signals } = evaluatePlan(plan, part);
    const failing = signals
      .flatMap(({ outcome }) => outcome?.checks ?? [])
      .filter(({ verdict }) => verdict !== 'pass');
    expect(failing).toEqual([]);
    const labels = signals[0]?.outcome?.checks.map(({ label }) => label);
    expect(labels).toEqual(expect.arrayContaining(['pulse length', 'gap', 'cycle']));
    expect(planCode(plan, part).leftOut).toEqual([]);
    const made = timesIn(part, plan, light);
    expect(made).toHaveLength(light.times.length);
    made.forEach((time, at) => {
      const wanted = light.times[at] ?? 0;
      expect(Math.abs(time - wanted)).toBeLessThanOrEqual(0.031 * wanted);
    });
  });
});
