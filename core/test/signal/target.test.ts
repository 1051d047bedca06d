import fc from 'fast-check';
import { exactText } from '../../src/quantity/exact.ts';
import { editToken, withPin } from '../../src/signal/edit.ts';
import { TargetError } from '../../src/signal/target-error.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { sentenceOf, sentenceText } from '../../src/signal/sentence.ts';
import type { KindAndTarget, Signal } from '../../src/signal/signal.ts';

const plain = (text: string): string => text.replace(/\u202f/g, ' ');

const lantern: Signal = {
  id: 'lantern',
  name: 'Lantern',
  kind: 'blink',
  pin: 'PB1',
  target: { frequencyHz: 0.5, duty: 0.1, frequencyTolerancePpm: 2000, dutyTolerance: 0.002 },
};
const horn: Signal = { id: 'horn', name: 'Horn', kind: 'tone', target: { note: 'A4', toleranceCents: 5 } };
const lamp: Signal = {
  id: 'lamp',
  name: 'Lamp',
  kind: 'dim',
  target: { minHz: 200, minSteps: 1000, duty: 0.35 },
};

describe('targets in the common form', () => {
  it('takes a blink by frequency or period, by duty or time lit', () => {
    const byFrequency = requirementOf(lantern);
    const byPeriod = requirementOf({
      kind: 'blink',
      target: { periodS: 2, onS: 0.2, frequencyTolerancePpm: 2000, dutyTolerance: 0.002 },
    });
    for (const requirement of [byFrequency, byPeriod]) {
      expect(exactText(requirement.frequency.low)).toBe('499/1000');
      expect([requirement.duty.low, requirement.duty.ideal, requirement.duty.high].map(exactText)).toEqual([
        '49/500',
        '1/10',
        '51/500',
      ]);
    }
  });

  it('takes 5 cents as the ratio 2^(5/1200) both ways', () => {
    const requirement = requirementOf(horn);
    if (requirement.frequency.kind !== 'near') throw new Error('a tone is near a frequency');
    expect(requirement.frequency.low.valueOf()).toBeCloseTo(438.7311, 3);
    expect(requirement.frequency.high.valueOf()).toBeCloseTo(441.2726, 3);
  });

  it('takes 0 % and 100 % as off and on, without tolerance', () => {
    for (const duty of [0, 1]) {
      const { low, high } = requirementOf({ kind: 'dim', target: { minHz: 200, minSteps: 100, duty } }).duty;
      expect([low.valueOf(), high.valueOf()]).toEqual([duty, duty]);
    }
  });

  it.each<[string, KindAndTarget]>([
    ['frequencyHz', { kind: 'blink', target: {} }],
    ['frequencyHz', { kind: 'blink', target: { frequencyHz: 1, periodS: 1 } }],
    ['onS', { kind: 'blink', target: { frequencyHz: 1, onS: 2 } }],
    ['onS', { kind: 'blink', target: { frequencyHz: 1, onS: 0.1, duty: 0.1 } }],
    ['note', { kind: 'tone', target: { note: 'H9' } }],
    ['duty', { kind: 'tone', target: { frequencyHz: 440, duty: 0 } }],
    [
      'toleranceCents',
      { kind: 'tone', target: { frequencyHz: 440, toleranceCents: 5, frequencyTolerancePpm: 5 } },
    ],
    ['minSteps', { kind: 'dim', target: { minHz: 200, minSteps: 0.5 } }],
  ])('refuses a target at %s', (key, target) => {
    expect(() => requirementOf(target)).toThrow(TargetError);
    expect(() => requirementOf(target)).toThrow(expect.objectContaining({ key }) as Error);
  });
});

describe('sentences', () => {
  it.each([
    [lantern, 'Lantern on PB1 blinks at 0.5 Hz within 0.2 %, lit for 10 % of the time.'],
    [horn, 'Horn on any pin sounds A4 within 5 c, high for 50 % of the time.'],
    [lamp, 'Lamp on any pin dims at 200 Hz or more in 1 000 steps or more, lit for 35 % of the time.'],
  ])('%#', (signal, text) => {
    expect(plain(sentenceText(signal))).toBe(text);
  });

  it('says the same thing in the other units', () => {
    const also = sentenceOf(horn).flatMap((piece) => ('token' in piece ? [plain(piece.also)] : []));
    expect(also).toContain('440 Hz = A4 = 2.272 73 ms');
    expect(also).toContain('±5 c = 438.731 1 Hz … 441.272 6 Hz');
  });
});

describe('editing a token', () => {
  const edited = (signal: Signal, token: string, text: string): unknown => {
    const edit = editToken(signal, token, text);
    return edit.ok ? edit.value.target : edit.fault.sentence;
  };

  it('keeps the unit that was said', () => {
    expect(edited(horn, 'frequency', 'A5')).toEqual({ note: 'A5', toleranceCents: 5 });
    expect(edited(horn, 'frequency', 'a4 +12 c')).toEqual({ note: 'A4', cents: 12, toleranceCents: 5 });
    expect(edited(horn, 'frequency', '2.3 kHz')).toEqual({ frequencyHz: 2300, toleranceCents: 5 });
    expect(edited(lantern, 'frequency', '2s')).toMatchObject({ periodS: 2, duty: 0.1 });
    expect(edited(horn, 'tolerance', '300 ppm')).toEqual({ note: 'A4', frequencyTolerancePpm: 300 });
    expect(edited(horn, 'tolerance', '10 c')).toEqual({ note: 'A4', toleranceCents: 10 });
    expect(edited(lamp, 'minSteps', '10 bit')).toMatchObject({ minSteps: 1024 });
  });

  it('keeps what is no decimal as a fraction', () => {
    expect(edited(lamp, 'duty', '1/3')).toMatchObject({ duty: '1/3' });
    expect(edited(lantern, 'duty', '15/1024')).toMatchObject({ duty: 0.0146484375 });
  });

  it('refuses with a sentence and leaves the signal alone', () => {
    expect(edited(lantern, 'duty', '120 %')).toMatch(/between 0 % and 100 %/);
    expect(edited(horn, 'duty', '0 %')).toMatch(/exclusive/);
    expect(edited(lantern, 'frequency', 'soon')).toMatch(/“soon” is not understood/);
  });

  it('always gives a target that its own requirement accepts, whatever is typed', () => {
    const texts = fc.oneof(
      fc.string(),
      fc.constantFrom('2 kHz', '1/3', 'A4', '5 c', '7 %', '10 bit', '0', '1e-9 Hz', '1e12'),
    );
    fc.assert(
      fc.property(
        fc.constantFrom(lantern, horn, lamp),
        fc.constantFrom<string>('frequency', 'duty', 'tolerance'),
        texts,
        (signal, token, text) => {
          const edit = editToken(signal, token, text);
          if (edit.ok) expect(() => requirementOf(edit.value)).not.toThrow();
        },
      ),
      { numRuns: 500 },
    );
  });

  it('binds and frees the pin', () => {
    expect(withPin(horn, 'PD3').pin).toBe('PD3');
    expect('pin' in withPin(lantern, undefined)).toBe(false);
  });
});
