import { CaptureError, column, type Capture, type Column, type Wire } from '../wave/capture.ts';
import { proposeThreshold, thresholded, type Threshold } from '../wave/threshold.ts';
import { cellLevel, cellNumber, csvLayout, csvRows, type CsvLayout } from './csv-layout.ts';
import { latin1 } from './latin1.ts';
import { leftOutValues } from './outliers.ts';
import type { Reader } from './vcd-read.ts';

/** Characters that are looked at before the layout is decided. */
const HEAD = 65_536;

/** A line longer than this is not a row of a table. */
const LONGEST_LINE = 8_000_000;

/** Samples of all columns together that are kept at most. */
const MAX_SAMPLES = 30_000_000;

/** Columns beyond this are not wires of one capture. */
const MAX_COLUMNS = 20_000;

/** The volts of one column, growing. */
function numbers(): { push: (value: number) => void; all: () => Float32Array } {
  let values = new Float32Array(1024);
  let count = 0;
  return {
    push(value) {
      if (count === values.length) {
        const more = new Float32Array(2 * count);
        more.set(values);
        values = more;
      }
      values[count] = value;
      count += 1;
    },
    all: () => values.slice(0, count),
  };
}

/**
 * Reads a table of samples in pieces: a time in the first column, levels or volts in the others; what parts the cells,
 * the heading, the decimal sign and the unit of the time are found out. Volts become levels by thresholds, those given
 * by the name of their column or proposed ones. @throws CaptureError with the line.
 */
export function csvReader(thresholds: Readonly<Record<string, Threshold>> = {}): Reader {
  let text = '';
  let layout: CsvLayout | undefined;
  let line = 0;
  let samples = 0;
  let last = -Infinity;
  let first: number | undefined;
  const levels: Column[] = [];
  const volts: ReturnType<typeof numbers>[] = [];
  const times: number[] = [];
  const leftOut = leftOutValues();

  const row = (cells: readonly string[], form: CsvLayout): void => {
    line += 1;
    if (cells.length === 0 || (cells.length === 1 && (cells[0] ?? '').trim() === '')) return;
    if (cells.length < form.names.length) {
      throw new CaptureError(`Line ${line}: ${cells.length} cells instead of ${form.names.length}.`);
    }
    const seconds = (cellNumber(cells[0] ?? '', form.decimalComma) ?? NaN) * form.unitS;
    const time = Math.round(seconds * form.tickHz);
    if (!Number.isFinite(seconds)) {
      throw new CaptureError(`Line ${line}: “${(cells[0] ?? '').slice(0, 40)}” is not a time.`);
    }
    if (Math.abs(time) > 2 ** 53)
      throw new CaptureError(`Line ${line}: the time ${seconds} s is too long to be kept exactly.`);
    if (time < last) throw new CaptureError(`Line ${line}: time goes back.`);
    last = time;
    first ??= time;
    samples += form.digital.length;
    if (samples > MAX_SAMPLES)
      throw new CaptureError(
        `Line ${line}: more than ${MAX_SAMPLES} samples are too many to keep; cut the capture.`,
      );
    if (form.digital.includes(false)) times.push(time);
    form.digital.forEach((digital, at) => {
      const cell = cells[at + 1] ?? '';
      if (digital) {
        const level = cellLevel(cell);
        if (level === undefined)
          throw new CaptureError(`Line ${line}: “${cell.slice(0, 40)}” is not a level.`);
        levels[at]?.push(time, level);
        return;
      }
      const value = cellNumber(cell, form.decimalComma);
      if (value === undefined)
        throw new CaptureError(`Line ${line}: “${cell.slice(0, 40)}” is not a number.`);
      if (Number.isNaN(value)) leftOut.add(`Line ${line}`, cell, form.names[at + 1] ?? '');
      volts[at]?.push(value);
    });
  };

  const begin = (): CsvLayout => {
    const plain = text.replace(/^(\uFEFF|ï»¿)/, '');
    text = plain;
    const form = csvLayout(
      plain
        .slice(0, HEAD)
        .split(/\r?\n/)
        .slice(0, plain.length > HEAD ? -1 : undefined),
    );
    if (form.names.length > MAX_COLUMNS)
      throw new CaptureError(`Line ${form.skip + 1}: ${form.names.length} columns are too many.`);
    form.digital.forEach(() => {
      levels.push(column());
      volts.push(numbers());
    });
    let from = 0;
    for (let skipped = 0; skipped < form.skip; skipped += 1) from = text.indexOf('\n', from) + 1;
    line = form.skip;
    text = text.slice(from);
    return form;
  };

  const take = (whole: string, form: CsvLayout): void => {
    for (const cells of csvRows(whole, form.delimiter)) row(cells, form);
  };

  const push = (bytes: Uint8Array): void => {
    const piece = latin1(bytes);
    text += piece;
    const known = layout !== undefined;
    if (!layout) {
      if (text.length < HEAD) return;
      layout = begin();
    }
    // What was kept has no line end: only the new piece can have one.
    const within = known ? piece.lastIndexOf('\n') : text.lastIndexOf('\n');
    const cut = known && within >= 0 ? text.length - piece.length + within : within;
    if (cut < 0) {
      if (text.length > LONGEST_LINE) throw new CaptureError(`Line ${line + 1}: it is too long to be a row.`);
      return;
    }
    take(text.slice(0, cut), layout);
    text = text.slice(cut + 1);
  };

  const wireOf = (form: CsvLayout, at: number): Wire => {
    const name = form.names[at + 1] ?? '';
    if (form.digital[at]) return levels[at]?.wire(name) ?? column().wire(name);
    const all = volts[at]?.all() ?? new Float32Array(0);
    const there = all.some(Number.isNaN) ? (_: number, row: number) => !Number.isNaN(all[row]) : () => true;
    const values = all.filter((value, row) => there(value, row));
    const own = Object.hasOwn(thresholds, name) ? thresholds[name] : undefined;
    const threshold = own ?? proposeThreshold(values) ?? { rise: Infinity, fall: -Infinity };
    return thresholded(name, Float64Array.from(times).filter(there), values, threshold);
  };

  const end = (): Capture => {
    if (!layout) {
      if (text.trim() === '') throw new CaptureError('Line 1: the file is empty.');
      layout = begin();
    }
    const form = layout;
    take(text, form);
    text = '';
    if (first === undefined) throw new CaptureError(`Line ${line}: the table has no row.`);
    return {
      tickHz: form.tickHz,
      from: first,
      to: last,
      wires: form.digital.map((_, at) => wireOf(form, at)),
      ...leftOut.notes(),
    };
  };
  return { push, end };
}
