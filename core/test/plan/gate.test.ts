import fc from 'fast-check';
import { copiedSignal } from '../../src/plan/edit.ts';
import { planFault, readPlan } from '../../src/plan/check-plan.ts';
import { writePlan } from '../../src/plan/write-plan.ts';
import { editToken } from '../../src/signal/edit.ts';
import { allKinds } from '../../src/signal/kinds/index.ts';
import { parseFirstEdge, parseOpposite } from '../../src/signal/timing-text.ts';
import type { Signal } from '../../src/signal/signal.ts';
import { readWish } from '../../src/signal/wish/read.ts';
import { PARTS, partById } from '../helpers/parts.ts';
import { LOCK_GATE as plan } from '../helpers/plan.ts';
import { NASTY } from '../fuzz/mutate.ts';

const parts = [partById('atmega328p')].flatMap((part) => part ?? []);
const blink: Signal = { id: 'a', name: 'A', kind: 'blink', pin: 'PB1', target: { frequencyHz: 1 } };

function sentence(result: ReturnType<typeof editToken>): string {
  return result.ok ? 'taken' : result.fault.sentence.replace(/[\u202f\u00a0]/g, ' ');
}

describe('entries that once made a plan which did not open again', () => {
  it.each([
    ['tolerance', '200 %', 'The frequency tolerance must be 100 % or less.'],
    ['tolerance', '1300 c', 'The frequency tolerance must be 100 % or less.'],
    ['frequency', '1e13 Hz', 'The frequency must be 1000000000000 or less, and is 10000000000000.'],
  ])('%s %s', (token, text, said) => {
    expect(sentence(editToken(blink, token, text))).toBe(said);
  });

  it('a number pasted from a calculator is taken as the nearest number', () => {
    const edit = editToken(blink, 'frequency', '0.33333333333333333333333333333333 Hz');
    expect(edit).toMatchObject({ ok: true, value: { target: { frequencyHz: 0.3333333333333333 } } });
    expect(edit.ok && planFault({ ...plan, signals: [edit.value] }, parts)).toBeUndefined();
  });

  it.each<[Partial<Signal>, string]>([
    [{ complement: { pin: 'PB2', deadS: 2 } }, 'The dead time in s must be 1 or less, and is 2.'],
    [{ firstEdgeS: 1_728_000 }, 'The time of the first edge in s must be 1000000 or less, and is 1728000.'],
  ])('%j', (change, said) => {
    const fault = planFault({ ...plan, signals: [{ ...blink, ...change } as Signal] }, parts);
    expect(fault?.plain).toBe(said);
  });

  it('an oscillator that is off by 200 %', () => {
    const clock = { ...plan.clock, tolerancePpm: 2_000_000 };
    expect(planFault({ ...plan, clock }, parts)?.plain).toBe(
      'The tolerance of the oscillator in ppm must be 1000000 or less, and is 2000000.',
    );
  });

  it('a copy of a signal with the longest name', () => {
    const name = 'n'.repeat(80);
    const copied = copiedSignal({ ...plan, signals: [{ ...blink, name }] }, 'a');
    expect(copied?.plan.signals.map((one) => one.name.length)).toEqual([80, 80]);
    expect(copied && planFault(copied.plan, parts)).toBeUndefined();
  });
});

describe('wishes that once ended in an error page', () => {
  it.each([
    ['servo 30 ms', 'The width is longer than its period of 0.02 s.'],
    ['strobe 2 kHz 1 ms', 'The time lit is longer than its period of 0.0005 s.'],
    ['shutter opens 2 s', 'The width is longer than its period of 0.02 s.'],
  ])('%s', (text, said) => {
    const { readings, question } = readWish(text, { pins: [] });
    expect(readings.length > 0 ? 'taken' : question).toBe(said);
  });

  it('5 constructors', () => {
    expect(readWish('5 constructors', { pins: [] }).readings).toEqual([]);
  });
});

/** What people type, with what breaks readers in it. */
const entry = fc.oneof(
  fc.constantFrom('2 kHz', '1.5 ms', '300 rpm', 'A4 +12 c', '15/1024', '10 %', '12 bit', '90°', '217 counts'),
  fc
    .tuple(
      fc.double({ noNaN: true, min: 0 }),
      fc.constantFrom('Hz', 'kHz', 's', 'ms', '%', 'ppm', 'c', 'V', 'bit', ''),
    )
    .map(([value, unit]) => `${value} ${unit}`),
  fc
    .tuple(fc.integer({ min: 0, max: 9999 }), fc.constantFrom(...NASTY))
    .map(([value, text]) => `${value}${text}`),
);

it('an accepted edit reopens: every token of every kind, and the timing of a signal', () => {
  const starters = allKinds().map(
    (kind) => ({ id: 'a', name: 'A', kind: kind.id, target: kind.starter.target }) as Signal,
  );
  const tokens = starters.flatMap((signal) => {
    const kind = allKinds().find((one) => one.id === signal.kind);
    return Object.keys(kind?.tokens ?? {}).map((token) => ({ signal, token }));
  });
  const reopens = (signal: Signal): void => {
    const next = { ...plan, signals: [signal] };
    const fault = planFault(next, parts);
    const read = readPlan(writePlan(next), PARTS);
    expect(fault === undefined).toBe(read.ok);
  };
  fc.assert(
    fc.property(fc.constantFrom(...tokens), entry, ({ signal, token }, text) => {
      const edit = editToken(signal, token, text, { countS: 1e-6, dutyCounts: 1000 });
      if (!edit.ok) return;
      expect(planFault({ ...plan, signals: [edit.value] }, parts)).toBeUndefined();
      reopens(edit.value);
    }),
    { numRuns: 4000 },
  );
  fc.assert(
    fc.property(entry, (text) => {
      const first = parseFirstEdge(`within ${text}`);
      if (first.ok && first.value !== undefined) reopens({ ...blink, firstEdgeS: first.value });
      const opposite = parseOpposite(`PB2, ${text} apart`, ['PB2']);
      if (opposite.ok && opposite.value) reopens({ ...blink, complement: opposite.value });
    }),
    { numRuns: 1000 },
  );
});
