import { LONGEST_NAME } from '../signal.ts';
import type { WishPiece } from './sorted.ts';

/** The words of a wish that name the thing, and the name they make. */
export type NamedWish = { name: string; pieces: ReadonlySet<WishPiece> };

function isUnknown({ meaning, fact, spent }: WishPiece): boolean {
  if (!meaning || fact || spent) return false;
  return !meaning.label && !meaning.filler && meaning.senses.length === 0 && !meaning.pin && !meaning.note;
}

function isNoun({ meaning, fact, spent }: WishPiece): boolean {
  return (
    meaning !== undefined &&
    !fact &&
    !spent &&
    meaning.senses.length > 0 &&
    meaning.senses.every(({ noun }) => noun)
  );
}

/** Words in a row that may be a name: unknown ones and things, but not what looks like the number of a pin. */
function runsOf(pieces: readonly WishPiece[]): WishPiece[][] {
  const runs: WishPiece[][] = [];
  let run: WishPiece[] = [];
  for (const piece of [...pieces, undefined]) {
    if (piece && (isNoun(piece) || (isUnknown(piece) && !/\d/.test(piece.text)))) {
      run.push(piece);
      continue;
    }
    if (run.length > 0) runs.push(run);
    run = [];
  }
  return runs;
}

function nameOf(run: readonly WishPiece[]): string {
  const words = run
    .map(({ text }) => text)
    .join(' ')
    .slice(0, LONGEST_NAME)
    .trim();
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** Where the first word stands that says what the pin does, or the first quantity. */
function firstDeed(pieces: readonly WishPiece[]): number {
  const at = pieces.findIndex(
    ({ fact, meaning }) => fact !== undefined || meaning?.senses.some(({ noun }) => !noun) === true,
  );
  return at < 0 ? pieces.length : at;
}

/**
 * The name that a wish gives its signal: what follows “named”, else the first words with a thing in them ("status LED"),
 * else unknown words in front of the verb ("turn signal flashes") or right behind it ("sample the microphone").
 */
export function namedIn(pieces: readonly WishPiece[]): NamedWish | undefined {
  const runs = runsOf(pieces);
  const told = pieces.findIndex(({ meaning }) => meaning?.label === 'named');
  const deed = firstDeed(pieces);
  const verb = pieces.findIndex(({ meaning }) => meaning?.senses.some(({ noun }) => !noun) === true);
  const startOf = (run: readonly WishPiece[]): number => (run[0] ? pieces.indexOf(run[0]) : -1);
  const behind = (run: readonly WishPiece[]): boolean =>
    verb >= 0 &&
    startOf(run) > verb &&
    pieces.slice(verb + 1, startOf(run)).every(({ meaning }) => meaning?.filler === true);
  const after = told >= 0 ? runs.find((run) => startOf(run) === told + 1) : undefined;
  const run =
    after ??
    runs.find((one) => one.some(isNoun)) ??
    runs.find((one) => startOf(one) < deed) ??
    runs.find(behind);
  if (!run) return undefined;
  const words = after && told >= 0 ? [...run, ...pieces.slice(told, told + 1)] : run;
  return { name: nameOf(run), pieces: new Set(words) };
}
