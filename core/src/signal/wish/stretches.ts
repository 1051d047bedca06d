import { kindOf, type Kind } from '../kinds/kind.ts';
import type { Fact, Role } from './facts.ts';
import type { WishPiece } from './sorted.ts';

/** A stretch of a wish's text: understood as something (`readAs` where it was mistyped), a small word, or left over. */
export type Stretch = { text: string; as?: string; left?: boolean; readAs?: string };

/** What a reading made use of. */
export type Used = {
  kind: Kind;
  taken: ReadonlySet<Fact>;
  placed: ReadonlySet<WishPiece>;
  named: ReadonlySet<WishPiece>;
};

const AS: Record<Role, string> = {
  hz: 'frequency',
  rpm: 'speed',
  minHz: 'lowest frequency',
  maxHz: 'highest frequency',
  'hz span': 'span of frequencies',
  rate: 'how often',
  every: 'how often',
  count: 'how many times',
  time: 'time',
  'time span': 'span of widths',
  on: 'time on',
  off: 'time off',
  period: 'period',
  dot: 'length of a dot',
  during: 'length of a ramp',
  dead: 'dead time',
  jitter: 'jitter',
  'first edge': 'first edge',
  step: 'coarsest step',
  share: 'duty',
  'share span': 'span of duties',
  within: 'tolerance',
  'within s': 'tolerance',
  'within V': 'tolerance',
  steps: 'steps',
  volts: 'voltage',
  supply: 'supply',
  ripple: 'ripple',
  ohms: 'resistor',
  farads: 'capacitor',
  angle: 'angle',
  phase: 'phase',
  leds: 'number of LEDs',
  images: 'images a turn',
  'pulses a turn': 'pulses a turn',
  'frames a second': 'frames a second',
  number: 'number',
  note: 'note',
  changes: 'each change of the pin',
  morse: 'Morse code',
  'without flicker': 'without flicker',
};

function markOf(piece: WishPiece, { kind, taken, placed, named }: Used): Stretch {
  const { text, fact, meaning, spent, sent } = piece;
  if (named.has(piece)) return { text, as: 'name' };
  if (placed.has(piece)) return { text, as: fact ? AS[fact.role] : meaning?.pin ? 'pin' : 'phase' };
  if (fact) return taken.has(fact) ? { text, as: AS[fact.role] } : { text, left: true };
  if (sent) return taken.has(sent) ? { text, as: 'text in Morse code' } : { text, left: true };
  if (!meaning) return { text, left: true };
  const own = meaning.senses.some((sense) => sense.kind === kind.id);
  if (own) {
    const as = kindOf({ kind: kind.id }).verb;
    return meaning.corrected === undefined ? { text, as } : { text, as, readAs: meaning.corrected };
  }
  return spent || meaning.filler ? { text } : { text, left: true };
}

/** The text of a wish in stretches, with what lies between them. */
export function stretchesOf(text: string, pieces: readonly WishPiece[], used: Used): Stretch[] {
  const done: Stretch[] = [];
  let at = 0;
  for (const piece of pieces) {
    if (piece.from > at) done.push({ text: text.slice(at, piece.from) });
    done.push(markOf(piece, used));
    at = piece.to;
  }
  if (at < text.length) done.push({ text: text.slice(at) });
  return done;
}
