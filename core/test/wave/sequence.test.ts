import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { writePlan } from '../../src/plan/write-plan.ts';
import { compareCapture } from '../../src/capture/compare.ts';
import { placedSetting } from '../../src/evaluate/placed.ts';
import { timingChecks, signalWaveform } from '../../src/evaluate/timing-checks.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { stm32f401 as part } from '../../src/part/parts/stm32/stm32f401.ts';
import { parsePhase, parseSequence, phaseText, sequenceText } from '../../src/signal/sequence-text.ts';
import type { Sequence } from '../../src/signal/sequence.ts';
import type { Setting } from '../../src/timer/setting.ts';
import type { Capture } from '../../src/wave/capture.ts';
import {
  sequenceEdges,
  sequenceLevel,
  passTicks,
  type SequenceWaveform,
} from '../../src/wave/sequence-waveform.ts';
import { waveformSource } from '../../src/wave/source.ts';
import { waveformEdgeList, type Waveform } from '../../src/wave/stream.ts';

const CLOCK: Plan['clock'] = {
  source: 'crystal',
  sourceHz: 8000000,
  tolerancePpm: 30,
  settings: { pllM: 8, pllN: 336, pllP: 4 },
};
const path = clockPath(part, CLOCK);

function pwm(prescaler: number, top: number, compare: number, more: object = {}): Setting {
  const own = { timer: 'TIM3', mode: 'up', channel: 'CH1', pin: 'PA6', prescaler, top, compare };
  return { drive: 'pwm', ...own, ...more };
}

/** A lantern of 1 Hz, lit for a tenth of a second: 84 MHz through 8400 and 10 000. */
const LANTERN: PlanSignal = {
  id: 'lantern',
  name: 'Lantern',
  kind: 'blink',
  target: { frequencyHz: 1, duty: 0.1 },
  setting: pwm(8400, 9999, 1000),
};

function planOf(...signals: PlanSignal[]): Plan {
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Bench',
    part: part.id,
    clock: CLOCK,
    signals,
  };
}

function laneWith(signal: PlanSignal, sequence: Sequence): Waveform {
  const { setting } = signal;
  if (!setting) throw new Error('no setting');
  return signalWaveform(part, path, { ...signal, sequence }, setting);
}

describe('a sequence', () => {
  it('two flashes and a rest of 2 periods: rises at 1, 2, 5 and 6 s', () => {
    const lane = laneWith(LANTERN, { steps: [{ periods: 2 }, { periods: 2, rest: true }] });
    const edges = [...waveformEdgeList(lane, 7 * 84e6).edges].map((edge) => edge / 84e6);
    expect(edges).toEqual([1, 1.1, 2, 2.1, 5, 5.1, 6, 6.1]);
  });

  it('two flashes and a rest of 3 s: rises at 1, 2, 6 and 7 s, 0.1 s each', () => {
    const lane = laneWith(LANTERN, { steps: [{ periods: 2 }, { forS: 3, rest: true }] });
    const edges = [...waveformEdgeList(lane, 8 * 84e6).edges].map((edge) => edge / 84e6);
    expect(edges).toEqual([1, 1.1, 2, 2.1, 6, 6.1, 7, 7.1]);
  });

  it('once: nothing comes after its end', () => {
    const lane = laneWith(LANTERN, { steps: [{ periods: 3 }], once: true });
    expect(waveformEdgeList(lane, 100 * 84e6).edges).toHaveLength(6);
    expect(waveformSource(lane, 84e6).next(5)).toBeUndefined();
    expect(waveformSource(lane, 84e6).previous(50)).toBeCloseTo(3.1, 9);
  });

  it('a ramp from 0 to 100 % in four periods: 0, 333, 667 and 1000 of 1000 counts', () => {
    const lamp: PlanSignal = {
      id: 'lamp',
      name: 'Lamp',
      kind: 'blink',
      target: { frequencyHz: 1000 },
      setting: pwm(84, 999, 500),
    };
    const lane = laneWith(lamp, { steps: [{ periods: 4, duty: 0, toDuty: 1 }, { periods: 1 }] });
    const edges = [...waveformEdgeList(lane, 6000 * 84).edges].map((edge) => edge / 84);
    // After a first run low: a period low, 333 high, 667 high, all high, and the target's own half.
    expect(edges).toEqual([2000, 2333, 3000, 3667, 4000, 5500]);
  });

  it('a tone that rises from 1 to 2 kHz: periods of 1000 counts at first, of 500 at last, 0.3 s in all', () => {
    const horn: PlanSignal = {
      id: 'horn',
      name: 'Horn',
      kind: 'tone',
      target: { frequencyHz: 1000 },
      setting: pwm(84, 999, 500),
    };
    const lane = laneWith(horn, {
      steps: [{ forS: 0.3, frequencyHz: 1000, toHz: 2000 }],
    }) as SequenceWaveform;
    const lengths = lane.rows.map(({ cycle }) => cycle.periodTicks / 84);
    expect(lengths[0]).toBe(1000);
    expect(lengths[lengths.length - 1]).toBe(500);
    expect(lengths.every((length, at) => at === 0 || length < (lengths[at - 1] ?? 0))).toBe(true);
    expect(passTicks(lane) / 84e6).toBeCloseTo(0.3, 2);
  });

  it('counts its pulses: 440 Hz for 3 s are 1320, give or take what the tolerance of 0.1 % lets through', () => {
    const horn: PlanSignal = {
      id: 'horn',
      name: 'Horn',
      kind: 'tone',
      target: { frequencyHz: 440, frequencyTolerancePpm: 1000 },
      sequence: { steps: [{ forS: 3 }, { forS: 27, rest: true }] },
      setting: pwm(4, 47726, 23863),
    };
    const [pulses] = timingChecks(placedSetting(part, path, horn, horn.setting as Setting));
    expect(pulses).toMatchObject({
      property: 'pulses',
      value: 1320,
      low: 1318,
      high: 1322,
      verdict: 'pass',
    });
  });

  it('a timer without a period register cannot follow a frequency, and says so', () => {
    const fixed = {
      ...LANTERN,
      setting: pwm(8400, 9999, 1000),
      sequence: { steps: [{ periods: 1, frequencyHz: 0.01 }] },
    };
    const [check] = timingChecks(placedSetting(part, path, fixed, fixed.setting));
    expect(check).toMatchObject({ property: 'sequence', verdict: 'fail' });
    expect(check?.note).toContain('the top would be 999999');
  });

  it('any sequence: edges ascend, levels alternate with them, and the source answers as plain counting does', () => {
    const cycle = fc
      .record({ period: fc.integer({ min: 2, max: 9 }), rise: fc.nat(8), fall: fc.nat(8) })
      .filter(({ period, rise, fall }) => rise < period && fall < period && rise !== fall)
      .map(({ period, rise, fall }) => ({ periodTicks: period, edges: { rise, fall } }));
    const low = fc
      .integer({ min: 1, max: 9 })
      .map((periodTicks) => ({ periodTicks, edges: { level: 0 as const } }));
    const row = fc.record({ cycle: fc.oneof(cycle, low), periods: fc.integer({ min: 1, max: 4 }) });
    const lane = fc.record({
      scale: fc.constant(1),
      leadTicks: fc.integer({ min: 1, max: 5 }),
      rows: fc.array(row, { minLength: 1, maxLength: 4 }),
      once: fc.boolean(),
    });
    fc.assert(
      fc.property(lane, fc.nat(120), fc.nat(60), (own, from, length) => {
        const to = from + length;
        const levels = Array.from({ length: 400 }, (_, tick) => sequenceLevel(own, tick));
        const expected = levels.flatMap((level, tick) => (level === (levels[tick - 1] ?? 0) ? [] : [tick]));
        expect([...sequenceEdges(own, 0, 400)]).toEqual(expected);
        const source = waveformSource(own, 10);
        const within = expected.filter((edge) => edge >= from && edge < to).map((edge) => edge / 10);
        expect([...source.edges(from / 10, to / 10)]).toEqual(within);
        expect(source.count(from / 10, to / 10)).toBe(within.length);
        const later = expected.find((edge) => edge > from);
        const next = source.next(from / 10);
        if (later !== undefined) expect(next).toBe(later / 10);
        const before = expected.filter((edge) => edge < from);
        expect(source.previous(from / 10)).toBe(
          before.length === 0 ? undefined : (before[before.length - 1] ?? 0) / 10,
        );
      }),
      { numRuns: 400 },
    );
  });
});

describe('a sequence as people say it', () => {
  const SAID: [string, Sequence['steps']][] = [
    ['2 periods; rest 6 s', [{ periods: 2 }, { forS: 6, rest: true }]],
    ['0 % to 100 % in 2 s; 3 s', [{ forS: 2, duty: 0, toDuty: 1 }, { forS: 3 }]],
    ['880 Hz for 500 ms', [{ forS: 0.5, frequencyHz: 880 }]],
    ['440 Hz to 880 Hz in 3 s', [{ forS: 3, frequencyHz: 440, toHz: 880 }]],
    ['1 ms to 2 ms in 4 s; 1 period', [{ forS: 4, widthS: 0.001, toWidthS: 0.002 }, { periods: 1 }]],
  ];
  it.each(SAID)('%s', (text, steps) => {
    expect(parseSequence(text)).toEqual({ ok: true, value: { steps } });
    expect(sequenceText({ steps })).toBe(text.replace('500 ms', '500 ms'));
  });

  it('once, steady, and what is wrong', () => {
    expect(parseSequence('3x; once')).toEqual({ ok: true, value: { steps: [{ periods: 3 }], once: true } });
    expect(parseSequence(' steady ')).toEqual({ ok: true, value: undefined });
    expect(parseSequence('once')).toMatchObject({ ok: false });
    expect(parseSequence('rest 2 periods')).toEqual({
      ok: true,
      value: { steps: [{ periods: 2, rest: true }] },
    });
    expect(parseSequence('10 % to 2 kHz in 3 s')).toMatchObject({ ok: false });
    expect(parseSequence('flutter')).toMatchObject({ ok: false });
  });

  it('reads any text without throwing', () => {
    fc.assert(
      fc.property(fc.string(), fc.constantFrom('', ' for 2 s', ' to 3 s in 1 s', '; once'), (text, end) => {
        expect(typeof parseSequence(text + end).ok).toBe('boolean');
        expect(typeof parsePhase(text + end, []).ok).toBe('boolean');
      }),
    );
  });

  it('phases', () => {
    const others = [{ id: 'lamp', name: 'Chart lamp' }];
    expect(parsePhase('90° after Chart lamp ±2°', others)).toEqual({
      ok: true,
      value: { to: 'lamp', degrees: 90, toleranceDegrees: 2 },
    });
    expect(parsePhase('-45 after lamp', others)).toEqual({ ok: true, value: { to: 'lamp', degrees: -45 } });
    expect(parsePhase('90 after Horn', others)).toMatchObject({ ok: false });
    expect(phaseText({ to: 'lamp', degrees: 90 }, () => 'Chart lamp')).toBe('90° after Chart lamp ±5°');
  });
});

describe('phase and first edge', () => {
  // Inverted, so low for its compare counts first: it rises at count 2500 of 10 000, a quarter of a period later.
  const behind: PlanSignal = {
    id: 'behind',
    name: 'Behind',
    kind: 'blink',
    target: { frequencyHz: 1, duty: 0.75 },
    phase: { to: 'lantern', degrees: 90 },
    setting: pwm(8400, 9999, 2500, { channel: 'CH2', pin: 'PA7', polarity: 'inverted' }),
  };
  const phaseIn = (...signals: PlanSignal[]) =>
    evaluatePlan(planOf(...signals), part)
      .signals.flatMap(({ outcome }) => outcome?.checks ?? [])
      .find(({ property }) => property === 'phase');

  it('90° within 5° holds, 80° misses by 5°', () => {
    expect(phaseIn(LANTERN, behind)).toMatchObject({ value: 90, verdict: 'pass', margin: 5 });
    const other = { ...behind, phase: { to: 'lantern', degrees: 80 } };
    expect(phaseIn(LANTERN, other)).toMatchObject({ value: 90, verdict: 'fail', margin: -5 });
  });

  it('another frequency has no phase: it turns', () => {
    const faster = { ...LANTERN, setting: pwm(8400, 9998, 1000, { timer: 'TIM4', pin: 'PB6' }) };
    expect(phaseIn(faster, behind)?.note).toContain('moves by 0.036° a second');
  });

  it('the first edge comes at once, or a quarter of a second later', () => {
    const check = (signal: PlanSignal) =>
      timingChecks(placedSetting(part, path, { ...signal, firstEdgeS: 0.1 }, signal.setting as Setting)).find(
        ({ property }) => property === 'first edge',
      );
    expect(check(LANTERN)).toMatchObject({ property: 'first edge', value: 0, verdict: 'pass' });
    // The inverted output goes high and low with its first match.
    expect(check({ ...LANTERN, sequence: { steps: [{ periods: 1 }] } })).toMatchObject({
      value: 1,
      verdict: 'fail',
    });
  });
});

describe('a captured sequence', () => {
  const flashing: PlanSignal = { ...LANTERN, sequence: { steps: [{ periods: 2 }, { forS: 3, rest: true }] } };
  const captured = (lane: Waveform, ratio: number, shiftS: number, without: number): Capture => {
    const { edges } = waveformEdgeList(lane, 84e6 * 40);
    const kept = [...edges].filter((_, at) => at !== without && at !== without + 1);
    const times = [0, ...kept.map((edge) => Math.round((edge / 84e6 / ratio + shiftS) * 1e6))];
    const wire = {
      name: 'D0',
      times: Float64Array.from(times),
      levels: Uint8Array.from(times.map((_, at) => at % 2)),
    };
    return { tickHz: 1e6, from: 0, to: 41e6, wires: [wire] };
  };
  const lane = laneWith(LANTERN, flashing.sequence as Sequence);

  it('is aligned by its levels, its rate and pulses hold', () => {
    const { pairs } = compareCapture(planOf(flashing), part, captured(lane, 1, 0.37, -2));
    const [pair] = pairs;
    // The first flash comes 1 s after the start.
    expect(Math.abs((pair?.startS ?? 0) - 1.37)).toBeLessThan(2e-6);
    expect(pair?.checks.map(({ property, verdict }) => `${property} ${verdict}`)).toEqual([
      'frequency pass',
      'duty pass',
      'pulses pass',
      'glitches pass',
    ]);
    expect(pair?.checks[0]?.value).toBeCloseTo(1, 6);
  });

  it('a lost flash is counted', () => {
    const { pairs } = compareCapture(planOf(flashing), part, captured(lane, 1, 0.37, 6));
    const pulses = pairs[0]?.checks.find(({ property }) => property === 'pulses');
    expect(pulses).toMatchObject({ value: 1, low: 2, high: 2, verdict: 'fail' });
    expect(pulses?.note).toBe('5 of 6 groups pass.');
  });
});

describe('in the plan file', () => {
  it('goes round, and refuses what makes no sense', () => {
    const plan = planOf(
      { ...LANTERN, sequence: { steps: [{ periods: 2 }, { forS: 3, rest: true }] }, firstEdgeS: 2 },
      { ...LANTERN, id: 'second', phase: { to: 'lantern', degrees: 90 } },
    );
    expect(readPlan(writePlan(plan), [part])).toMatchObject({ ok: true });
    const wrong = (signal: object) => {
      const read = readPlan(writePlan(planOf({ ...LANTERN, ...signal })), [part]);
      return read.ok ? '' : read.fault.sentence;
    };
    expect(wrong({ sequence: { steps: [{}] } })).toBe(
      'signals[0].sequence.steps[0]: Step 1 of the sequence has either periods or forS.',
    );
    expect(wrong({ sequence: { steps: [{ forS: 2, rest: true, duty: 1 }] } })).toContain('rests');
    expect(wrong({ phase: { to: 'nobody', degrees: 3 } })).toContain('no other signal “nobody”');
  });
});
