import { singleSpaced } from './words.ts';

const STEP = new Map(Object.entries({ C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }));
const NAMES = ['C', 'C#', 'D', 'D#', 'E', 'F', 'F#', 'G', 'G#', 'A', 'A#', 'B'];
const NOTE = /^([A-G])([#b♯♭]?)(-?\d)(?: ?([+\-−]? ?\d{1,9}(?:[.,]\d{1,9})?) ?(?:c|ct|cents?))?$/i;

/** The frequency of A4 in the tuning used throughout, in Hz. */
const A4_HZ = 440;

/**
 * Hz of a note in equal temperament, A4 = 440 Hz: f = 440 x 2^((n - 69) / 12 + cents / 1200), where n counts
 * semitones and 69 is A4. Cents may be any finite number.
 */
export function noteHz(semitone: number, cents = 0): number {
  return A4_HZ * 2 ** ((semitone - 69) / 12 + cents / 1200);
}

/** Notes outside of these, by cents without end, are none. */
const [LOWEST_HZ, HIGHEST_HZ] = [1e-6, 1e9];

/** Reads "A4", "C#5", "Bb3", "A4 +12 c". Gives undefined for anything else. */
export function readNote(text: string): { semitone: number; cents: number; hz: number } | undefined {
  const match = NOTE.exec(singleSpaced(text));
  const letter = match?.[1];
  if (!match || !letter) return undefined;
  const accidental = match[2] === '#' || match[2] === '♯' ? 1 : match[2] === 'b' || match[2] === '♭' ? -1 : 0;
  const semitone = (STEP.get(letter.toUpperCase()) ?? 0) + accidental + 12 * (Number(match[3]) + 1);
  const cents = Number((match[4] ?? '0').replace(/ /g, '').replace('−', '-').replace(',', '.'));
  const hz = noteHz(semitone, cents);
  return hz > LOWEST_HZ && hz < HIGHEST_HZ ? { semitone, cents, hz } : undefined;
}

/** The nearest note of a frequency above zero and the distance to it in cents (-50 to 50): 441 Hz is A4 +3.93 c. */
export function nearestNote(hz: number): { name: string; cents: number } {
  const exactSemitone = 69 + 12 * Math.log2(hz / A4_HZ);
  const semitone = Math.round(exactSemitone);
  const name = `${NAMES[((semitone % 12) + 12) % 12] ?? ''}${Math.floor(semitone / 12) - 1}`;
  return { name, cents: (exactSemitone - semitone) * 100 };
}

/** The frequency ratio of an interval in cents: 2^(cents / 1200). */
export function centsFactor(cents: number): number {
  return 2 ** (cents / 1200);
}
