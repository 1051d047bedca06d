import { moments, unitFor, type Lane } from '../wave/merge.ts';
import { plainLine, uniqueNames } from '../quantity/words.ts';

const PIECE = 65_536;

/** A time in whole units as seconds, with all its decimals. */
function secondsText(time: number, decimals: number): string {
  if (decimals === 0) return String(time);
  const digits = String(time).padStart(decimals + 1, '0');
  return `${digits.slice(0, -decimals)}.${digits.slice(-decimals)}`;
}

/** A name as a cell: quoted where it must be, and never a formula to a spreadsheet. */
function cellOf(name: string): string {
  const plain = /^'*[=+\-@]/.test(name) ? `'${name}` : name;
  return /[",;'\t|]/.test(plain) ? `"${plain.replace(/"/g, '""')}"` : plain;
}

/** What columns are called: names on one line, different from each other. */
export function csvNames(names: readonly string[]): string[] {
  return uniqueNames(
    names.map((name) => plainLine(name) || 'unnamed'),
    ' ',
  );
}

/** Lanes as a table: a row for each change, the time in s and the level of each signal from then on, in pieces of text. */
export function* writeCsv(lanes: readonly Lane[], seconds: number): Generator<string> {
  const unitHz = unitFor(lanes, seconds);
  const decimals = Math.round(Math.log10(unitHz));
  const levels = lanes.map(() => 0);
  const row = (time: number): string => `${secondsText(time, decimals)},${levels.join(',')}\n`;
  let text = `time (s),${csvNames(lanes.map(({ name }) => name))
    .map(cellOf)
    .join(',')}\n`;
  let last = -1;
  for (const { time, changes } of moments(lanes, unitHz, seconds)) {
    if (last < 0 && time > 0) text += row(0);
    for (const { signal, level } of changes) levels[signal] = level;
    text += row(time);
    last = time;
    if (text.length < PIECE) continue;
    yield text;
    text = '';
  }
  const end = Math.round(seconds * unitHz);
  if (last < 0) text += row(0);
  if (end > last) text += row(end);
  yield text;
}
