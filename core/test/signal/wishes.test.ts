import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Plan } from '../../src/plan/plan.ts';
import { readWishes, wishProblems } from '../../src/plan/wishes.ts';
import { exact } from '../../src/quantity/exact.ts';
import type { SequenceStep } from '../../src/signal/sequence.ts';
import { morseMarks } from '../../src/signal/wish/stretched.ts';
import { oneLetterOff } from '../../src/signal/wish/meaning.ts';
import { readWish, type WishReading, type WishResult } from '../../src/signal/wish/read.ts';
import { shipped } from '../helpers/parts.ts';
import { LOCK_GATE, planOn } from '../helpers/plan.ts';

/** A wish with what it should become: a signal, what is left over of it, a choice of kinds, or a question. */
type Expected = {
  say: string;
  kind?: string;
  target?: Record<string, unknown>;
  name?: string;
  pin?: string;
  deadS?: number;
  complementPin?: string;
  steps?: SequenceStep[];
  morse?: string;
  phase?: { to: string; degrees: number };
  firstEdgeS?: number;
  /** How many usual values are taken. */
  assumed?: number;
  left?: string[];
  choice?: string[];
  asks?: string;
};

const WISHES = JSON.parse(readFileSync(join(__dirname, '../fixtures/wishes.json'), 'utf8')) as Expected[];

const PINS = ['PB0', 'PB1', 'PB2', 'PB3', 'PB4', 'PB5', 'PC0', 'PD3', 'PD6', 'PA8'].map((id) => ({
  id,
  names: { PB1: ['D9'], PB5: ['D13'], PD3: ['D3'] }[id] ?? [],
}));
const CONTEXT = { pins: PINS, others: [{ id: 'lantern', name: 'Lantern' }] };

/** Fields that a kind cannot do without and that the data file leaves out. */
const USUAL: Record<string, object> = { string: { bitS: 1.25e-6, zeroS: 4e-7, oneS: 8e-7 } };

function same(one: unknown, other: unknown): boolean {
  if (
    (typeof one === 'number' || typeof one === 'string') &&
    (typeof other === 'number' || typeof other === 'string')
  ) {
    if (one === other) return true;
    if ([one, other].some((each) => !/^-?[\d./e+-]+$/.test(String(each)))) return false;
    const [a, b] = [exact(one).valueOf(), exact(other).valueOf()];
    return Math.abs(a - b) <= 1e-12 * Math.max(Math.abs(a), Math.abs(b));
  }
  if (Array.isArray(one) && Array.isArray(other)) {
    return one.length === other.length && one.every((each, at) => same(each, other[at]));
  }
  if (typeof one === 'object' && one !== null && typeof other === 'object' && other !== null) {
    const keys = new Set([...Object.keys(one), ...Object.keys(other)]);
    return [...keys].every((key) => same(one[key as keyof typeof one], other[key as keyof typeof other]));
  }
  return one === other;
}

/** Lengths of on and off in dots of what a reading sends. */
function dotsOf({ signal }: WishReading): number[] {
  const steps = signal.sequence?.steps ?? [];
  const lengths = steps.map(({ periods, forS }) => periods ?? exact(forS ?? 0).valueOf());
  const dot = steps[0]?.periods === undefined ? (lengths[0] ?? 1) : 1;
  const rest = exact(steps[1]?.forS ?? 1).valueOf();
  return lengths.map((length, at) => Math.round(length / (at % 2 === 0 ? dot : rest)));
}

/** What differs from the expected signal; empty where nothing does. */
function differences(reading: WishReading, expected: Expected): string[] {
  const { signal, left, assumed } = reading;
  const wrong: string[] = [];
  const want = (what: string, made: unknown, wanted: unknown): void => {
    if (!same(made, wanted))
      wrong.push(`${what} ${JSON.stringify(made)} instead of ${JSON.stringify(wanted)}`);
  };
  want('kind', signal.kind, expected.kind);
  want('target', signal.target, { ...USUAL[expected.kind ?? ''], ...expected.target });
  if (expected.name !== undefined) want('name', signal.name, expected.name);
  want('pin', signal.pin, expected.pin);
  want('dead time', signal.deadS ?? signal.complement?.deadS, expected.deadS);
  want('pin of the opposite', signal.complement?.pin, expected.complementPin);
  want('phase', signal.phase, expected.phase);
  want('first edge', signal.firstEdgeS, expected.firstEdgeS);
  want('left over', left, expected.left ?? []);
  want('number of assumptions', assumed.length, expected.assumed ?? (expected.left ? assumed.length : 0));
  if (expected.morse === undefined) want('sequence', signal.sequence?.steps, expected.steps);
  else
    want(
      'Morse',
      dotsOf(reading),
      (morseMarks(expected.morse) ?? []).flatMap(({ on, off }) => [on, off]),
    );
  return wrong;
}

type Outcome = 'right' | 'silently wrong' | 'other';

function judge(result: WishResult, expected: Expected): { outcome: Outcome; why: string } {
  const [only, ...more] = result.readings;
  const right = { outcome: 'right', why: '' } as const;
  if (expected.asks !== undefined) {
    if (result.question?.toLowerCase().includes(expected.asks.toLowerCase()) && !only) return right;
    if (!only) return { outcome: 'other', why: `asks “${result.question ?? ''}”` };
    return { outcome: only.left.length > 0 ? 'other' : 'silently wrong', why: `is ${only.signal.kind}` };
  }
  if (!only) return { outcome: 'other', why: `asks “${result.question ?? ''}”` };
  if (expected.choice) {
    const kinds = result.readings.map(({ signal }) => signal.kind).sort();
    if (same(kinds, [...expected.choice].sort())) return right;
    return { outcome: more.length > 0 ? 'other' : 'silently wrong', why: `offers ${kinds.join(', ')}` };
  }
  if (more.length > 0)
    return { outcome: 'other', why: `offers ${result.readings.map(({ signal }) => signal.kind).join(', ')}` };
  const wrong = differences(only, expected);
  if (wrong.length === 0) return right;
  // What is marked as left over is not silent, and neither is an assumption that is named.
  const told = only.left.length > (expected.left?.length ?? 0);
  return { outcome: told ? 'other' : 'silently wrong', why: wrong.join('; ') };
}

describe('wishes', () => {
  const judged = WISHES.map((expected) => ({
    ...judge(readWish(expected.say, CONTEXT), expected),
    say: expected.say,
  }));

  it('at least 190 of 200 are understood as they are meant, and none is silently misunderstood', () => {
    const rows = judged.filter(({ outcome }) => outcome !== 'right');
    const count = (wanted: Outcome): number => judged.filter(({ outcome }) => outcome === wanted).length;
    const table = [
      `${WISHES.length} wishes: ${count('right')} right, ${count('other')} not as meant but said so, ${count('silently wrong')} silently wrong`,
      ...rows.map(({ outcome, say, why }) => `  ${outcome}: “${say}”: ${why}`),
    ];
    process.stdout.write(`${table.join('\n')}\n`);
    expect(WISHES.length).toBeGreaterThanOrEqual(200);
    expect(count('right')).toBeGreaterThanOrEqual(Math.ceil(0.95 * WISHES.length));
    expect(rows.filter(({ outcome }) => outcome === 'silently wrong')).toEqual([]);
  });
});

describe('the reader of wishes', () => {
  const words = fc.constantFrom(
    ...WISHES.flatMap(({ say }) => say.split(' ')),
    ...[
      '±',
      '+',
      '-',
      '°',
      '1/0',
      '0',
      '1e9',
      '…',
      'constructor',
      '__proto__',
      'A4',
      'half',
      'every',
      'other',
      '1/3',
    ],
  );
  const text = fc.oneof(
    fc.array(words, { maxLength: 12 }).map((list) => list.join(' ')),
    fc.string({ maxLength: 60 }),
    fc.string({ unit: 'binary', maxLength: 40 }),
  );

  it('accounts for every character, and for every number as understood or as left over', () => {
    fc.assert(
      fc.property(text, (said) => {
        const { readings, question } = readWish(said, CONTEXT);
        if (readings.length === 0 && question === undefined) return false;
        return readings.every(({ text: marked, left }) => {
          const whole = marked.map((one) => one.text).join('');
          const numbers = marked.filter((one) => /\d/.test(one.text));
          const told = numbers.every(({ as, left: over }) => as !== undefined || over === true);
          return whole === said && told && left.length === marked.filter((one) => one.left).length;
        });
      }),
      { numRuns: 3000 },
    );
  });

  it('counts the cents behind a note as understood, with a sign or without', () => {
    for (const said of ['Bb3 2 cents', 'A4 +12 cents', 'horn Bb3 -5 c']) {
      const [reading] = readWish(said, CONTEXT).readings;
      const numbers = reading?.text.filter((one) => /\d/.test(one.text)) ?? [];
      expect([said, numbers.length > 0, numbers.every(({ as }) => as !== undefined)]).toEqual([
        said,
        true,
        true,
      ]);
    }
  });

  it('says of the word that is sent in Morse code that it is the text', () => {
    for (const said of ['PZ9 morse', 'beacon, morse PZ9']) {
      const stretch = readWish(said, CONTEXT).readings[0]?.text.find(({ text }) => text === 'PZ9');
      expect([said, stretch]).toEqual([said, { text: 'PZ9', as: 'text in Morse code' }]);
    }
  });

  it('sends the letters of the international Morse code', () => {
    // "ET": a dot and a dash, three dots apart, seven after the word.
    expect(morseMarks('et')).toEqual([
      { on: 1, off: 3 },
      { on: 3, off: 7 },
    ]);
    // PARIS is fifty dots long, by which speeds are counted.
    const length = (morseMarks('PARIS') ?? []).reduce((sum, { on, off }) => sum + on + off, 0);
    expect(length).toBe(50);
    expect(morseMarks('ä')).toBeUndefined();
  });

  it.each([
    ['bliks', 'blinks', true],
    ['servp', 'servo', true],
    ['buzer', 'buzzer', true],
    ['lampe', 'lamp', true],
    ['flahses', 'flashes', true],
    ['lamp', 'lamp', false],
    ['beep', 'blink', false],
  ])('%s is one letter off %s: %s', (one, other, off) => {
    expect(oneLetterOff(one, other)).toBe(off);
  });
});

describe('wishes as signals of a plan', () => {
  const stm = shipped('stm32f401');
  const avr = shipped('atmega328p');
  const plan: Plan = { ...LOCK_GATE, part: stm.id, clock: stm.defaultClock };

  it('several lines refer to each other, and names and ids stay unique', () => {
    const lines = readWishes(
      'Lantern blinks 2 Hz\n\nLantern blinks 2 Hz 90° after Lantern\nbrew tea',
      plan,
      stm,
    );
    expect(lines.map(({ line, readings }) => [line, readings.map(({ signal }) => signal.id)])).toEqual([
      [1, ['lantern']],
      [3, ['lantern-2']],
      [4, []],
    ]);
    expect(lines[1]?.readings[0]?.signal.phase).toEqual({ to: 'lantern', degrees: 90 });
    expect(lines[1]?.readings[0]?.sentence).toContain('Phase: 90° after Lantern ±5°.');
    expect(lines.flatMap(wishProblems)).toEqual([
      '“brew tea”: What should a pin do? Say for example “buzzer beeps 2 kHz”, “lamp dims 1000 steps” or “servo 0.9..2.1 ms”.',
    ]);
  });

  it('a dead time gets the pins of an output and its opposite, where the part has them', () => {
    const [line] = readWishes('half-bridge 100 kHz dead time 200 ns', plan, stm);
    const signal = line?.readings[0]?.signal;
    const pins = stm.timers.flatMap(({ deadTime, channels }) =>
      deadTime ? channels.flatMap(({ complement }) => (complement ?? []).map(({ pin }) => pin)) : [],
    );
    expect(signal?.complement?.deadS).toBe(2e-7);
    expect(pins).toContain(signal?.complement?.pin);
    expect(line && wishProblems(line)).toEqual([]);
    // By a second channel of the timer whose frequency is free: OC1A and OC1B.
    const [paired] = readWishes('half-bridge 20 kHz dead time 1 us', LOCK_GATE, avr);
    expect(paired && wishProblems(paired)).toEqual([]);
    expect(paired?.readings[0]?.signal).toMatchObject({ pin: 'PB1', complement: { pin: 'PB2' } });
    const pic = shipped('pic18f4620');
    const [none] = readWishes('half-bridge 20 kHz dead time 1 us', planOn(pic), pic);
    expect(none && wishProblems(none)).toEqual([
      '“half-bridge 20 kHz dead time 1 us”: The dead time is left out: no timer of PIC18F4620 keeps one.',
    ]);
  });

  it('a pin is known by the name that the board gives it', () => {
    const [line] = readWishes('buzzer 2 kHz on D9', { ...LOCK_GATE, pinNames: { PB1: 'D9' } }, avr);
    expect(line?.readings[0]?.signal.pin).toBe('PB1');
    expect(line?.readings[0]?.sentence).toContain('on PB1 (D9)');
  });
});
