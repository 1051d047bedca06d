import { checksAlone } from '../../src/evaluate/signal-checks.ts';
import { clockPath } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { easedSignal, oscillatorPpm } from '../../src/plan/ease.ts';
import { readWishes } from '../../src/plan/wishes.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { allKinds } from '../../src/signal/kinds/index.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';

/** What a target becomes on an ATtiny85 from its own oscillator of ±10 %. */
const onRc = (kind: string, target: object): object =>
  easedSignal({ kind, target }, shipped('attiny85'), shipped('attiny85').defaultClock).signal.target;

/** The same on a PIC16F18875 from its own oscillator of ±2 %. */
const on2Percent = (kind: string, target: object): object =>
  easedSignal({ kind, target }, shipped('pic16f18875'), shipped('pic16f18875').defaultClock).signal.target;

describe('tolerances that were not given', () => {
  it('leave a fifth of their width beside the oscillator: 10 % / 0.8 is 13 %, 2 % / 0.8 is 2.5 %', () => {
    expect(onRc('tick', { frequencyHz: 1000 })).toEqual({ frequencyHz: 1000, frequencyTolerancePpm: 130000 });
    expect(on2Percent('blink', { periodS: 1 })).toEqual({ periodS: 1, frequencyTolerancePpm: 25000 });
    expect(on2Percent('pwm', { frequencyHz: 130 })).toEqual({
      frequencyHz: 130,
      frequencyTolerancePpm: 25000,
    });
    expect(onRc('tone', { frequencyHz: 2000 })).toEqual({ frequencyHz: 2000, frequencyTolerancePpm: 130000 });
  });

  it('widen a time that is lit, not a share of the period', () => {
    expect(onRc('strobe', { frequencyHz: 20, onS: 0.001 })).toEqual({
      frequencyHz: 20,
      onS: 0.001,
      frequencyTolerancePpm: 130000,
      dutyTolerance: 0.13,
    });
    expect(onRc('strobe', { frequencyHz: 20, duty: 0.1 })).not.toHaveProperty('dutyTolerance');
  });

  it('keep a servo’s places fine: 2 ms is 40 µs off at 2 %, with 5 µs for a step 45 µs / 0.8 = 57 µs', () => {
    expect(on2Percent('pulse', { frameHz: 50, minS: 0.001, maxS: 0.002 })).toEqual({
      frameHz: 50,
      minS: 0.001,
      maxS: 0.002,
      frameTolerancePpm: 25000,
      stepS: 0.00001,
      widthToleranceS: 0.000057,
    });
  });

  it('stay where a wide one would be of no use: a note, a servo on ±10 %, and what was said', () => {
    expect(onRc('tone', { note: 'A4' })).toEqual({ note: 'A4' });
    expect(onRc('pulse', { frameHz: 50, widthS: 0.0015 })).toEqual({
      frameHz: 50,
      widthS: 0.0015,
      frameTolerancePpm: 130000,
    });
    const said = { frequencyHz: 1000, frequencyTolerancePpm: 500 };
    expect(onRc('tick', said)).toBe(said);
    expect(onRc('pwm', { minHz: 100, maxHz: 200 })).toEqual({ minHz: 100, maxHz: 200 });
  });

  it('stay on a crystal, for every kind of signal', () => {
    const part = shipped('atmega328p');
    expect(allKinds().length).toBeGreaterThan(0);
    for (const kind of allKinds()) {
      const signal = { kind: kind.id, target: kind.starter.target };
      expect(easedSignal(signal, part, part.defaultClock)).toEqual({ signal, assumed: [] });
    }
  });

  it('are said with a wish that is read', () => {
    const plan = planOn(shipped('attiny85'));
    const [line] = readWishes('lamp on PB1 blinks once a second', plan, shipped('attiny85'));
    expect(line?.readings[0]?.assumed).toContain('tolerances for an oscillator of ±10 %');
    expect(line?.readings[0]?.sentence.replace(/[\u202f\u00a0]/g, ' ')).toContain('within 13 %');
  });

  it('are nothing for a clock that the part cannot have', () => {
    expect(oscillatorPpm(shipped('attiny85'), { source: 'crystal', sourceHz: 1e12 })).toBe(0);
  });

  it.each(PARTS.map((part) => [part.id, part] as const))(
    'let a first lamp and a first tick pass on %s',
    (_, part) => {
      let judged = 0;
      const fixed = part.clocks.flatMap((node) =>
        node.kind === 'source' && typeof node.hz === 'number' ? [{ source: node.id, sourceHz: node.hz }] : [],
      );
      for (const clock of [part.defaultClock, ...fixed]) {
        if (oscillatorPpm(part, clock) === 0) continue;
        const path = clockPath(part, clock);
        for (const wished of [
          { kind: 'blink', target: { frequencyHz: 1 } },
          { kind: 'tick', target: { frequencyHz: 100 } },
        ]) {
          const { signal } = easedSignal(wished, part, clock);
          const [best] = fitRequirement(part, path, requirementOf(signal)).candidates;
          if (!best) continue;
          const pin = 'pin' in best.setting ? { pin: best.setting.pin } : {};
          const whole = { id: 'one', name: 'One', ...signal, ...pin } as PlanSignal;
          expect(
            checksAlone(part, path, whole, best.setting).filter(({ verdict }) => verdict !== 'pass'),
          ).toEqual([]);
          judged += 1;
        }
      }
      expect(judged).toBeGreaterThan(0);
    },
  );
});
