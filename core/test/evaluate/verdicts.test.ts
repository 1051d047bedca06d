import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { signalFit } from '../../src/evaluate/choose.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { evaluateSetting } from '../../src/evaluate/signal.ts';
import { planWaveforms } from '../../src/evaluate/waveforms.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import type { Setting } from '../../src/timer/setting.ts';
import { countsFor } from '../../src/timer/count.ts';
import { waveformSource } from '../../src/wave/source.ts';
import { shipped as partOf, PARTS } from '../helpers/parts.ts';

const SEED = 41023;
const RUNS = Number(process.env['HZ_RUNS'] ?? 60);

function planOf(part: string, ...signals: PlanSignal[]): Plan {
  const own = partOf(part);
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Verdicts',
    part,
    clock: own.defaultClock,
    signals,
  };
}

function blink(frequencyHz: number, duty: number): PlanSignal {
  return { id: 'lamp', name: 'Lamp', kind: 'blink', target: { frequencyHz, duty } };
}

/** The rate of a trace and the share of it that is high, read off its edges and the level between the first two. */
function measured(edges: Float64Array, level: (at: number) => number): { hz: number; duty: number } {
  const [first = 0, second = 0] = edges;
  const own = level((first + second) / 2) === 1 ? edges : edges.slice(1);
  const whole = own.slice(0, own.length - ((own.length + 1) % 2));
  const span = (whole[whole.length - 1] ?? 0) - (whole[0] ?? 0);
  let high = 0;
  for (let at = 0; at + 1 < whole.length; at += 2) high += (whole[at + 1] ?? 0) - (whole[at] ?? 0);
  return { hz: (whole.length - 1) / 2 / span, duty: high / span };
}

describe('counts for a share', () => {
  it('keeps one count high and one low strictly between 0 and 1', () => {
    expect(countsFor(0.001, 50)).toBe(1);
    expect(countsFor(0.999, 50)).toBe(49);
    expect(countsFor(0, 50)).toBe(0);
    expect(countsFor(1, 50)).toBe(50);
    expect(countsFor(0.3, 10)).toBe(3);
  });
});

describe('a pin that never changes', () => {
  const still: Setting = {
    drive: 'software-pwm',
    timer: 'ALARM0',
    mode: 'alarm',
    pin: 'GPIO0',
    prescaler: 1,
    top: 249_999,
    divider: 2,
    compare: 0,
  };

  it.each([0, 2])('has no frequency, so it fails a target that has one (compare %d of 2)', (compare) => {
    const part = partOf('rp2040');
    const signal = blink(2, compare === 0 ? 0.01 : 0.99);
    const { checks } = evaluateSetting(part, clockPath(part, part.defaultClock), signal, {
      ...still,
      compare,
    });
    expect(checks.find(({ property }) => property === 'frequency')).toMatchObject({
      verdict: 'fail',
      note: `The pin stays ${compare === 0 ? 'low' : 'high'}: it has no frequency.`,
    });
  });

  it('makes the plan fail', () => {
    const plan = planOf('rp2040', { ...blink(2, 0.01), setting: still });
    const { signals, passing, total } = evaluatePlan(plan, partOf('rp2040'));
    expect(signals[0]?.verdict).toBe('fail');
    expect(passing).toBeLessThan(total);
  });

  it.each([
    ['rp2040', 0.01],
    ['rp2040', 0.99],
    ['atmega328p', 0.01],
    ['stm32f401', 0.99],
  ])('is never proposed: %s at %d', (id, duty) => {
    const part = partOf(id);
    const fit = signalFit(part, clockPath(part, part.defaultClock), blink(2, duty));
    expect(fit.candidates.length).toBeGreaterThan(0);
    for (const one of fit.candidates) expect(one.duty > 0 && one.duty < 1).toBe(true);
  });

  it.each([
    ['stm32f401', 2e6, 0.01],
    ['atmega328p', 400e3, 0.01],
    ['atmega328p', 400e3, 0.995],
  ])('is never proposed for a fast tone: %s at %d Hz, %d', (id, frequencyHz, duty) => {
    const part = partOf(id);
    const signal: PlanSignal = { id: 't', name: 'T', kind: 'tone', target: { frequencyHz, duty } };
    const fit = signalFit(part, clockPath(part, part.defaultClock), signal);
    // None may be left at such a rate; those that are near say what is missing.
    expect(fit.candidates.length + fit.near.length).toBeGreaterThan(0);
    expect(fit.candidates.filter((one) => one.duty <= 0 || one.duty >= 1)).toEqual([]);
  });

  it('is what 0 % and 100 % ask for', () => {
    const part = partOf('atmega328p');
    for (const duty of [0, 1]) {
      const fit = signalFit(part, clockPath(part, part.defaultClock), blink(2, duty));
      expect(fit.candidates[0]?.duty).toBe(duty);
    }
  });
});

const share = fc.oneof(
  fc.double({ min: 0.001, max: 0.999, noNaN: true }),
  fc.constantFrom(0.001, 0.01, 0.5, 0.99, 0.999),
);
const rate = fc.double({ min: -1, max: 6, noNaN: true }).map((power) => Number((10 ** power).toPrecision(4)));

const signal: fc.Arbitrary<PlanSignal> = fc
  .oneof(
    fc.record({
      kind: fc.constant('blink' as const),
      target: fc.record({ frequencyHz: rate, duty: share }),
    }),
    fc.record({
      kind: fc.constant('tone' as const),
      target: fc.record({ frequencyHz: rate, duty: share, toleranceCents: fc.constantFrom(1, 5, 50) }),
    }),
    fc.record({
      kind: fc.constant('dim' as const),
      target: fc.record({ minHz: rate, minSteps: fc.integer({ min: 2, max: 300 }), duty: share }),
    }),
    fc.record({
      kind: fc.constant('pulse' as const),
      target: fc.record({ frameHz: fc.constantFrom(50, 333), widthS: fc.constantFrom(1e-5, 0.0015, 0.0029) }),
    }),
  )
  .map((one) => ({ id: 's', name: 'S', ...one }));

describe('whatever passes', () => {
  it('has edges, and a measurement of its own agrees with the verdicts', () => {
    let passed = 0;
    fc.assert(
      fc.property(fc.nat(PARTS.length - 1), signal, (at, one) => {
        const part = PARTS[at] ?? partOf('rp2040');
        const plan = planOf(part.id, one);
        const [row] = evaluatePlan(plan, part).signals;
        expect((row?.outcome?.checks ?? []).map(({ verdict }) => verdict)).not.toContain('unknown');
        if (row?.verdict !== 'pass' || !row.outcome) return;
        passed += 1;
        const [lane] = planWaveforms(plan, part);
        if (!lane) throw new Error('no waveform');
        const source = waveformSource(lane.waveform, lane.tickHz);
        const periodS = row.outcome.wave.periodTicks * row.outcome.wave.tickS;
        // Where counts are spread over a long cycle, a part of it has to do.
        const lengthS = Math.min(4.5 * periodS, 2000 / row.outcome.frequencyHz);
        const edges = source.edges(4 * periodS, 4 * periodS + lengthS);
        expect(edges.length).toBeGreaterThan(3);
        const own = measured(edges, (at) => source.level(at));
        const told = Object.fromEntries(row.outcome.checks.map((check) => [check.property, check]));
        const pulses = lengthS * row.outcome.frequencyHz;
        const close = (2 * row.outcome.jitterS) / lengthS + (lengthS < 4.5 * periodS ? 2 / pulses : 0) + 1e-6;
        const { frequency, duty, width } = told;
        if (frequency?.value !== undefined)
          expect(Math.abs(own.hz / frequency.value - 1)).toBeLessThan(close);
        if (duty?.value !== undefined) expect(Math.abs(own.duty - duty.value)).toBeLessThan(close * pulses);
        if (width?.value !== undefined)
          expect(Math.abs((own.duty / own.hz) * row.outcome.frequencyHz - row.outcome.duty)).toBeLessThan(
            close * pulses,
          );
      }),
      { numRuns: RUNS, seed: SEED },
    );
    expect(passed).toBeGreaterThan(RUNS / 3);
  });
});

describe('a servo that moves between two widths', () => {
  const vane = (target: object, setting?: Setting): PlanSignal =>
    ({ id: 'vane', name: 'Vane', kind: 'pulse', target, ...(setting ? { setting } : {}) }) as PlanSignal;
  const stepsOf = (signal: PlanSignal) =>
    evaluatePlan(planOf('pic16f684', signal), partOf('pic16f684')).signals[0]?.outcome?.checks.find(
      ({ property }) => property === 'steps',
    );
  // 16 x 156 cycles of 5 MHz are 0.5 ms: 40 of them a frame, and three places between 1 and 2 ms.
  const coarse: Setting = {
    ...{ drive: 'software-pwm', timer: 'TMR2', mode: 'pwm', prescaler: 16, top: 155, postscale: 1 },
    ...{ pin: 'RA0', divider: 40, compare: 3 },
  };

  it('fails with three places, since each has to be met within 5 µs: 20 ms / 10 µs = 2,000 steps', () => {
    expect(stepsOf(vane({ frameHz: 50, minS: 0.001, maxS: 0.002 }, coarse))).toMatchObject({
      value: 40,
      low: 2000,
      verdict: 'fail',
    });
  });

  it('passes with them where its sentence says so: steps of 0.5 ms', () => {
    expect(stepsOf(vane({ frameHz: 50, minS: 0.001, maxS: 0.002, stepS: 0.0005 }, coarse))?.verdict).toBe(
      'pass',
    );
  });
});

describe('two signals on one timer', () => {
  it('whose frequencies read the same are told by the register that differs', () => {
    const tick = (id: string, name: string, top: number): PlanSignal => ({
      ...{ id, name, kind: 'tick', target: { frequencyHz: 10 } },
      setting: { drive: 'interrupt', timer: 'TMR1', mode: 'reload', prescaler: 8, top, divider: 1 },
    });
    const plan = planOf('pic16f684', tick('a', 'Beat', 62_497), tick('b', 'Log', 62_496));
    // 65,536 - 62,498 = 3,038 = 0x0BDE, whose lower byte is 222.
    expect(evaluatePlan(plan, partOf('pic16f684')).conflicts[0]?.sentence).toBe(
      'Log cannot share Timer 1 with Beat. Both want an interrupt at 10 Hz, by different settings: Beat and Log both need TMR1L, one as 222, the other as 223.',
    );
  });
});
