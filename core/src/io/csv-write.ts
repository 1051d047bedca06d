import { moments, unitFor, type NamedWaveform } from '../wave/merge.ts';

const PIECE = 65_536;

/** A time in whole units as seconds, with all its decimals. */
function secondsText(time: number, decimals: number): string {
  if (decimals === 0) return String(time);
  const digits = String(time).padStart(decimals + 1, '0');
  return `${digits.slice(0, -decimals)}.${digits.slice(-decimals)}`;
}

function cellOf(name: string): string {
  return /[",\n\r]/.test(name) ? `"${name.replace(/"/g, '""')}"` : name;
}

/** Lanes as a table: a row for each change, the time in s and the level of each signal from then on, in pieces of text. */
export function* writeCsv(waveforms: readonly NamedWaveform[], seconds: number): Generator<string> {
  const unitHz = unitFor(waveforms, seconds);
  const decimals = Math.round(Math.log10(unitHz));
  const levels = waveforms.map(() => 0);
  const row = (time: number): string => `${secondsText(time, decimals)},${levels.join(',')}\n`;
  let text = `time (s),${waveforms.map(({ name }) => cellOf(name)).join(',')}\n`;
  let last = -1;
  for (const { time, changes } of moments(waveforms, unitHz, seconds)) {
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
