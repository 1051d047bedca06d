import { parseQuantity } from '../quantity/parse.ts';
import { LONGEST_ENTRY, quoted, singleSpaced, TOO_LONG } from '../quantity/words.ts';
import { failed, succeeded, type Result } from '../result/result.ts';
import { MOST_READINGS, type ReadingQuantity, type Reading } from './readings.ts';

const DIMENSION = { duty: 'duty', width: 'time', frequency: 'frequency' } as const;

/** Reads a set value: "1.2 ms", "14 %", "900 Hz". */
export function parseSet(text: string, of: ReadingQuantity): Result<number> {
  const read = parseQuantity(text, DIMENSION[of]);
  return read.ok ? succeeded(read.value.value.valueOf()) : read;
}

/** Reads a seen value: a number, its unit after it or not; "4,87" is 4.87, "12 mV" among volts is 0.012. */
export function parseSeen(text: string, unit: string): Result<number> {
  if (text.length > LONGEST_ENTRY) return failed(TOO_LONG);
  const plain = singleSpaced(text.replace(/[\u202f\u2009\u00a0]/g, ' ').replace('−', '-')).trim();
  if (unit === 'V' && /[mk]?V$/.test(plain)) {
    const volts = parseQuantity(plain, 'volts');
    return volts.ok ? succeeded(volts.value.value.valueOf()) : volts;
  }
  const bare = plain.endsWith(unit) ? plain.slice(0, -unit.length).trim() : plain;
  if (!/^[+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:e[+-]?\d{1,2})?$/i.test(bare)) {
    return failed(`${quoted(text)} is not a number; enter what was seen in ${unit}.`);
  }
  return succeeded(Number(bare.replace(',', '.')));
}

/**
 * Reads lines as a spreadsheet copies them: set value, seen value, note, separated by tabs, semicolons or several spaces. A
 * first line of words is a heading. Fails with the line that is wrong; nothing of the others is lost by that.
 */
export function parseReadings(text: string, of: ReadingQuantity, unit: string): Result<Reading[]> {
  const lines = text.split(/\r\n?|\n/).filter((line) => line.trim() !== '');
  if (lines.length > MOST_READINGS + 1)
    return failed(`A table of readings has up to ${MOST_READINGS} lines; this has ${lines.length}.`);
  const points: Reading[] = [];
  for (const [at, line] of lines.entries()) {
    const cells = line.split(/\t|;| {2,}/).map((cell) => cell.trim());
    const [first = '', second = '', ...rest] = cells;
    const set = parseSet(first, of);
    if (!set.ok && at === 0 && !/\d/.test(first)) continue;
    if (!set.ok) return failed(`Line ${at + 1}: ${set.fault.sentence}`);
    const seen = parseSeen(second, unit);
    if (!seen.ok) return failed(`Line ${at + 1}: ${seen.fault.sentence}`);
    if (points.some((one) => one.set === set.value))
      return failed(`Line ${at + 1}: ${quoted(first)} is there twice.`);
    const note = rest.join(' ').trim().slice(0, 80);
    points.push({ set: set.value, seen: seen.value, ...(note === '' ? {} : { note }) });
  }
  return points.length === 0
    ? failed('No line holds a reading; a line is a set value and what was seen.')
    : succeeded(points);
}
