import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import { printSeconds } from '../../quantity/print.ts';
import type { Sequence, SequenceStep } from '../sequence.ts';
import type { Facts } from './facts.ts';

/** How long a beep is where a wish does not say, and how long the pause between two of a group. */
const BEEP_S = exact('0.2');

/** How long a dot of Morse code is where a wish does not say. */
const DOT_S = exact('0.2');

const MORSE = new Map(
  Object.entries({
    a: '.-',
    b: '-...',
    c: '-.-.',
    d: '-..',
    e: '.',
    f: '..-.',
    g: '--.',
    h: '....',
    i: '..',
    j: '.---',
    k: '-.-',
    l: '.-..',
    m: '--',
    n: '-.',
    o: '---',
    p: '.--.',
    q: '--.-',
    r: '.-.',
    s: '...',
    t: '-',
    u: '..-',
    v: '...-',
    w: '.--',
    x: '-..-',
    y: '-.--',
    z: '--..',
    0: '-----',
    1: '.----',
    2: '..---',
    3: '...--',
    4: '....-',
    5: '.....',
    6: '-....',
    7: '--...',
    8: '---..',
    9: '----.',
  }),
);

/** A stretch of Morse code in dots: on for so many, then off for so many. */
type Mark = { on: number; off: number };

/**
 * A text in Morse code: a dash is three dots long, the parts of a letter are one apart, letters three, words seven (ITU-R
 * M.1677). Undefined where a character has no code.
 */
export function morseMarks(text: string): Mark[] | undefined {
  const marks: Mark[] = [];
  for (const word of text.toLowerCase().split(/\s+/).filter(Boolean)) {
    for (const letter of word) {
      const code = MORSE.get(letter);
      if (code === undefined) return undefined;
      for (const sign of code) marks.push({ on: sign === '.' ? 1 : 3, off: 1 });
      pauseAfter(marks, 3);
    }
    pauseAfter(marks, 7);
  }
  return marks;
}

function pauseAfter(marks: Mark[], off: number): void {
  const last = marks.pop();
  if (last) marks.push({ ...last, off });
}

/** What the facts say of Morse code: its marks and the length of a dot; a sentence where it cannot be sent. */
export function morseIn(facts: Facts): { marks: Mark[]; dotS: Exact } | { asks: string } | undefined {
  const morse = facts.take('morse');
  if (!morse) return undefined;
  if (morse.said === '') return { asks: 'Which words shall be sent in Morse code?' };
  const marks = morseMarks(morse.said);
  if (!marks) return { asks: `“${morse.said}” has characters that have no Morse code.` };
  if (marks.length > 100) return { asks: 'A text in Morse code has up to 100 dots and dashes.' };
  const said = facts.take('dot', 'time');
  if (!said) facts.assume(`dots of ${printSeconds(DOT_S.valueOf())}`);
  return { marks, dotS: said?.value ?? DOT_S };
}

/** Times on and off, in s, as steps; `on` makes the step of a time on. */
export function stretches(
  marks: readonly Mark[],
  dotS: Exact,
  on: (seconds: Exact, dots: number) => SequenceStep,
): Sequence {
  return {
    steps: marks.flatMap((mark): SequenceStep[] => [
      on(dotS.mul(mark.on), mark.on),
      { rest: true, forS: amountOf(dotS.mul(mark.off)) },
    ]),
  };
}

/**
 * "Beeps twice every 10 s", "for 2 s every 30 s", "once a second": times on in each round, as steps. Undefined where a
 * wish has no rounds.
 */
export function roundsIn(facts: Facts): Sequence | { asks: string } | undefined {
  const every = facts.take('every');
  const rate = every ? undefined : facts.take('rate');
  const roundS = every?.value ?? rate?.value.inverse();
  if (!roundS) return undefined;
  const count = Math.max(1, Math.round(facts.number('count') ?? 1));
  const said = facts.take('on', 'time');
  if (!said) facts.assume(`${printSeconds(BEEP_S.valueOf())} each`);
  const onS = said?.value ?? BEEP_S;
  const gapS = onS.compare(BEEP_S) < 0 ? onS : BEEP_S;
  if (count > 50) return { asks: 'A group has up to 50 beeps.' };
  const restS = roundS.sub(onS.mul(count)).sub(gapS.mul(count - 1));
  if (restS.compare(0) <= 0) {
    return {
      asks: `${count} × ${printSeconds(onS.valueOf())} do not fit into ${printSeconds(roundS.valueOf())}.`,
    };
  }
  const steps = Array.from({ length: count }, (_, at): SequenceStep[] => [
    { forS: amountOf(onS) },
    { rest: true, forS: amountOf(at === count - 1 ? restS : gapS) },
  ]);
  return { steps: steps.flat() };
}
