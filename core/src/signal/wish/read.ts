import { LONGEST_ENTRY, quoted, TOO_LONG } from '../../quantity/words.ts';
import { allKinds, findKind, type Kind } from '../kinds/kind.ts';
import type { Sequence } from '../sequence.ts';
import type { Signal } from '../signal.ts';
import { signalFault } from '../target-schema.ts';
import { ledgerOf, type Fact, type Facts } from './facts.ts';
import { phrasesOf } from './grammar.ts';
import { lexiconOf, LONGEST_WORDS, type NamedPin } from './meaning.ts';
import { namedIn, type NamedWish } from './name.ts';
import { sorted, type WishPiece } from './sorted.ts';
import { phaseIn, withMessage, withNotes } from './specials.ts';
import { stretchesOf, type Stretch } from './stretches.ts';
import { tokensOf } from './tokens.ts';

/** A signal as a wish asks for it, without its id. A dead time stands by itself where no second pin was named. */
export type WishedSignal = Omit<Signal, 'id'> & { deadS?: number };

/** One way to understand a wish. */
export type WishReading = {
  signal: WishedSignal;
  /** The text of the wish, in stretches that say what they were understood as, or that they were not. */
  text: Stretch[];
  /** Words and numbers that found no place. */
  left: string[];
  /** Usual values that were taken where the wish gives none. */
  assumed: string[];
};

/** How a wish is understood: in one way, in several to choose from, or not yet, with the question that is open. */
export type WishResult = { readings: WishReading[]; question?: string };

/** What a wish may refer to: the pins of the part, and signals that a phase may be counted from. */
export type WishContext = {
  pins: readonly NamedPin[];
  others?: readonly { id: string; name: string }[];
};

const WHAT =
  'What should a pin do? Say for example “buzzer beeps 2 kHz”, “lamp dims 1000 steps” or “servo 0.9..2.1 ms”.';

/** The kinds that a wish may mean: those that words tell, else those that its things are, else those its quantities suit. */
function kindsMeant(pieces: readonly WishPiece[], facts: Facts): Kind[] {
  const ranked = allKinds().sort((one, other) => one.wish.rank - other.wish.rank);
  const senses = pieces.flatMap(({ meaning, fact }) => (fact ? [] : (meaning?.senses ?? [])));
  const told = ranked.find(({ id }) => senses.some(({ kind, sure }) => sure && kind === id));
  if (told) return [told];
  const suggested = (noun: boolean): Kind | undefined => {
    const first = senses.find((sense) => sense.noun === noun);
    return first && findKind(first.kind);
  };
  const thing = suggested(true) ?? suggested(false);
  if (!thing) return ranked.filter(({ wish }) => wish.suits?.(facts) === true);
  const meant = thing.wish.meant?.(facts);
  return meant ? meant.flatMap((id) => findKind(id) ?? []) : [thing];
}

/** Pins of a wish: the signal's own, and the one of its opposite where there is a dead time. */
function pinsIn(pieces: readonly WishPiece[], kind: Kind, facts: Facts) {
  const named = kind.on === 'processor' ? [] : pieces.filter(({ meaning, fact }) => !fact && meaning?.pin);
  const [own, other] = named;
  const dead = kind.on === 'output' ? facts.take('dead') : undefined;
  const deadS = dead?.value.valueOf();
  const [pin, otherPin] = [own?.meaning?.pin, other?.meaning?.pin];
  return {
    ...(pin === undefined ? {} : { pin }),
    ...(deadS === undefined
      ? {}
      : otherPin === undefined
        ? { deadS }
        : { complement: { pin: otherPin, deadS } }),
    pieces: deadS === undefined ? named.slice(0, 1) : named.slice(0, 2),
  };
}

/** A field that may be absent. */
function field<K extends string, V>(key: K, value: V | undefined): { [P in K]?: V } {
  return (value === undefined ? {} : { [key]: value }) as { [P in K]?: V };
}

type Read = { reading: WishReading } | { asks: string };

function readAs(
  kind: Kind,
  text: string,
  pieces: readonly WishPiece[],
  list: readonly Fact[],
  named: NamedWish | undefined,
  others: WishContext['others'],
): Read {
  const { facts, taken, assumed } = ledgerOf(list);
  const wished = kind.wish.read?.(facts);
  if (!wished) return { asks: WHAT };
  if ('asks' in wished) return wished;
  const phased = kind.on === 'output' ? phaseIn(pieces, others ?? []) : undefined;
  const { pieces: pinned, ...pins } = pinsIn(pieces, kind, facts);
  const firstEdgeS = kind.on === 'output' ? facts.number('first edge') : undefined;
  const signal = {
    name: named?.name ?? kind.name,
    kind: kind.id,
    target: wished.target,
    ...pins,
    ...field<'sequence', Sequence>('sequence', wished.sequence),
    ...field('phase', phased?.phase),
    ...field('firstEdgeS', firstEdgeS),
  } as WishedSignal;
  const fault = signalFault({ ...signal, id: 'wish' } as Signal);
  if (fault) return { asks: fault.plain ?? fault.sentence };
  const placed = new Set<WishPiece>([...(named?.pieces ?? []), ...pinned, ...(phased?.pieces ?? [])]);
  const marked = stretchesOf(text, pieces, { kind, taken, placed, named: named?.pieces ?? new Set() });
  const left = marked.filter((stretch) => stretch.left).map((stretch) => stretch.text);
  return { reading: { signal, text: marked, left, assumed: [...assumed] } };
}

/**
 * Reads what a signal should do: "status LED on PB5 blinks twice a second", "fan 25 kHz 40 %", "servo 0.9..2.1 ms". Every
 * word and number is in the reading: as something, or as left over. What is not said gets a usual value, which the
 * reading names. Never throws.
 */
export function readWish(wish: string, context: WishContext): WishResult {
  if (wish.length > LONGEST_ENTRY) return { readings: [], question: TOO_LONG };
  const lexicon = lexiconOf(context.pins);
  const phrases = phrasesOf(tokensOf(wish, lexicon.isEntry, LONGEST_WORDS));
  const pieces = withMessage(withNotes(wish, sorted(wish, phrases, lexicon)));
  const wrong = pieces.find(({ fault }) => fault !== undefined);
  if (wrong?.fault !== undefined) return { readings: [], question: wrong.fault };
  const list = pieces.flatMap(({ fact }) => fact ?? []);
  const kinds = kindsMeant(pieces, ledgerOf(list).facts);
  const bare = list.find(({ role }) => role === 'number');
  if (kinds.length === 0) {
    const number = bare && wish.slice(bare.from, bare.to);
    const only =
      number !== undefined && list.length === 1 && pieces.every(({ meaning }) => !meaning || meaning.filler);
    return { readings: [], question: only ? `${quoted(number)} of which unit? ${WHAT}` : WHAT };
  }
  const named = namedIn(pieces);
  const reads = kinds.map((kind) => readAs(kind, wish, pieces, list, named, context.others));
  const readings = reads.flatMap((read) => ('reading' in read ? [read.reading] : []));
  if (readings.length > 0) return { readings };
  const asked = reads.find((read) => 'asks' in read);
  return { readings: [], question: asked && 'asks' in asked ? asked.asks : WHAT };
}
