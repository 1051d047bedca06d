import { exact } from '../../quantity/exact.ts';
import type { Fact, Role } from './facts.ts';
import type { Phrase } from './grammar.ts';
import type { Lexicon, Meaning } from './meaning.ts';
import { quantityOf, type SaidQuantity } from './quantities.ts';
import type { UnitDimension } from './units.ts';
import type { Label } from './vocabulary.ts';

/** A stretch of a wish with what it is: a quantity, or a word. */
export type WishPiece = {
  from: number;
  to: number;
  text: string;
  fact?: Fact;
  /** What is wrong with its quantity. */
  fault?: string;
  meaning?: Meaning;
  /** Whether a quantity beside it has made use of this word. */
  spent?: boolean;
  /** The fact whose text this is: what is sent in Morse code. */
  sent?: Fact;
};

/** Of several labels in front of a quantity the first of these counts. */
const STRONGEST: readonly Label[] = [
  'dead',
  'ripple',
  'jitter',
  'first edge',
  'phase',
  'supply',
  'dot',
  'period',
  'off',
  'within',
  'above',
  'below',
  'on',
  'during',
  'duty',
  'at',
];

/** Labels that may stand behind their quantity: "200 ms on", "20 kHz or more", "500 ns dead time". */
const BEHIND: ReadonlySet<Label> = new Set<Label>([
  'dead',
  'ripple',
  'jitter',
  'off',
  'on',
  'within',
  'above',
  'below',
  'duty',
  'supply',
  'period',
  'dot',
  'after',
]);

const TIME_ROLES: Partial<Record<Label, Role>> = {
  dead: 'dead',
  jitter: 'jitter',
  'first edge': 'first edge',
  within: 'within s',
  dot: 'dot',
  period: 'period',
  off: 'off',
  on: 'on',
  during: 'during',
};

/** What labels make of a quantity of a dimension, and what it is without one of them. */
const ROLES: ReadonlyMap<UnitDimension, { else: Role; by: Partial<Record<Label, Role>> }> = new Map<
  UnitDimension,
  { else: Role; by: Partial<Record<Label, Role>> }
>([
  ['frequency', { else: 'hz', by: { above: 'minHz', below: 'maxHz' } }],
  ['time', { else: 'time', by: TIME_ROLES }],
  ['duty', { else: 'share', by: { within: 'within' } }],
  ['tolerance', { else: 'within', by: {} }],
  ['volts', { else: 'volts', by: { within: 'within V', ripple: 'ripple', supply: 'supply' } }],
  ['angle', { else: 'angle', by: { phase: 'phase', after: 'phase' } }],
  ['steps', { else: 'steps', by: {} }],
  ['ohms', { else: 'ohms', by: {} }],
  ['farads', { else: 'farads', by: {} }],
  ['leds', { else: 'leds', by: {} }],
  ['images', { else: 'images', by: {} }],
  ['pulses a turn', { else: 'pulses a turn', by: {} }],
  ['frames a second', { else: 'frames a second', by: {} }],
]);

/** What a quantity is, by its unit and the label beside it; a fraction without a unit is a share. */
function roleOf({ unit, value }: SaidQuantity, label: Label | undefined): Role {
  if (!unit) return value.d === 1n ? 'number' : 'share';
  const roles = ROLES.get(unit.of);
  const role = (label && roles?.by[label]) ?? roles?.else ?? 'number';
  return role === 'hz' && unit.as === 'rpm' ? 'rpm' : role;
}

const SPANS: ReadonlyMap<string, Role> = new Map<string, Role>([
  ['frequency', 'hz span'],
  ['time', 'time span'],
  ['duty', 'share span'],
]);

type Labels = { label: Label | undefined; words: WishPiece[] };

/** The labels between a quantity and the one before it, and the strongest of them. */
function labelsBefore(pieces: readonly WishPiece[]): Labels {
  const words: WishPiece[] = [];
  for (let at = pieces.length - 1; at >= 0; at -= 1) {
    const piece = pieces[at];
    const meaning = piece?.meaning;
    if (
      !piece ||
      !meaning ||
      piece.spent ||
      (!meaning.label && !meaning.filler && meaning.senses.length === 0)
    )
      break;
    if (meaning.senses.length > 0 && !meaning.label) break;
    if (meaning.label) words.push(piece);
  }
  return { label: STRONGEST.find((label) => words.some(({ meaning }) => meaning?.label === label)), words };
}

function stretch(text: string, { first, last }: Phrase): { from: number; to: number; text: string } {
  const from = first.startOffset;
  const to = last.startOffset + last.image.length;
  return { from, to, text: text.slice(from, to) };
}

function quantityPiece(
  base: { from: number; to: number; text: string },
  phrase: Phrase,
  label: Label | undefined,
  signed: boolean,
): WishPiece {
  const piece = (
    role: Role,
    main: SaidQuantity,
    more: Partial<Fact> = {},
    fault = main.fault,
  ): WishPiece => ({
    ...base,
    ...(fault === undefined ? {} : { fault }),
    fact: {
      role,
      value: main.value,
      said: main.unit?.as ?? '',
      spoken: main.spoken,
      ...(label ? { label } : {}),
      from: base.from,
      to: base.to,
      ...more,
    },
  });
  switch (phrase.is) {
    case 'amount': {
      const within = signed || label === 'within';
      const quantity = quantityOf(phrase.amount, within);
      return piece(roleOf(quantity, within ? 'within' : label), quantity);
    }
    case 'span': {
      const high = quantityOf(phrase.high, false);
      const low = quantityOf(phrase.low, false, high.unit);
      const role = high.unit && low.unit?.of === high.unit.of ? SPANS.get(high.unit.of) : undefined;
      return piece(role ?? 'number', low, { high: high.value }, low.fault ?? high.fault);
    }
    case 'count':
      return piece('count', quantityOf(phrase.times, false));
    case 'rate': {
      const times = quantityOf(phrase.times, false);
      const per = quantityOf(phrase.per, false);
      return piece('rate', { ...per, value: times.value.div(per.value) });
    }
    case 'every': {
      const period = quantityOf(phrase.period, false);
      const role = period.unit?.of === 'time' ? 'every' : 'number';
      return piece(role, { ...period, value: period.value.mul(phrase.factor) });
    }
    case 'word':
      return base;
  }
}

/** A word alone that says something: that the pin changes, a band above hearing, Morse code. */
function flagOf(label: Label | undefined, { from, to }: WishPiece): Fact | undefined {
  const flag = (role: Role, value: number): Fact => ({
    role,
    value: exact(value),
    said: '',
    spoken: value,
    from,
    to,
  });
  if (label === 'above hearing') return flag('minHz', 20_000);
  return label === 'changes' || label === 'morse' || label === 'without flicker' ? flag(label, 1) : undefined;
}

function wordPiece(base: WishPiece, lexicon: Lexicon): WishPiece {
  const meaning = lexicon.meaningOf(base.text);
  const fact = flagOf(meaning.label, base);
  return { ...base, meaning, ...(fact ? { fact, spent: true } : {}) };
}

/** Whether the label behind a quantity is its own rather than that of what follows: a pin, or another quantity. */
function belongsBefore(label: Label, phrases: readonly Phrase[], at: number, words: Words): boolean {
  const next = phrases[at + 2];
  if (!next) return true;
  if (next.is === 'word') return label !== 'on' || words(next).pin === undefined;
  const beyond = phrases[at + 3];
  const other = beyond?.is === 'word' ? words(beyond).label : undefined;
  return (label === 'on' && other === 'off') || (label === 'off' && other === 'on');
}

type Words = (phrase: Phrase) => Meaning;

/** What the label right behind a quantity makes of it, where it makes anything else of it: "200 ms on", "20 kHz or more". */
function relabelled(
  piece: WishPiece,
  phrases: readonly Phrase[],
  at: number,
  words: Words,
): WishPiece | undefined {
  const [own, next] = [phrases[at], phrases[at + 1]];
  if (own?.is !== 'amount' || next?.is !== 'word') return undefined;
  const { label } = words(next);
  if (!label || !BEHIND.has(label) || !belongsBefore(label, phrases, at, words)) return undefined;
  const changed = quantityPiece(piece, own, label, false);
  return changed.fact?.role !== piece.fact?.role || label === 'duty' ? changed : undefined;
}

/** A number in front of a verb counts: "2 flashes"; a time in front of “steps” is the coarsest one: "5 µs steps". */
function counted(pieces: readonly WishPiece[]): WishPiece[] {
  return pieces.map((piece, at) => {
    const next = pieces[at + 1];
    const { fact } = piece;
    if (!fact || !next?.meaning) return piece;
    const verb = next.meaning.senses.some(({ sure, noun }) => sure && !noun);
    if (fact.role === 'number' && fact.value.compare(0) > 0 && verb) {
      return { ...piece, fact: { ...fact, role: 'count' } };
    }
    const steps = /^steps?$/i.test(next.text);
    if ((fact.role !== 'time' && fact.role !== 'during') || !steps) return piece;
    next.spent = true;
    return { ...piece, fact: { ...fact, role: 'step' } };
  });
}

/** A quantity with the words around it that say what it is: those in front are marked as spent, `behind` tells of the one after. */
function quantityAt(
  text: string,
  phrases: readonly Phrase[],
  at: number,
  before: readonly WishPiece[],
  words: Words,
): { piece: WishPiece; behind: boolean } {
  const phrase = phrases[at];
  if (!phrase) throw new RangeError(`there is no phrase ${at}`);
  const base = stretch(text, phrase);
  const { label, words: labels } = labelsBefore(before);
  const piece = quantityPiece(base, phrase, label, phrase.is === 'amount' && phrase.signed);
  const bare = quantityPiece(base, phrase, undefined, false);
  const useful = piece.fact?.role !== bare.fact?.role || label === 'duty' || label === 'at';
  // A label that makes nothing else of its quantity may still belong to it: "lit for 10 %", "period of 2 s".
  for (const word of labels) {
    word.spent = useful || word.meaning?.label === label || word.meaning?.filler === true;
  }
  const changed = useful && label !== 'at' ? undefined : relabelled(piece, phrases, at, words);
  return { piece: changed ?? piece, behind: changed !== undefined };
}

/** The phrases of a wish with what they are. */
export function sorted(text: string, phrases: readonly Phrase[], lexicon: Lexicon): WishPiece[] {
  const words: Words = (phrase) => lexicon.meaningOf(stretch(text, phrase).text);
  const pieces: WishPiece[] = [];
  let spent = false;
  for (const [at, phrase] of phrases.entries()) {
    if (phrase.is === 'word') {
      const piece = wordPiece(stretch(text, phrase), lexicon);
      pieces.push(spent ? { ...piece, spent } : piece);
      spent = false;
      continue;
    }
    const { piece, behind } = quantityAt(text, phrases, at, pieces, words);
    spent = behind;
    pieces.push(piece);
  }
  return counted(pieces);
}
