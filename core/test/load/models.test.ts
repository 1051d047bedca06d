import fc from 'fast-check';
import { rippleShare, settlingS } from '../../src/load/exponential.ts';
import { filter } from '../../src/load/filter.ts';
import { flickerDepth, flickerLimitHz } from '../../src/load/flicker.ts';
import { lampModule, modulePosition, phasePower } from '../../src/load/lamp-module.ts';
import { led, ledCurrent, seriesOhm } from '../../src/load/led.ts';
import { frameS } from '../../src/load/led-chain.ts';
import { lightnessOf, shareOfLightness } from '../../src/load/lightness.ts';
import type { Driven } from '../../src/load/model.ts';
import { motor, windingAt } from '../../src/load/motor.ts';
import { armDegrees, servo, thrust } from '../../src/load/servo.ts';
import { harmonicShare, resonanceDb, sounder } from '../../src/load/sounder.ts';
import { baseCheck, baseDrive, switchText } from '../../src/load/switch.ts';
import { cornerPair, E12, E24, E6, nearestStandard, standardAround } from '../../src/load/standard-values.ts';
import { blurDegrees, frozenRpm, strobeView } from '../../src/load/strobed-disc.ts';
import { loadKinds, loadReport } from '../../src/load/index.ts';

const DRIVEN: Driven = { frequencyHz: 1000, duty: 0.5, stepS: 1e-6, steps: 1000, pinA: 0.02 };

describe('lightness, CIE 15', () => {
  it('of an 18 % grey is 49.5, of all light 100, and of 1 % 8.99', () => {
    expect(lightnessOf(0.18)).toBeCloseTo(49.496, 3);
    expect(lightnessOf(1)).toBeCloseTo(100, 9);
    expect(lightnessOf(0.01)).toBeCloseTo(8.991, 3);
    // Below the knee the straight line holds: 0.1 % is 0.9033.
    expect(lightnessOf(0.001)).toBeCloseTo(0.9033, 4);
  });

  it('goes back to the light it came from', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (share) => {
        expect(shareOfLightness(lightnessOf(share))).toBeCloseTo(share, 9);
      }),
    );
  });
});

describe('series of preferred numbers, IEC 60063', () => {
  it('E12 and E6 are the published lists', () => {
    expect(E12).toEqual([10, 12, 15, 18, 22, 27, 33, 39, 47, 56, 68, 82]);
    expect(E6).toEqual([10, 15, 22, 33, 47, 68]);
  });

  it('finds the neighbours of a value: 3.24 kΩ lies between 3 kΩ and 3.3 kΩ, 1 kΩ is one itself', () => {
    expect(standardAround(3240, E24)).toEqual({ below: 3000, above: 3300 });
    expect(standardAround(1000, E12)).toEqual({ below: 1000, above: 1000 });
    expect(standardAround(95, E24)).toEqual({ below: 91, above: 100 });
    expect(nearestStandard(3900 * 1.05, E12)).toBe(3900);
  });

  it('has a neighbour within 10 % for every value, none nearer left out', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.01, max: 1e8, noNaN: true }), (value) => {
        const { below, above } = standardAround(value, E24);
        expect(below).toBeLessThanOrEqual(value * (1 + 1e-9));
        expect(above).toBeGreaterThanOrEqual(value * (1 - 1e-9));
        expect(above / below).toBeLessThan(1.16);
      }),
    );
  });

  it('makes a corner of 1.6 Hz from 10 kΩ and 10 µF within some percent, and never a higher one', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.01, max: 1e5, noNaN: true }), (wanted) => {
        const { ohm, farad, hz } = cornerPair(wanted);
        expect(hz).toBeCloseTo(1 / (2 * Math.PI * ohm * farad), 9);
        expect(hz).toBeLessThanOrEqual(wanted * (1 + 1e-9));
        // Steps of E12 are 1.22 apart at most.
        expect(hz / wanted).toBeGreaterThan(0.81);
      }),
    );
  });

  it('makes it of the resistor beside its load, and leaves nine tenths of the voltage', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 1e4, noNaN: true }),
        fc.double({ min: 500, max: 1e6, noNaN: true }),
        (wanted, loadOhm) => {
          const { ohm, farad, hz } = cornerPair(wanted, { loadOhm });
          const beside = (ohm * loadOhm) / (ohm + loadOhm);
          expect(hz).toBeCloseTo(1 / (2 * Math.PI * beside * farad), 6);
          expect(hz).toBeLessThanOrEqual(wanted * (1 + 1e-9));
          expect(loadOhm / (loadOhm + ohm)).toBeGreaterThan(0.9);
        },
      ),
    );
  });
});

describe('a transistor behind a pin', () => {
  // A tenth of 317 mA would be 31.7 mA by 82 ohms from 3.3 V, more than 12 mA.
  it('of 317 mA has no base resistor that spares a pin of 12 mA', () => {
    expect(baseDrive(3.3, 0.317, 0.012)).toBeUndefined();
    expect(switchText(3.3, 0.317, 0.012)).toMatch(/^a logic-level MOSFET .*would want 31\.7 mA at its base/);
    const check = baseCheck(3.3, 0.317, 0.012);
    expect(check).toMatchObject({ value: 0.0317, high: 0.012 });
    expect(check.note).toContain('take a logic-level MOSFET');
  });

  // 2.6 V / 15 mA = 173 ohms: 150 ohms give 17.3 mA, 180 ohms 14.4 mA.
  it('of 150 mA gets 150 Ω from a pin of 25 mA, and 180 Ω from one of 16', () => {
    expect(baseDrive(3.3, 0.15, 0.025)?.ohm).toBe(150);
    expect(baseDrive(3.3, 0.15, 0.016)?.ohm).toBe(180);
    expect(baseDrive(3.3, 0.15, 0.016)?.amps).toBeCloseTo(2.6 / 180, 12);
  });

  it('never takes more from the pin than that carries, and never gives the base less than a twelfth', () => {
    const volts = fc.double({ min: 1.2, max: 5, noNaN: true });
    const amps = fc.double({ min: 0.001, max: 1, noNaN: true });
    fc.assert(
      fc.property(volts, amps, fc.double({ min: 0.001, max: 0.04, noNaN: true }), (pinV, wanted, pinA) => {
        const base = baseDrive(pinV, wanted, pinA);
        if (!base) return;
        expect(base.amps).toBeLessThanOrEqual(pinA);
        expect(base.amps).toBeGreaterThan(wanted / 12.5);
      }),
    );
  });
});

describe('LED', () => {
  it('from 3.3 V with 2 V and 5 mA wants 260 Ω; 270 Ω give 4.815 mA', () => {
    const load = { supplyV: 3.3, forwardV: 2, currentA: 0.005 };
    expect(seriesOhm(load)).toBeCloseTo(260, 9);
    expect(ledCurrent(load)?.ohm).toBe(270);
    expect(ledCurrent(load)?.amps).toBeCloseTo(1.3 / 270, 12);
  });

  it('of 350 mA is more than a pin carries, which a check says; with a MOSFET it is not the pin’s', () => {
    const load = { supplyV: 5, forwardV: 3, currentA: 0.35 } as const;
    const report = led.report(load, DRIVEN);
    // 2 V / 350 mA = 5.71 Ω; the next of E12 is 6.8 Ω, which lets 294 mA through.
    expect(report.checks).toEqual([{ label: 'pin current', unit: 'A', value: 2 / 6.8, high: 0.02 }]);
    expect(report.advice[0]).toMatch(/more than a pin carries/);
    expect(led.report({ ...load, through: 'mosfet' }, DRIVEN).checks).toEqual([]);
  });

  it('stays dark below its forward voltage', () => {
    expect(led.report({ supplyV: 1.8, forwardV: 2, currentA: 0.005 }, DRIVEN).headline).toBe('dark');
  });
});

describe('flicker limits, IEEE 1789-2015', () => {
  it('are those of the recommendation at 60, 120 and 1250 Hz', () => {
    // Low risk: 0.025 x 60 = 1.5 %, 0.08 x 120 = 9.6 %; no effect: 0.01 x 60 = 0.6 %, 0.0333 x 120 = 4 %.
    expect([60, 120, 1250].map((hz) => flickerDepth('low-risk', hz))).toEqual([0.015, 0.096, 1]);
    expect(flickerDepth('no-effect', 60)).toBeCloseTo(0.006, 12);
    expect(flickerDepth('no-effect', 120)).toBeCloseTo(0.04, 12);
    expect([
      flickerLimitHz('low-risk', 0.3),
      flickerLimitHz('no-effect', 0.3),
      flickerLimitHz('low-risk', 1),
    ]).toEqual([1250, 3000, undefined]);
  });
});

describe('a first-order store', () => {
  /** Charges and discharges step by step until it is settled. */
  function settled(duty: number, periodS: number, tau: number): { low: number; high: number } {
    let value = duty;
    let [low, high] = [0, 0];
    for (let at = 0; at < 4000; at += 1) {
      high = 1 + (value - 1) * Math.exp((-duty * periodS) / tau);
      low = high * Math.exp((-(1 - duty) * periodS) / tau);
      value = low;
    }
    return { low, high };
  }

  it('has the ripple of a store that is charged and discharged 4,000 times', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.02, max: 0.98, noNaN: true }),
        fc.double({ min: 0.01, max: 50, noNaN: true }),
        (duty, ratio) => {
          const { low, high } = settled(duty, 1, ratio);
          expect(rippleShare(duty, 1, ratio)).toBeCloseTo(high - low, 6);
        },
      ),
      { numRuns: 100 },
    );
  });

  it('R-C: 3.3 V at 50 %, 1 kHz behind 10 kΩ and 1 µF ripples by V d (1 - d) T / RC = 82.5 mV', () => {
    const report = filter.report({ supplyV: 3.3, ohm: 10_000, farad: 1e-6 }, DRIVEN);
    expect(report.headline).toBe('1.65 V');
    if (report.picture.kind !== 'level') throw new Error('a level');
    // The straight-line formula holds to (T / RC)^2 / 48.
    expect(report.picture.ripple).toBeCloseTo((3.3 * 0.25) / 10, 4);
  });

  it('settles to 1 % in 4.605 tau', () => {
    expect(settlingS(0.01, 0.01)).toBeCloseTo(0.04605, 5);
  });

  it('R-L: 12 V, 8 Ω, 2 mH at 20 kHz and 50 % ripples by V d (1 - d) / (f L) = 75 mA', () => {
    // A period of 0.2 tau is off the straight line by (T / tau)^2 / 48 = 0.08 %.
    const winding = { supplyV: 12, ohm: 8, henry: 0.002, diodeV: 0 };
    const { ripple, meanV } = windingAt(winding, 20_000, 0.5);
    expect(ripple / 0.075).toBeCloseTo(1 - 0.04 / 48, 4);
    expect(meanV).toBeCloseTo(6, 12);
    // A slow one goes all the way: V / R.
    expect(windingAt(winding, 1, 0.5).ripple).toBeCloseTo(1.5, 6);
  });

  it('a diode takes (1 - d) of its drop while the current goes on, and raises the ripple as the supply would', () => {
    const winding = { supplyV: 12, ohm: 8, henry: 0.002, diodeV: 0.7 };
    const { ripple, meanV } = windingAt(winding, 20_000, 0.5);
    expect(meanV).toBeCloseTo(6 - 0.35, 12);
    expect(ripple / (0.075 * (12.7 / 12))).toBeCloseTo(1 - 0.04 / 48, 4);
  });

  it('a current that comes to rest has no drop from then on: 1.5 A are gone after 0.25 ms ln(1 + 12 / 0.7) = 0.7244 ms', () => {
    const { ripple, meanV } = windingAt({ supplyV: 12, ohm: 8, henry: 0.002 }, 1, 0.5);
    expect(ripple).toBeCloseTo(1.5, 6);
    expect(meanV).toBeCloseTo(6 - 0.7 * 0.7244e-3, 6);
  });
});

describe('motor', () => {
  const load = { supplyV: 12, ohm: 8, henry: 0.002, startDuty: 0.3, runDuty: 0.15 };

  it.each([
    [0.1, 'too little to turn'],
    [0.2, 'keeps turning, does not start'],
    [0.5, 'mean voltage'],
    [0, 'stands'],
  ])('at %d: %s', (duty, aside) => {
    const report = motor.report(load, { ...DRIVEN, duty });
    expect(report.aside).toBe(aside);
    expect(report.checks).toEqual(
      duty === 0 ? [] : [{ label: 'starting duty', unit: 'fraction', value: duty, low: 0.3 }],
    );
  });
});

describe('sounder', () => {
  it('names the note in equal temperament: 1150 Hz is D6 less 36.7 cents', () => {
    // D6 is 1174.659 Hz: 1200 log2(1150 / 1174.659) = -36.73.
    const report = sounder.report({ supplyV: 3.3 }, { ...DRIVEN, frequencyHz: 1150 });
    expect(report.headline).toBe('D6');
    expect(report.aside).toMatch(/^−36\.73 cents/);
  });

  it('falls off its resonance by 10 log10(1 + Q^2 (f/f0 - f0/f)^2): an octave off with Q 6 is 19.1 dB', () => {
    expect(resonanceDb(2300, 2300, 6)).toBeCloseTo(0, 12);
    expect(resonanceDb(1150, 2300, 6)).toBeCloseTo(-10 * Math.log10(1 + 81), 9);
    expect(resonanceDb(1150, 2300, 6)).toBeCloseTo(resonanceDb(4600, 2300, 6), 9);
  });

  it('has no even harmonics at 50 %, and no third one at a third', () => {
    expect(harmonicShare(1, 0.5)).toBeCloseTo(2 / Math.PI, 12);
    expect(harmonicShare(2, 0.5)).toBeCloseTo(0, 12);
    expect(harmonicShare(3, 1 / 3)).toBeCloseTo(0, 12);
  });
});

describe('servo', () => {
  const load = { minS: 0.00062, maxS: 0.00231, degrees: 180 };

  it('turns evenly between the ends that were found', () => {
    expect(armDegrees(load, 0.00062)).toBeCloseTo(0, 9);
    expect(armDegrees(load, 0.001465)).toBeCloseTo(90, 9);
    expect(armDegrees(load, 0.00231)).toBeCloseTo(180, 9);
  });

  it('fails beyond its ends', () => {
    const [check] = servo.report(load, { ...DRIVEN, frequencyHz: 50, duty: 0.0024 * 50 }).checks;
    expect([check?.label, check?.high]).toEqual(['servo range', 0.00231]);
    expect((check?.value ?? 0) > 0.00231).toBe(true);
  });

  it('of 8 bits in 20 ms has steps of 78 µs: 21 positions over 1.69 ms', () => {
    const { facts } = servo.report(load, { ...DRIVEN, frequencyHz: 50, duty: 0.075 });
    expect(facts.find(({ label }) => label === 'with 8 bits')?.text).toMatch(/: 21 positions$/);
  });

  it('a speed controller stands within its dead band and is full at its ends', () => {
    const controller = { minS: 0.001, maxS: 0.002, degrees: 90, neutralS: 0.0015, deadBandS: 0.00005 };
    expect(
      [0.001, 0.00148, 0.0015, 0.00175, 0.002].map((width) => Number(thrust(controller, width).toFixed(6))),
    ).toEqual([-1, 0, 0, 0.5, 1]);
  });
});

describe('lamp module', () => {
  it('fires at 90° for half the power', () => {
    const powers = [0, Math.PI / 2, Math.PI].map(phasePower);
    for (const [at, power] of [1, 0.5, 0].entries()) expect(powers[at]).toBeCloseTo(power, 9);
  });

  it('from 14 to 86 % stands half way at 50 %, inverted or not, and fails at 10 %', () => {
    const load = { supplyV: 5, low: 0.14, high: 0.86 };
    expect(modulePosition(load, 0.5)).toBeCloseTo(0.5, 12);
    expect(modulePosition({ ...load, sense: 'inverted' }, 0.14)).toBe(1);
    expect(lampModule.report(load, { ...DRIVEN, duty: 0.1 }).checks).toEqual([
      { label: 'usable range', unit: 'fraction', value: 0.1, low: 0.14, high: 0.86 },
    ]);
  });
});

describe('strobed disc', () => {
  // Four marks, 25 flashes a second: p/q of the flash rate shows 4 q images.
  it.each([
    [1500, 4], // a whole turn between flashes
    [750, 4], // half a turn: two marks on
    [187.5, 8], // an eighth of a turn: half a mark distance
    [125, 12], // a third of it
  ])('at %d rpm shows %d images that stand', (rpm, images) => {
    const view = strobeView(rpm, 4, 25);
    expect(view.images).toBe(images);
    expect(view.driftTurnsPerS).toBeCloseTo(0, 9);
  });

  it('drifts by what the speed is off: 1503 rpm is 0.05 turns a second forward', () => {
    expect(strobeView(1503, 4, 25).driftTurnsPerS).toBeCloseTo(0.05, 9);
    expect(strobeView(1497, 4, 25).driftTurnsPerS).toBeCloseTo(-0.05, 9);
  });

  it('is frozen at multiples of 60 f / m: 375 rpm apart', () => {
    expect(frozenRpm(25, 4, 1500)).toEqual([750, 1125, 1500, 1875, 2250]);
  });

  it('blurs by 360 n t: 9° in 1 ms at 1500 rpm', () => {
    expect(blurDegrees(1500, 0.001)).toBeCloseTo(9, 9);
  });

  it('shows images at the places where marks are lit, in a walk through 400 flashes', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 6 }),
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: 1, max: 30 }),
        (marks, q, p) => {
          const flashHz = 50;
          const rpm = ((p / q) * flashHz * 60) / marks;
          const places = new Set<number>();
          for (let flash = 0; flash < 400; flash += 1) {
            for (let mark = 0; mark < marks; mark += 1) {
              const turn = (rpm / 60 / flashHz) * flash + mark / marks;
              places.add(Math.round((turn - Math.floor(turn)) * 360_360) % 360_360);
            }
          }
          const view = strobeView(rpm, marks, flashHz);
          expect([view.images, Number(Math.abs(view.driftTurnsPerS).toFixed(9))]).toEqual([places.size, 0]);
        },
      ),
    );
  });
});

it('an LED string of 60 takes 60 x 24 x 1.25 µs and the pause: 1.85 ms', () => {
  expect(frameS({ leds: 60, bitS: 1.25e-6, pauseS: 50e-6 })).toBeCloseTo(0.00185, 9);
});

it('every model reports on its starter, whatever the pin does', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...loadKinds()),
      fc.double({ min: 1e-3, max: 1e7, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.integer({ min: 1, max: 65_536 }),
      (kind, frequencyHz, duty, steps) => {
        const driven = { frequencyHz, duty, steps, stepS: 1 / frequencyHz / steps, pinA: 0.02 };
        const report = loadReport(kind.starter, driven);
        expect(report.headline.length).toBeGreaterThan(0);
        const texts = [
          report.headline,
          report.aside ?? '',
          ...report.facts.map(({ text }) => text),
          ...report.advice,
        ];
        expect(texts.filter((text) => /NaN|undefined|Infinity/.test(text))).toEqual([]);
      },
    ),
    { numRuns: 500 },
  );
});
