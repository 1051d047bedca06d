import type { Limits, WantedRhythm } from '../check/check-rhythm.ts';
import type { Requirement } from '../signal/requirement.ts';
import type { ResolvedStep } from '../signal/sequence.ts';

/** A time at one level, with its limits in s. */
type Piece = { level: 0 | 1; of: Limits };

/** Pieces that are laid out at most; a rhythm of more is judged by its number. */
const MOST_PIECES = 2000;

/** Whether a step keeps one frequency and one duty. */
function isEven({ fromHz, toHz, fromDuty, toDuty }: ResolvedStep): boolean {
  return fromHz.equals(toHz) && fromDuty.equals(toDuty);
}

/** The times of a sequence at each level, one after the other; undefined where they are too many. */
function piecesOf({ frequency, duty }: Requirement, steps: readonly ResolvedStep[]): Piece[] | undefined {
  if (frequency.kind !== 'near') return undefined;
  // The tolerance of the frequency holds for times, that of the duty for shares.
  const [lowHz, idealHz, highHz] = [frequency.low, frequency.ideal, frequency.high].map((hz) => hz.valueOf());
  const [shorter, longer] = [(idealHz ?? 1) / (highHz ?? 1), (idealHz ?? 1) / (lowHz ?? 1)];
  const [less, more] = [duty.ideal.sub(duty.low).valueOf(), duty.high.sub(duty.ideal).valueOf()];
  const pieces: Piece[] = [];
  const still = (level: 0 | 1, seconds: number): void => {
    pieces.push({ level, of: { low: seconds * shorter, high: seconds * longer } });
  };
  for (const { rest, periods, seconds: said, fromHz, fromDuty } of steps) {
    const hz = fromHz.valueOf();
    const seconds = said?.valueOf() ?? (periods ?? 1) / hz;
    const share = fromDuty.valueOf();
    if (rest || share === 0 || share === 1) {
      still(rest || share === 0 ? 0 : 1, seconds);
      continue;
    }
    const count = periods ?? Math.max(1, Math.round(seconds * hz));
    if (pieces.length + 2 * count > MOST_PIECES) return undefined;
    const high = { low: (Math.max(0, share - less) / hz) * shorter, high: ((share + more) / hz) * longer };
    const low = {
      low: (Math.max(0, 1 - share - more) / hz) * shorter,
      high: ((1 - share + less) / hz) * longer,
    };
    for (let at = 0; at < count; at += 1) pieces.push({ level: 1, of: high }, { level: 0, of: low });
  }
  return pieces;
}

/** Pieces of which no two neighbours have one level. */
function joined(pieces: readonly Piece[]): Piece[] {
  const all: Piece[] = [];
  for (const { level, of } of pieces) {
    const last = all[all.length - 1];
    if (last?.level !== level) all.push({ level, of });
    else all[all.length - 1] = { level, of: { low: last.of.low + of.low, high: last.of.high + of.high } };
  }
  return all;
}

/** Pieces in the order in which a pass that is repeated shows them, the first rise first. */
function fromFirstRise(pieces: readonly Piece[], once: boolean): Piece[] {
  const plain = joined(pieces);
  // The pin is low before a sequence, and after one that is not repeated.
  if (once) return plain[0]?.level === 0 ? plain.slice(1) : plain;
  const first = plain.findIndex(({ level }, at) => level === 1 && (at > 0 || plain.at(-1)?.level === 0));
  return first < 0 ? [] : joined([...plain.slice(first), ...plain.slice(0, first)]);
}

/**
 * What a sequence should be, pulse by pulse, from its first rise on: every time with limits by the tolerances of frequency and duty. Steps at 100 % or 0 % are
 * one pulse or gap with their neighbours. Undefined where frequencies or duties move, where there is no pulse, or where they are too many.
 */
export function wantedRhythm(
  requirement: Requirement,
  steps: readonly ResolvedStep[],
  once: boolean,
): WantedRhythm | undefined {
  if (steps.some((step) => !step.rest && !isEven(step))) return undefined;
  const all = piecesOf(requirement, steps);
  const pieces = all && fromFirstRise(all, once);
  if (!pieces || pieces.length < 2) return undefined;
  const beats: WantedRhythm['beats'][number][] = [];
  for (let at = 0; at < pieces.length; at += 2) {
    const [high, low] = [pieces[at], pieces[at + 1]];
    if (high) beats.push({ high: high.of, low: low?.of ?? { low: 0, high: Infinity } });
  }
  const sum = (end: keyof Limits): number => pieces.reduce((total, { of }) => total + of[end], 0);
  return { beats, cycle: { low: sum('low'), high: sum('high') } };
}
