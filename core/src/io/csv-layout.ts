import { dsvFormat } from 'd3-dsv';
import { CaptureError } from '../wave/capture.ts';
import { utf8Text } from './utf8.ts';
import { readingOf } from './outliers.ts';

/** How a table of samples is written: what parts its cells, and whether a comma is the decimal sign. */
export type CsvLayout = {
  delimiter: string;
  decimalComma: boolean;
  /** Lines before the first row of numbers. */
  skip: number;
  names: string[];
  /** What a number of the first column is in seconds. */
  unitS: number;
  /** Ticks in a second that hold every time of the first rows exactly. */
  tickHz: number;
  /** Whether each column after the first holds levels, rather than volts. */
  digital: boolean[];
};

const DELIMITERS = [';', '\t', ',', '|', ' '] as const;

/** Rows that are looked at. */
const SAMPLE = 400;

const UNITS = new Map(
  Object.entries({ s: 1, sec: 1, ms: 1e-3, us: 1e-6, µs: 1e-6, μs: 1e-6, ns: 1e-9, ps: 1e-12 }),
);

/** Levels as words. */
const WORDS = new Map(
  Object.entries({ 0: 0, 1: 1, l: 0, h: 1, low: 0, high: 1, false: 0, true: 1, x: 2, u: 2, z: 3, '': 2 }),
);

/** A cell as a level; undefined if it is not one. */
export function cellLevel(cell: string): number | undefined {
  return WORDS.get(cell.trim().toLowerCase());
}

/** A cell as a number; NaN where it stands for no reading; undefined if it is not a number. */
export function cellNumber(cell: string, decimalComma: boolean): number | undefined {
  return readingOf(decimalComma ? cell.replace(',', '.') : cell);
}

/** The rows of some lines. */
export function csvRows(text: string, delimiter: string): string[][] {
  const rows = dsvFormat(delimiter).parseRows(text);
  return delimiter === ' ' ? rows.map((row) => row.filter((cell) => cell !== '')) : rows;
}

/** A heading as a name; a quotation mark that keeps a spreadsheet from calculating it is not part of it. */
function nameOf(cell: string): string {
  const name = utf8Text(cell).trim();
  return /^'+[=+\-@]/.test(name) ? name.slice(1) : name;
}

function isTime(cell: string | undefined): boolean {
  return cell !== undefined && /^[+-]?(\d+([.,]\d*)?|[.,]\d+)(e[+-]?\d+)?$/i.test(cell.trim());
}

function widthOf(
  lines: readonly string[],
  delimiter: string,
): { rows: string[][]; cells: number; first: number } {
  const rows = csvRows(lines.join('\n'), delimiter);
  const first = rows.findIndex((row) => row.length > 1 && isTime(row[0]));
  return { rows, cells: first < 0 ? 0 : (rows[first]?.length ?? 0), first };
}

function unitOf(name: string): number {
  const words = name
    .toLowerCase()
    .split(/[\s()[\]_/]+/)
    .filter(Boolean);
  return words.length > 1 ? (UNITS.get(words[words.length - 1] ?? '') ?? 1) : 1;
}

/** Decimal places of a number as written, its exponent taken into account. */
function placesOf(cell: string): number {
  const [mantissa = '', exponent = '0'] = cell.trim().toLowerCase().split('e');
  const decimals = mantissa.split(/[.,]/)[1]?.length ?? 0;
  return decimals - Number(exponent);
}

/** Times finer than a femtosecond or coarser than a nanosecond get ticks of these. */
const PLACES = { min: 9, max: 15 };

function tickOf(cells: readonly string[], unitS: number): number {
  const places = Math.max(...cells.map(placesOf)) - Math.round(Math.log10(unitS));
  return 10 ** Math.min(PLACES.max, Math.max(PLACES.min, places));
}

/** Finds out how a table of samples is written from its first lines. @throws CaptureError */
export function csvLayout(lines: readonly string[]): CsvLayout {
  const sample = lines.slice(0, SAMPLE);
  const found = DELIMITERS.map((delimiter) => ({ delimiter, ...widthOf(sample, delimiter) })).find(
    ({ cells, rows, first }) =>
      cells > 1 && rows.slice(first, first + 20).every((row) => row.length === cells || row.length <= 1),
  );
  if (!found) {
    throw new CaptureError(
      'Line 1: no table is seen here: a time and one or more values in each line, separated by , ; | or a tab.',
    );
  }
  const { delimiter, rows, cells, first } = found;
  const decimalComma =
    delimiter !== ',' && rows.slice(first).some((row) => row.some((cell) => /^\s*-?\d+,\d+/.test(cell)));
  const head = rows
    .slice(0, first)
    .reverse()
    .find((row) => row.length === cells);
  const names = Array.from({ length: cells }, (_, at) => nameOf(head?.[at] ?? '') || `column ${at + 1}`);
  const data = rows.slice(first).filter((row) => row.length === cells);
  const unitS = head ? unitOf(names[0] ?? '') : 1;
  return {
    delimiter,
    decimalComma,
    skip: first,
    names,
    unitS,
    tickHz: tickOf(
      data.map((row) => row[0] ?? '0'),
      unitS,
    ),
    digital: names.slice(1).map((_, at) => data.every((row) => cellLevel(row[at + 1] ?? '') !== undefined)),
  };
}
