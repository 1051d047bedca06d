import { readNote } from '../../quantity/note.ts';
import { parseQuantity, type Dimension } from '../../quantity/parse.ts';

const NUMBER = String.raw`\d+(?:[.,]\d+)?`;

/** Units of a rate and of a time, as a pattern. */
export const HZ = '[kM]?Hz|rpm';
export const TIME = 'ms|µs|us|s|min';

/** What quantities a wish in plain words holds. Undefined means that none was said. */
export type WishFacts = {
  /** The first rate in Hz; a rate or a period, whichever was said. */
  hz: number | undefined;
  rate: number | undefined;
  note: string | undefined;
  /** A share said in percent; a tolerance follows “within” and is left alone. */
  duty: number | undefined;
  /** The first quantity with one of some units, in the base unit. */
  first: (units: string, dimension: Dimension) => number | undefined;
  /** Two ends of a span: "0.9..2.1 ms", "0.5 to 70 Hz". */
  span: (units: string, dimension: Dimension) => [number, number] | undefined;
};

function amount(text: string | undefined, dimension: Dimension): number | undefined {
  if (text === undefined) return undefined;
  const read = parseQuantity(text, dimension);
  return read.ok ? read.value.value.valueOf() : undefined;
}

function firstOf(text: string, units: string, dimension: Dimension): number | undefined {
  const match = new RegExp(String.raw`(${NUMBER}\s*(?:${units}))(?![\w%])`, 'i').exec(text);
  return amount(match?.[1], dimension);
}

function spanOf(text: string, units: string, dimension: Dimension): [number, number] | undefined {
  const ends = new RegExp(
    String.raw`(${NUMBER})\s*(${units})?\s*(?:\.\.+|…|–|-|to|and)\s*(${NUMBER})\s*(${units})(?![\w%])`,
    'i',
  ).exec(text);
  if (!ends) return undefined;
  const low = amount(`${ends[1]} ${ends[2] ?? ends[4]}`, dimension);
  const high = amount(`${ends[3]} ${ends[4]}`, dimension);
  if (low === undefined || high === undefined || low === high) return undefined;
  return low < high ? [low, high] : [high, low];
}

function noteOf(text: string): string | undefined {
  const match = /\b([A-G][#b]?\d)\b/.exec(text)?.[1];
  return match !== undefined && readNote(match) ? match : undefined;
}

/** The quantities of a wish. */
export function wishFacts(text: string): WishFacts {
  const hz = firstOf(text, HZ, 'frequency');
  return {
    hz,
    rate: hz ?? firstOf(text, TIME, 'frequency'),
    note: noteOf(text),
    duty: firstOf(text.replace(/within\s+\S+\s*%/i, ''), '%', 'duty'),
    first: (units, dimension) => firstOf(text, units, dimension),
    span: (units, dimension) => spanOf(text, units, dimension),
  };
}
