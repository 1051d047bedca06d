import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { sharedTick } from '../../src/fit/software/shared-tick.ts';
import { spanReport } from '../../src/fit/span.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { shareTick, tickSharers } from '../../src/resolve/share-tick.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import { stm32f401 } from '../../src/part/parts/stm32/stm32f401.ts';
import { exactText } from '../../src/quantity/exact.ts';
import { editToken } from '../../src/signal/edit.ts';
import { TargetError } from '../../src/signal/target-error.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { sentenceOf, sentenceText } from '../../src/signal/sentence.ts';
import type { KindAndTarget, Signal } from '../../src/signal/signal.ts';
import type { OutputSetting } from '../../src/timer/setting.ts';
import { hardware } from '../helpers/hardware.ts';
import { evaluateSetting } from '../../src/evaluate/signal.ts';

const plain = (text: string): string => text.replace(/\u202f/g, ' ');
const avr = (sourceHz = 16e6) => clockPath(atmega328p, { source: 'external', sourceHz });
const signal = (target: KindAndTarget, pin?: string): Signal => ({
  id: 'it',
  name: 'It',
  ...target,
  ...(pin ? { pin } : {}),
});

describe('targets of the other kinds', () => {
  it('strobe: 300 rpm in two images is 10 Hz; a time lit counts as a time', () => {
    const requirement = requirementOf({ kind: 'strobe', target: { rpm: 300, images: 2, onS: '1/5000' } });
    expect(requirement.frequency.kind === 'near' && exactText(requirement.frequency.ideal)).toBe('10');
    expect([exactText(requirement.width!.ideal), exactText(requirement.duty.ideal)]).toEqual([
      '1/5000',
      '1/500',
    ]);
  });

  it('level: half the supply; 10 kΩ and 1 µF leave 20 mV of 5 V from 6250 Hz on', () => {
    const requirement = requirementOf({
      kind: 'level',
      target: { volts: 2.5, supplyV: 5, ohms: 10000, farads: 1e-6, rippleV: 0.02 },
    });
    expect([exactText(requirement.duty.ideal), requirement.frequency.low.valueOf()]).toEqual(['1/2', 6250]);
  });

  it('pulse: 20 ms frames, 1.5 ms, steps of 10 µs are 2000 to a frame', () => {
    const requirement = requirementOf({
      kind: 'pulse',
      target: { frameHz: 50, widthS: 0.0015, stepS: 1e-5 },
    });
    expect([exactText(requirement.duty.ideal), requirement.minSteps]).toEqual(['3/40', 2000]);
    expect([requirement.width!.low.valueOf(), requirement.width!.high.valueOf()]).toEqual([
      0.001495, 0.001505,
    ]);
  });

  it.each<[string, KindAndTarget, RegExp]>([
    ['volts', { kind: 'level', target: { volts: 6, supplyV: 5 } }, /between 0 and the supply of 5 V/],
    ['maxS', { kind: 'pulse', target: { frameHz: 50, minS: 0.001 } }, /both minS and maxS/],
    ['widthS', { kind: 'pulse', target: { frameHz: 50 } }, /has widthS, or minS and maxS/],
    ['widthS', { kind: 'pulse', target: { frameHz: 50, widthS: 0.03 } }, /longer than its period of 0.02 s/],
    ['minHz', { kind: 'strobe', target: { minHz: 90, maxHz: 8 } }, /below the other end/],
    ['onS', { kind: 'strobe', target: { frequencyHz: 5, onS: 0.01, duty: 0.1 } }, /either duty or onS/],
    ['leds', { kind: 'string', target: { bitS: 1.25e-6, zeroS: 4e-7, oneS: 8e-7, leds: 0 } }, /whole number/],
  ])('say what is wrong with %s', (key, target, message) => {
    const attempt = (): unknown => requirementOf(target);
    expect(attempt).toThrow(TargetError);
    expect(attempt).toThrow(message);
    expect(attempt).toThrow(expect.objectContaining({ key }) as Error);
  });
});

describe('fits of the other kinds', () => {
  it('pulse of 1.5 ms at 50 Hz: prescaler 8, top 39 999, compare 2999 is among the exact ones', () => {
    const requirement = requirementOf({ kind: 'pulse', target: { frameHz: 50, widthS: 0.0015 } });
    const found = hardware(fitRequirement(atmega328p, avr(), requirement, 'PB1', 'hardware').candidates);
    expect(found[0]).toMatchObject({ errorPpm: 0, setting: { prescaler: 8, top: 39999, compare: 2999 } });
  });

  it('keeps the width where the frame is not exact: 1.5 ms at 61 Hz of Timer 2 would be 96 of 1024 us counts', () => {
    const requirement = requirementOf({
      kind: 'pulse',
      target: { frameHz: 61, widthS: 0.0015, widthToleranceS: 0.00004 },
    });
    for (const { setting } of fitRequirement(
      atmega328p,
      avr(),
      requirement,
      'PB3',
      'hardware',
    ).candidates.slice(0, 50)) {
      const outcome = evaluateSetting(
        atmega328p,
        avr(),
        signal({ kind: 'pulse', target: { frameHz: 61, widthS: 0.0015, widthToleranceS: 0.00004 } }),
        setting,
      );
      const width = outcome.checks.find(({ property }) => property === 'width');
      expect(width?.verdict).toBe('pass');
    }
  });

  it('string of LEDs: 20 counts of 16 MHz a bit, 105 of 84 MHz; both widths must fit one top', () => {
    const target: KindAndTarget = {
      kind: 'string',
      target: { bitS: 1.25e-6, zeroS: 4e-7, oneS: 8e-7, leds: 60 },
    };
    const found = hardware(fitRequirement(atmega328p, avr(), requirementOf(target), 'PB1').candidates);
    expect(found[0]).toMatchObject({ errorPpm: 0, setting: { prescaler: 1, top: 19 } });
    const arm = clockPath(stm32f401, stm32f401.defaultClock);
    const [first] = hardware(fitRequirement(stm32f401, arm, requirementOf(target), 'PB6').candidates);
    expect(first).toMatchObject({ errorPpm: 0, setting: { prescaler: 1, top: 104, compare: 67 } });
    const narrow = requirementOf({ ...target, target: { ...target.target, toleranceS: 1e-8 } });
    expect(fitRequirement(atmega328p, avr(), narrow, 'PB1').candidates).toEqual([]);
  });

  it('a level takes the ends of its band: 1.1 V of 3.3 V within 10 mV needs 165 steps', () => {
    const requirement = requirementOf({
      kind: 'level',
      target: { volts: 1.1, supplyV: 3.3, toleranceV: 0.01, minHz: 20000 },
    });
    const found = hardware(fitRequirement(atmega328p, avr(), requirement, 'PB1', 'hardware').candidates);
    for (const { duty, frequencyHz } of found) {
      expect(Math.abs(duty * 3.3 - 1.1)).toBeLessThanOrEqual(0.01 + 1e-12);
      expect(frequencyHz).toBeGreaterThanOrEqual(20000);
    }
    expect(found.length).toBeGreaterThan(0);
  });
});

describe('spans', () => {
  it('strobe 8 to 90 Hz, 16 MHz, 16 bits: prescaler 64 alone is fine enough for 0.02 %; 28 473 positions', () => {
    const target: KindAndTarget = {
      kind: 'strobe',
      target: { minHz: 8, maxHz: 90, onS: 0.0005, frequencyTolerancePpm: 200 },
    };
    const fit = (tolerancePpm: number) => {
      const path = clockPath(atmega328p, { source: 'crystal', sourceHz: 16e6, tolerancePpm });
      return hardware(fitRequirement(atmega328p, path, requirementOf(target), 'PB1', 'hardware').candidates);
    };
    // 20 ppm are left of 200 ppm: a crystal of 15 ppm fits, one of 50 ppm does not.
    expect(fit(50)).toEqual([]);
    const found = fit(15);
    const up = found.filter(({ setting }) => setting.mode === 'fast-icr');
    expect(new Set(up.map(({ setting }) => setting.prescaler))).toEqual(new Set([64]));
    // 250 kHz / 90 = 2777.8 counts at the fast end: half a count is 180 ppm. Tops 2777 to 31 249.
    expect(up[0]?.errorPpm).toBeCloseTo(180, 6);
    const report = spanReport(atmega328p, avr(), up[0]!.setting, requirementOf(target));
    expect(report).toMatchObject({ of: 'frequency', reached: true, positions: 31249 - 2777 + 1 });
    expect(report?.coarsest).toBeCloseTo(250000 / 2778 - 250000 / 2779, 9);
    expect(report?.coarsestAt).toBeCloseTo(250000 / 2778, 9);
    const steps = report!.table.map(({ made, wanted }) => Math.abs(made / wanted - 1) * 1e6);
    expect(Math.max(...steps)).toBeLessThan(181);
  });

  it('servo 0.7 to 2.3 ms at 50 Hz: 21 positions of 78 µs in 8 bits, 3201 of 0.5 µs in 16', () => {
    const target: KindAndTarget = {
      kind: 'pulse',
      target: { frameHz: 50, minS: 0.0007, maxS: 0.0023, widthToleranceS: 0.00004 },
    };
    const narrow: OutputSetting = {
      drive: 'pwm',
      timer: 'TIMER2',
      mode: 'fast',
      channel: 'OC2A',
      pin: 'PB3',
      prescaler: 1024,
      top: 255,
      compare: 19,
    };
    const eight = spanReport(atmega328p, avr(13107200), narrow, requirementOf(target));
    expect(eight).toMatchObject({ of: 'width', reached: true, positions: 21 });
    expect(eight?.coarsest).toBeCloseTo(0.02 / 256, 12);
    const wide: OutputSetting = {
      ...narrow,
      timer: 'TIMER1',
      mode: 'fast-icr',
      channel: 'OC1A',
      pin: 'PB1',
      prescaler: 8,
      top: 39999,
      compare: 2999,
    };
    const sixteen = spanReport(atmega328p, avr(), wide, requirementOf(target));
    expect(sixteen).toMatchObject({ positions: 3201, reached: true });
    expect(sixteen?.coarsest).toBeCloseTo(5e-7, 15);
    expect(sixteen?.comb.length).toBeLessThanOrEqual(240);
  });

  it('lists exactly the values within the ends, whatever they are', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 400 }), fc.integer({ min: 2, max: 300 }), (low, factor) => {
        const target: KindAndTarget = {
          kind: 'strobe',
          target: { minHz: low, maxHz: low * factor, duty: 0.1 },
        };
        const setting: OutputSetting = {
          drive: 'pwm',
          timer: 'TIMER1',
          mode: 'fast-icr',
          channel: 'OC1A',
          pin: 'PB1',
          prescaler: 64,
          top: 9999,
          compare: 99,
        };
        let count = 0;
        for (let top = 3; top <= 65535; top += 1) {
          const hz = 250000 / (top + 1);
          if (hz >= low && hz <= low * factor) count += 1;
        }
        const report = spanReport(atmega328p, avr(), setting, requirementOf(target));
        if (250000 / low <= 65536 && 250000 / (low * factor) >= 4) expect(report?.positions).toBe(count);
      }),
      { numRuns: 40 },
    );
  });
});

describe('a tick that several signals share', () => {
  it('1, 2 and 10 Hz on pins: 20 changes a second of the fastest are enough, 20, 10 and 2 … ', () => {
    const requirements = [1, 2, 10].map((frequencyHz) =>
      requirementOf({ kind: 'blink', target: { frequencyHz } }),
    );
    const shared = sharedTick(requirements);
    expect(shared && exactText(shared.tickHz)).toBe('20');
    expect(shared?.shares.map(({ divider }) => divider)).toEqual([10, 5, 1]);
    expect(shared?.shares.every(({ errorPpm }) => errorPpm === 0)).toBe(true);
  });

  it('2 and 3 Hz exactly: 12 Hz, by 3 and 2', () => {
    const requirements = [2, 3].map((frequencyHz) =>
      requirementOf({ kind: 'blink', target: { frequencyHz, frequencyTolerancePpm: 10 } }),
    );
    const shared = sharedTick(requirements);
    expect(shared && exactText(shared.tickHz)).toBe('12');
    expect(shared?.shares.map(({ divider }) => divider)).toEqual([3, 2]);
  });

  it('uses tolerances: 7 Hz and 10 Hz within 8 % need no common multiple', () => {
    const requirements = [7, 10].map((frequencyHz) =>
      requirementOf({ kind: 'tick', target: { frequencyHz, frequencyTolerancePpm: 80000 } }),
    );
    expect(sharedTick(requirements)?.shares.map(({ divider }) => divider)).toEqual([3, 2]);
  });
});

describe('sentences of the other kinds', () => {
  const servo = signal({ kind: 'pulse', target: { frameHz: 50, minS: 0.0007, maxS: 0.0023 } }, 'PB1');

  it.each<[KindAndTarget, string]>([
    [
      { kind: 'strobe', target: { minHz: 8, maxHz: 90, onS: 0.0005 } },
      'It on any pin strobes from 8 Hz to 90 Hz within 0.1 %, lit for 500 µs.',
    ],
    [
      { kind: 'strobe', target: { minHz: 4, maxHz: 40, duty: 0.015, dutyTolerance: 0.002 } },
      'It on any pin strobes from 4 Hz to 40 Hz within 0.1 %, lit for 1.5 % of the time within 0.2 %.',
    ],
    [
      { kind: 'level', target: { volts: 1.1, supplyV: 3.3, toleranceV: 0.01, minHz: 20000 } },
      'It on any pin holds 1.1 V of 3.3 V within 10 mV, at 20 kHz or more.',
    ],
    [
      { kind: 'level', target: { volts: 2.5, supplyV: 5, ohms: 10000, farads: 1e-6, rippleV: 0.02 } },
      'It on any pin holds 2.5 V of 5 V within 25 mV, with ripple below 20 mV behind 10 kΩ and 1 µF.',
    ],
    [
      { kind: 'string', target: { bitS: 1.25e-6, zeroS: 4e-7, oneS: 8e-7, leds: 60 } },
      'It on any pin sends bits of 1.25 µs, high for 400 ns or 800 ns within 150 ns, to 60 LEDs.',
    ],
    [{ kind: 'tick', target: { frequencyHz: 1000 } }, 'It ticks at 1 000 Hz within 0.1 %.'],
  ])('%j', (target, text) => {
    expect(plain(sentenceText(signal(target)))).toBe(text);
  });

  it('take every token back as it is said, and nothing changes', () => {
    for (const one of [servo, signal({ kind: 'strobe', target: { frequencyHz: 12, onS: 0.001 } })]) {
      for (const piece of sentenceOf(one)) {
        if (!('token' in piece) || piece.token === 'name' || piece.token === 'pin') continue;
        const edit = editToken(one, piece.token, piece.text);
        expect(edit.ok && plain(sentenceText(edit.value))).toBe(plain(sentenceText(one)));
      }
    }
  });

  it('say what is wrong with an entry', () => {
    expect(editToken(servo, 'maxS', '5 Hz')).toMatchObject({ ok: false });
    expect(editToken(servo, 'frame', '20 ms')).toMatchObject({
      ok: true,
      value: { target: { frameHz: 50 } },
    });
    expect(editToken(servo, 'duty', '10 %')).toEqual({
      ok: false,
      fault: { path: '', sentence: 'A pulse has no such field.' },
    });
    expect(
      editToken(
        signal({ kind: 'string', target: { bitS: 1e-6, zeroS: 3e-7, oneS: 6e-7, leds: 3 } }),
        'leds',
        '0',
      ),
    ).toMatchObject({ ok: false });
  });
});

describe('one timer as the tick of several signals', () => {
  const blinks = (frequencies: number[]): PlanSignal[] =>
    frequencies.map((frequencyHz, at) => ({
      id: `b${at}`,
      name: `B${at}`,
      kind: 'blink',
      target: { frequencyHz, frequencyTolerancePpm: 100 },
    }));
  const planOf = (signals: PlanSignal[], sourceHz = 16e6): Plan => ({
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Shared',
    part: 'atmega328p',
    clock: { source: 'external', sourceHz },
    signals,
  });

  it('16 MHz: 1, 2 and 10 Hz need 20 ticks a second, exact at 16 MHz / 64 / 12500 on Timer 1', () => {
    const proposal = shareTick(planOf(blinks([1, 2, 10])), atmega328p, ['b0', 'b1', 'b2']);
    expect(proposal?.tickExact).toBe('20');
    expect(proposal?.uses.map(({ divider }) => divider)).toEqual([10, 5, 1]);
    expect(proposal?.uses.map(({ frequencyExact }) => frequencyExact)).toEqual(['1', '2', '10']);
    const { prescaler = 0, top = 0, timer } = proposal?.counter ?? {};
    expect([timer, prescaler * (top + 1)]).toEqual(['TIMER1', 800000]);
    expect(new Set(proposal?.uses.map(({ setting }) => setting.pin)).size).toBe(3);
  });

  it('takes a faster tick where the slow one is out of reach of the timers that are free', () => {
    // Timer 1 is another signal's; 8 bits with 1024 reach down to 61 Hz. 60 = 3 x 20 is too slow; 80 Hz is not exact
    // (200000 clocks = 1024 x 195.3), 100 Hz is 160000 = 1024 x 156.25, and 256 x 625 has too many counts.
    const other: PlanSignal = {
      id: 'tone',
      name: 'Tone',
      kind: 'tone',
      target: { frequencyHz: 440 },
      setting: {
        drive: 'toggle',
        timer: 'TIMER1',
        mode: 'ctc',
        channel: 'OC1A',
        pin: 'PB1',
        prescaler: 1,
        top: 18181,
        compare: 18181,
      },
    };
    const proposal = shareTick(planOf([...blinks([1, 2, 10]), other]), atmega328p, ['b0', 'b1', 'b2']);
    const { timer, prescaler = 0, top = 0 } = proposal?.counter ?? {};
    expect(timer).not.toBe('TIMER1');
    const exactly = 16e6 / (prescaler * (top + 1));
    const ticks = (proposal?.uses ?? []).map(({ divider }) => divider);
    expect(ticks).toEqual([exactly, exactly / 2, exactly / 10].map((hz) => Math.round(hz / 2)));
    // The slowest multiple of 20 Hz that 8 bits divide without a rest beyond 100 ppm, by plain loops.
    const reach = [1, 8, 32, 64, 128, 256, 1024].flatMap((p) =>
      Array.from({ length: 256 }, (_, at) => 16e6 / (p * (at + 1))),
    );
    const slowest = Array.from({ length: 5000 }, (_, at) => 20 * (at + 1)).find((hz) =>
      reach.some((one) => Math.abs(one / hz - 1) < 1e-4),
    );
    expect(Math.round(exactly)).toBe(slowest);
  });

  it('leaves out what is no half of the time, and says nothing where there is no tick', () => {
    const lamp: PlanSignal = { id: 'l', name: 'L', kind: 'blink', target: { frequencyHz: 1, duty: 0.1 } };
    const plan = planOf([...blinks([1]), lamp]);
    expect(tickSharers(plan)).toEqual(['b0']);
    expect(shareTick(plan, atmega328p, ['b0', 'l'])).toBeUndefined();
  });
});

describe('a servo in its window', () => {
  const servo = signal({
    kind: 'pulse',
    target: { frameHz: 50, widthS: 0.0015, minS: 0.0009, maxS: 0.0021 },
  });

  it('says its width also as a turn, and takes a turn for a width', () => {
    const piece = sentenceOf(servo).find((one) => 'token' in one && one.token === 'width');
    expect(plain(piece && 'also' in piece ? piece.also : '')).toBe('1.5 ms = 7.5 % of 20 ms = 90° of 180°');
    expect(plain(sentenceText(servo))).toBe(
      'It on any pin pulses at 50 Hz within 1 %, high for 1.5 ms between 900 µs and 2.1 ms within 5 µs.',
    );
    expect(editToken(servo, 'width', '45°')).toMatchObject({
      ok: true,
      value: { target: { widthS: 0.0012 } },
    });
  });

  it('refuses a width outside of it', () => {
    const outside: KindAndTarget = {
      kind: 'pulse',
      target: { frameHz: 50, widthS: 0.003, minS: 0.001, maxS: 0.002 },
    };
    expect(() => requirementOf(outside)).toThrow('widthS lies outside its span');
  });
});
