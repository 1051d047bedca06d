import { exact } from '../../quantity/exact.ts';
import { findKind } from '../kinds/kind.ts';
import type { Phase } from '../sequence.ts';
import type { Fact } from './facts.ts';
import type { Meaning } from './meaning.ts';
import type { WishPiece } from './sorted.ts';

const UNDERSTOOD: Meaning = { filler: false, senses: [] };

function isUnknownWord({ meaning, fact, spent }: WishPiece): boolean {
  if (!meaning || fact || spent) return false;
  if (meaning.label) return meaning.label === 'SOS';
  return !meaning.filler && meaning.senses.length === 0 && !meaning.pin && !meaning.note;
}

function spent({ from, to, text }: WishPiece): WishPiece {
  return { from, to, text, meaning: UNDERSTOOD, spent: true };
}

/** The word in front of “in Morse”, or behind it, is what is sent; SOS needs no more to be known as Morse code. */
export function withMessage(pieces: readonly WishPiece[]): WishPiece[] {
  const at = pieces.findIndex(({ fact }) => fact?.role === 'morse');
  const morse = pieces[at];
  if (!morse?.fact) return pieces.map(distress);
  const [before, after] = [pieces[at - 1], pieces[at + 1]];
  const word = before && isUnknownWord(before) ? before : after && isUnknownWord(after) ? after : undefined;
  if (!word) return [...pieces];
  const fact: Fact = { ...morse.fact, said: word.text };
  return pieces.map((piece) => {
    if (piece === word) return { ...spent(word), sent: fact };
    return piece === morse ? { ...morse, fact } : piece;
  });
}

function distress(piece: WishPiece): WishPiece {
  if (piece.meaning?.label !== 'SOS') return piece;
  const { from, to, text } = piece;
  return { ...spent(piece), fact: { role: 'morse', value: exact(1), said: text, spoken: 1, from, to } };
}

const BEFORE_PIN = new Set(['on', 'at', 'pin']);

/** Whether a word that is both a pin and a note stands for the pin: after “on”, before a colon, or where nothing sounds. */
function standsForPin(pieces: readonly WishPiece[], at: number): boolean {
  if (pieces[at]?.meaning?.pin === undefined) return false;
  const senses = pieces.flatMap(({ meaning }) => meaning?.senses ?? []);
  const silent = senses.length > 0 && senses.every(({ kind }) => !findKind(kind)?.sounds);
  return BEFORE_PIN.has(pieces[at - 1]?.text.toLowerCase() ?? '') || pieces[at + 1]?.text === ':' || silent;
}

/** Notes as facts, with the cents behind them: "A5 +12 c". */
export function withNotes(wish: string, pieces: readonly WishPiece[]): WishPiece[] {
  const done: WishPiece[] = [];
  for (let at = 0; at < pieces.length; at += 1) {
    const piece = pieces[at];
    const note = piece?.meaning?.note;
    if (!piece || note === undefined || standsForPin(pieces, at)) {
      if (piece) done.push(piece);
      continue;
    }
    const plus = pieces[at + 1]?.text === '+' ? 1 : 0;
    const cents = pieces[at + 1 + plus]?.fact;
    const off = cents?.said === 'cents' && cents.label === undefined ? cents.spoken : undefined;
    const said = off === undefined ? note : `${note} ${off < 0 ? '-' : '+'}${Math.abs(off)} c`;
    // The cents belong to the note: one piece, so that their number counts as understood.
    const own = off === undefined ? [piece] : pieces.slice(at, at + 2 + plus);
    const { from } = piece;
    const to = own[own.length - 1]?.to ?? piece.to;
    const text = wish.slice(from, to);
    const fact: Fact = { role: 'note', value: exact(0), said, spoken: 0, from, to };
    done.push({ from, to, text, meaning: UNDERSTOOD, fact });
    at += own.length - 1;
  }
  return done;
}

/** "90° after Lantern": a phase to a signal that is known by its name; the longest name counts. */
export function phaseIn(
  pieces: readonly WishPiece[],
  others: readonly { id: string; name: string }[],
): { phase: Phase; pieces: readonly WishPiece[] } | undefined {
  const at = pieces.findIndex(({ fact }) => fact?.role === 'phase');
  const angle = pieces[at];
  if (!angle?.fact) return undefined;
  const rest = pieces.slice(at + 1);
  const small = rest.findIndex(
    ({ meaning, fact }) => fact || !(meaning?.filler === true || meaning?.label === 'after'),
  );
  const words = small < 0 ? [] : rest.slice(small);
  for (let count = words.length; count > 0; count -= 1) {
    const named = words.slice(0, count);
    const name = named
      .map(({ text }) => text)
      .join(' ')
      .toLowerCase();
    const to = others.find((one) => one.name.toLowerCase() === name || one.id === name);
    if (to) {
      const degrees = angle.fact.value.valueOf();
      return { phase: { to: to.id, degrees }, pieces: [angle, ...rest.slice(0, small), ...named] };
    }
  }
  return undefined;
}
