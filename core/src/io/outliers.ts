/** Instruments write such numbers, and words, where they had no reading. */
const LARGEST = 1e30;

const NUMBER = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d{1,6})?$/i;
const NO_READING = /^[+-]?(?:nan|inf|infinity|over|overflow|ol)$/i;

/** A number as written; NaN where it stands for no reading (9.91E+37, NaN, Inf); undefined where it is not a number at all. */
export function readingOf(text: string): number | undefined {
  const plain = text.trim();
  if (NO_READING.test(plain)) return NaN;
  if (!NUMBER.test(plain)) return undefined;
  const value = Number(plain);
  return Math.abs(value) < LARGEST ? value : NaN;
}

/** Values that were left out of a capture: the first of them is named, the others are counted. */
export function leftOutValues(): {
  add: (place: string, text: string, wire: string) => void;
  notes: () => { notes?: string[] };
} {
  let first: string | undefined;
  let count = 0;
  return {
    add(place, text, wire) {
      first ??= `${place}: “${text.trim().slice(0, 20)}” of ${wire} is not a reading`;
      count += 1;
    },
    notes() {
      if (first === undefined) return {};
      const more = count === 1 ? 'it was left out' : `it and ${count - 1} more like it were left out`;
      return { notes: [`${first}; ${more}.`] };
    },
  };
}
