import { readNote } from '../../quantity/note.ts';
import { allKinds, type Kind } from '../kinds/kind.ts';
import { isFiller, LABEL_WORDS, labelOf, LONGEST_ENTRY_WORDS, type Label } from './vocabulary.ts';

/** How surely a word tells a kind of signal, and whether it may be part of a name. */
type Sense = { kind: string; sure: boolean; noun: boolean };

/** What a word of a wish may be; a word may be several things, and the words around it decide. */
export type Meaning = {
  label?: Label;
  filler: boolean;
  senses: readonly Sense[];
  pin?: string;
  note?: string;
  /** The word that was meant where it was mistyped. */
  corrected?: string;
};

/** A pin by its own name and by those that a board gives it. */
export type NamedPin = { id: string; names: readonly string[] };

/** What words mean here: those of the kinds that are registered, and the pins of a part. */
export type Lexicon = {
  isEntry: (words: string) => boolean;
  meaningOf: (word: string) => Meaning;
};

/** A verb in the forms that people write. */
function forms(verb: string): string[] {
  if (verb.includes(' ')) return [verb];
  const stem = verb.endsWith('e') ? verb.slice(0, -1) : verb;
  return [verb, `${verb}s`, `${verb}es`, `${stem}ing`, `${stem}ed`];
}

function plural(noun: string): string[] {
  return [noun, `${noun}s`];
}

type Senses = Map<string, Sense[]>;

let known: { kinds: readonly Kind[]; senses: Senses } | undefined;

/** What words tell of the kinds that are registered now. */
function kindWords(): Senses {
  const kinds = allKinds();
  const same = known?.kinds.length === kinds.length && known.kinds.every((kind, at) => kind === kinds[at]);
  if (known && same) return known.senses;
  known = { kinds, senses: sensesOf(kinds) };
  return known.senses;
}

function sensesOf(kinds: readonly Kind[]): Senses {
  const senses: Senses = new Map();
  const add = (words: readonly string[], sense: Sense): void => {
    for (const word of words.map((one) => one.toLowerCase()))
      senses.set(word, [...(senses.get(word) ?? []), sense]);
  };
  for (const { id: kind, wish } of kinds) {
    add((wish.says ?? []).flatMap(forms), { kind, sure: true, noun: false });
    add((wish.is ?? []).flatMap(plural), { kind, sure: true, noun: true });
    add((wish.things ?? []).flatMap(plural), { kind, sure: false, noun: true });
    add(wish.hints ?? [], { kind, sure: false, noun: false });
  }
  return senses;
}

/** Whether one letter added, left out, changed or swapped with its neighbour makes a word of the other. */
export function oneLetterOff(one: string, other: string): boolean {
  if (Math.abs(one.length - other.length) > 1 || one === other) return false;
  let start = 0;
  while (start < one.length && one[start] === other[start]) start += 1;
  const rest = (text: string, from: number): string => text.slice(from);
  return (
    rest(one, start + 1) === rest(other, start + 1) ||
    rest(one, start + 1) === rest(other, start) ||
    rest(one, start) === rest(other, start + 1) ||
    (one[start] === other[start + 1] &&
      one[start + 1] === other[start] &&
      rest(one, start + 2) === rest(other, start + 2))
  );
}

/** Shorter words are not corrected: too many of them are one letter off. */
const SHORTEST_CORRECTED = 5;

const NOTE_WORD = /^[A-G][#b♯♭]?\d$/i;

/** The lexicon of the registered kinds and of a part's pins. */
export function lexiconOf(pins: readonly NamedPin[]): Lexicon {
  const senses = kindWords();
  const byName = new Map(
    pins.flatMap(({ id, names }) => [id, ...names].map((name): [string, string] => [name.toLowerCase(), id])),
  );
  const isKnown = (word: string): boolean =>
    senses.has(word) || labelOf(word) !== undefined || isFiller(word);
  const correctable = [...senses.keys(), ...LABEL_WORDS].filter((word) => word.length >= SHORTEST_CORRECTED);
  const corrected = (word: string): string | undefined => {
    if (word.length < SHORTEST_CORRECTED - 1 || /\d/.test(word)) return undefined;
    return correctable.find((right) => right[0] === word[0] && oneLetterOff(word, right));
  };
  const exactly = (word: string): Meaning => {
    const label = labelOf(word);
    return { filler: isFiller(word), senses: senses.get(word) ?? [], ...(label ? { label } : {}) };
  };
  const wordOf = (text: string): Meaning => {
    const word = text.toLowerCase();
    if (isKnown(word)) return exactly(word);
    const right = corrected(word);
    return right === undefined ? exactly(word) : { ...exactly(right), corrected: right };
  };
  return {
    isEntry: isKnown,
    meaningOf: (text) => {
      if (!/[\p{L}\p{N}]/u.test(text)) return { filler: true, senses: [] };
      const pin = byName.get(text.toLowerCase());
      const note = NOTE_WORD.test(text) && readNote(text) ? text : undefined;
      if (pin === undefined && note === undefined) return wordOf(text);
      return {
        filler: false,
        senses: [],
        ...(pin === undefined ? {} : { pin }),
        ...(note === undefined ? {} : { note }),
      };
    },
  };
}

/** The most words in a row that the lexicon knows as one. */
export const LONGEST_WORDS = LONGEST_ENTRY_WORDS;
