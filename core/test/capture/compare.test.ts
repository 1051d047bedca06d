import { KHZ_PWM } from '../helpers/khz-settings.ts';
import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { csvReader } from '../../src/io/csv-read.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { writePlan } from '../../src/plan/write-plan.ts';
import { compareCapture } from '../../src/capture/compare.ts';
import { explainRate } from '../../src/slips/rate-slips.ts';
import { planWaveforms } from '../../src/evaluate/waveforms.ts';
import { partById } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import type { Capture } from '../../src/wave/capture.ts';
import { histogramOf, lineOf, shortPulses, usualLengths, withoutShort } from '../../src/wave/statistics.ts';
import { waveformEdgeList } from '../../src/wave/stream.ts';
import type { EdgeList } from '../../src/wave/edges.ts';

const part = partById('stm32f401') as Part;
const pwm = (timer: string, pin: string, prescaler: number, top: number, compare: number): OutputSetting => ({
  drive: 'pwm',
  timer,
  mode: 'up',
  channel: 'CH1',
  pin,
  prescaler,
  top,
  compare,
});

const PLAN: Plan = {
  format: 'herzschlag-plan',
  version: PLAN_VERSION,
  name: 'Bench',
  part: 'stm32f401',
  clock: {
    source: 'crystal',
    sourceHz: 8000000,
    tolerancePpm: 30,
    settings: { pllM: 8, pllN: 336, pllP: 4 },
  },
  signals: [
    {
      id: 'horn',
      name: 'Fog horn',
      kind: 'tone',
      target: { frequencyHz: 1000, toleranceCents: 5 },
      setting: pwm('TIM3', 'PA6', 84, 999, 500),
    },
    {
      id: 'shutter',
      name: 'Shutter',
      kind: 'pulse',
      target: { frameHz: 50, widthS: 0.0015 },
      setting: pwm('TIM4', 'PB6', 840, 1999, 150),
    },
    {
      id: 'lamp',
      name: 'Chart lamp',
      kind: 'blink',
      target: { frequencyHz: 200, duty: 0.25, frequencyTolerancePpm: 4000 },
      setting: pwm('TIM2', 'PA0', 840, 499, 125),
    },
  ],
};

/** Whole numbers below a bound that look random and are the same each time. */
function noise(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}

/** The plan as a logic analyser of 1 ns would have seen it: a clock that is fast, edges that jitter. */
function captured(plan: Plan, ratio: number, jitterS: number, seconds: number, shiftS = 0.0123): Capture {
  const random = noise(7);
  const wires = planWaveforms(plan, part).map(({ signal, waveform, tickHz }, at) => {
    const { edges } = waveformEdgeList(waveform, Math.ceil(seconds * tickHz * ratio));
    const times = Float64Array.from(edges, (edge) => {
      const off = (random() * 2 - 1) * jitterS;
      return Math.round((edge / tickHz / ratio + shiftS + off) * 1e9);
    });
    return {
      name: `D${at}`,
      signal,
      times: Float64Array.from([0, ...times]),
      levels: Uint8Array.from([0, ...times].map((_, index) => index % 2)),
    };
  });
  return { tickHz: 1e9, from: 0, to: Math.round((seconds + shiftS) * 1e9), wires };
}

describe('a capture from a bench whose clock is 0.22 % fast, with 300 ns of jitter', () => {
  const [horn, shutter, lamp] = PLAN.signals;
  // The shutter's top register got 2000 instead of 1999: one count too many.
  const wrong: Plan = {
    ...PLAN,
    signals: [horn!, { ...shutter!, setting: pwm('TIM4', 'PB6', 840, 2000, 150) }, lamp!],
  };
  const seen = compareCapture(PLAN, part, captured(wrong, 1.0022, 300e-9, 2));

  it('finds the wires by their rates', () => {
    expect(seen.pairs.map(({ wire, signal }) => `${wire} ${signal}`)).toEqual([
      'D0 horn',
      'D1 shutter',
      'D2 lamp',
    ]);
    expect(seen.unmapped).toEqual([]);
  });

  it('estimates the ratio within 20 ppm and says what it is', () => {
    expect(Math.abs(seen.ratio / 1.0022 - 1) * 1e6).toBeLessThan(20);
    expect(seen.agreeing).toBe(2);
    expect(seen.sentence).toBe('2 signals are all 2.20 per mille fast: the oscillator, not the dividers.');
  });

  it('names the slip of the one, and none of the others', () => {
    expect(seen.pairs.map(({ slip }) => slip?.id)).toEqual([undefined, 'minus-one', undefined]);
    expect(seen.pairs[1]?.slip?.text).toContain('2\u202f000 instead of 1\u202f999');
    expect(seen.pairs[1]?.ownPpm).toBeCloseTo(-1e6 / 2001, -1);
  });

  it('says where the computed waveform begins in the capture', () => {
    for (const { startS } of seen.pairs) expect(Math.abs((startS ?? 0) - 0.0123)).toBeLessThan(400e-9);
  });

  it('holds each against its target: 2200 ppm are within 4000, not within 5 cents with the slip of 500 on top', () => {
    const verdicts = seen.pairs.map(({ checks }) =>
      checks.map(({ property, verdict }) => `${property} ${verdict}`),
    );
    expect(verdicts[2]).toEqual(['frequency pass', 'duty pass', 'glitches pass']);
    expect(verdicts[0]?.[0]).toBe('frequency pass');
  });

  it('keeps to what the user says of the wires', () => {
    const said = compareCapture(PLAN, part, captured(PLAN, 1, 0, 1), { D0: '', D2: 'horn' });
    expect(said.pairs.map(({ wire, signal }) => `${wire} ${signal}`)).toEqual(['D1 shutter', 'D2 horn']);
    expect(said.unmapped).toEqual(['D0']);
  });

  it('leaves the plan untouched', () => {
    const before = writePlan(PLAN);
    compareCapture(PLAN, part, captured(PLAN, 1.01, 1e-6, 1));
    expect(writePlan(PLAN)).toBe(before);
  });
});

describe('what a capture cannot say', () => {
  it('is unknown, with the length it would need', () => {
    const { pairs, sentence } = compareCapture(PLAN, part, captured(PLAN, 1, 0, 0.004), {
      D0: 'horn',
      D1: 'shutter',
      D2: 'lamp',
    });
    const slow = pairs.find(({ signal }) => signal === 'lamp');
    expect(slow?.checks[0]).toMatchObject({ property: 'frequency', verdict: 'unknown' });
    expect(slow?.checks[0]?.note).toContain('10 ms would be long enough');
    expect(sentence).not.toBe('');
  });

  it('one signal alone tells no oscillator from a divider', () => {
    const one: Plan = { ...PLAN, signals: PLAN.signals.slice(0, 1) };
    const { sentence, pairs } = compareCapture(one, part, captured(one, 1.0005, 0, 1));
    expect(sentence).toContain('one signal alone');
    expect(pairs[0]?.ownPpm).toBeCloseTo(500, 0);
  });

  it('counts glitches: a pulse far too short for the target', () => {
    const capture = captured(PLAN, 1, 0, 1);
    const wire = capture.wires[2]!;
    const at = 1 + wire.times.findIndex((time) => time > 5e8);
    const times = [...wire.times];
    times.splice(at, 0, (times[at - 1] ?? 0) + 3000, (times[at - 1] ?? 0) + 6000);
    const hit = {
      ...wire,
      times: Float64Array.from(times),
      levels: Uint8Array.from(times.map((_, index) => index % 2)),
    };
    const { pairs } = compareCapture(
      PLAN,
      part,
      { ...capture, wires: [...capture.wires.slice(0, 2), hit] },
      { D2: 'lamp' },
    );
    const glitches = pairs
      .find(({ signal }) => signal === 'lamp')
      ?.checks.find(({ property }) => property === 'glitches');
    expect(glitches).toMatchObject({ verdict: 'fail', value: 2 });
    // Its rate is told without them.
    const own = pairs.find(({ signal }) => signal === 'lamp');
    expect([own?.frequencyHz, own?.ownPpm, own?.slip]).toEqual([
      expect.closeTo(200, 5),
      expect.closeTo(0, 2),
      undefined,
    ]);
  });
});

describe('rates and their mistakes', () => {
  const avr = partById('atmega328p') as Part;
  const setting: OutputSetting = { ...KHZ_PWM, compare: 100 };

  it.each([
    [250 / 251, 'minus-one'],
    [250 / 249, 'minus-one-twice'],
    [0.5, 'half'],
    [2, 'double'],
    [64 / 256, 'prescaler'],
    [64, 'prescaler'],
    [1000, 'unit-1000'],
    [250 / 261, 'top'],
  ])('%f times as fast: %s', (factor, id) => {
    expect(explainRate(avr, setting, factor, 50e-6)?.id).toBe(id);
  });

  // Phase correct: a run is 2 x 64 x 250 ticks, so one count of the top too many makes 250 / 251 of the rate.
  it.each([
    [250 / 251, 'minus-one', '251 instead of 250'],
    [250 / 249, 'minus-one-twice', '249 instead of 250'],
    [250 / 260, 'top', 'A top of 260 instead of 250'],
  ])('%f times as fast in an up-down mode: %s', (factor, id, words) => {
    const updown = { ...setting, mode: 'phase-icr', top: 250 };
    const slip = explainRate(avr, updown, factor, 50e-6);
    expect([slip?.id, slip?.factor]).toEqual([id, expect.closeTo(factor, 9)]);
    expect(slip?.text).toContain(words);
  });

  it('says nothing of what needs no reason, nor of what no number gives', () => {
    expect(explainRate(avr, setting, 1.00001, 50e-6)).toBeUndefined();
    expect(explainRate(avr, setting, 1.7013, 50e-6)).toBeUndefined();
  });
});

describe('statistics', () => {
  const trace = (rises: number[], width = 3): EdgeList => ({
    start: 0,
    edges: Float64Array.from(rises.flatMap((rise) => [rise, rise + width])),
    from: 0,
    to: (rises[rises.length - 1] ?? 0) + 10,
  });

  it('the line through exact edges is exact; its peak and sigma are those of what was added', () => {
    expect(lineOf(trace([5, 15, 25, 35]))).toEqual({
      rises: 4,
      periodTicks: 10,
      phaseTicks: 5,
      peakTicks: 0,
      sigmaTicks: 0,
    });
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: 60 }),
        fc.integer({ min: 8, max: 1000 }),
        fc.nat(1000),
        (rises, period, phase) => {
          const line = lineOf(trace(Array.from({ length: rises }, (_, at) => phase + at * period)));
          expect(line?.periodTicks).toBeCloseTo(period, 6);
          expect(line?.phaseTicks).toBeCloseTo(phase, 5);
        },
      ),
    );
    // Residuals of +1, -2, +1 are at right angles to a line: they stay as they are.
    const bent = lineOf(trace([101, 198, 301]));
    expect([bent?.peakTicks, bent?.sigmaTicks]).toEqual([
      expect.closeTo(2, 9),
      expect.closeTo(Math.sqrt(2), 9),
    ]);
    expect(lineOf(trace([1, 2]))).toBeUndefined();
  });

  it('usual lengths, and a trace without what is far shorter', () => {
    const own: EdgeList = {
      start: 0,
      edges: Float64Array.from([0, 30, 100, 130, 160, 161, 200, 230, 300]),
      from: 0,
      to: 400,
    };
    expect(usualLengths(own)).toEqual({ high: 30, low: 70 });
    expect([...withoutShort(own, 6).edges]).toEqual([0, 30, 100, 130, 200, 230, 300]);
    expect(withoutShort(own, 1)).toBe(own);
  });

  it('short pulses and histograms', () => {
    const own = trace([0, 10, 21, 30]);
    expect(shortPulses(own, 4)).toEqual([0, 2, 4, 6]);
    expect(histogramOf(own, 'period', 3)).toEqual({ min: 9, max: 11, bins: [1, 1, 1], total: 3 });
    expect(histogramOf(own, 'width', 2)).toMatchObject({ min: 3, max: 3, total: 4 });
  });
});

it('reads a table of volts and compares it like any other capture', () => {
  const rows = Array.from({ length: 20000 }, (_, at) => `${at * 10},${at % 100 < 50 ? 3.2 : 0.1}`);
  const reader = csvReader();
  reader.push(Uint8Array.from(`t (us),horn\n${rows.join('\n')}\n`, (letter) => letter.charCodeAt(0)));
  const { pairs, ratio } = compareCapture(PLAN, part, reader.end());
  expect(pairs.map(({ wire, signal }) => `${wire} ${signal}`)).toEqual(['horn horn']);
  expect(ratio).toBeCloseTo(1, 6);
});
