import { failed, succeeded } from '../result/result.ts';
import { exact, type Exact } from './exact.ts';
import { singleSpaced } from './words.ts';
import type { Dimension, ReadQuantity } from './quantity.ts';

/**
 * What counts, degrees and volts are measured against where a person says them: the length of a count in s, the counts
 * of a period that a duty can tell apart, and the range of widths (s) that corresponds to an angle in degrees.
 */
export type Scale = {
  countS?: number;
  dutyCounts?: number;
  window?: { low: Exact; high: Exact; degrees: number };
};

const COUNTS = /^([\d ._]+)(?:counts?|ticks?)$/i;
const DEGREES = /^(-?\d+(?:[.,]\d+)?) ?(?:°|deg|degrees?)$/i;
const VOLTS = /^(\d+(?:[.,]\d+)?) ?(m?)V? ?(?:of|\/) ?(\d+(?:[.,]\d+)?) ?V$/i;

function no(error: string): ReadQuantity {
  return failed(error);
}

function numberOf(text: string): Exact {
  return exact(text.replace(/[ _]/g, '').replace(',', '.'));
}

function counts(text: string, dimension: Dimension, { countS, dutyCounts }: Scale): ReadQuantity {
  const count = numberOf(text);
  if (count.d !== 1n) return no(`Counts are whole numbers; “${text}” is not a whole number.`);
  if (dimension === 'duty') {
    if (dutyCounts === undefined) return no('Counts of a period need a setting first.');
    if (count.compare(dutyCounts) > 0)
      return no(`A period has ${dutyCounts} counts; “${text}” are more than that.`);
    return succeeded({ value: count.div(dutyCounts), said: 'counts', spoken: count.valueOf() });
  }
  if (countS === undefined) return no('Counts need a setting first.');
  if (count.compare(1) < 0) return no('At least one count is needed.');
  const time = count.mul(exact(countS));
  return succeeded({
    value: dimension === 'frequency' ? time.inverse() : time,
    said: 'counts',
    spoken: count.valueOf(),
  });
}

function degrees(text: string, { window }: Scale): ReadQuantity {
  if (!window) return no('Degrees need a window of widths: say both of its ends first.');
  const turn = numberOf(text);
  if (turn.compare(0) < 0 || turn.compare(window.degrees) > 0) {
    return no(`The window covers 0 to ${window.degrees} degrees; “${text}” lies outside.`);
  }
  const share = turn.div(window.degrees);
  const value = window.low.add(window.high.sub(window.low).mul(share));
  return succeeded({ value, said: '°', spoken: turn.valueOf() });
}

/**
 * Reads what needs something to be measured against: "217 counts" as a period, a width or a duty, "90°" of a window,
 * "1.2 V of 3.3 V" as a duty. Undefined for anything else; never throws.
 */
export function readScaled(text: string, dimension: Dimension, scale: Scale): ReadQuantity | undefined {
  const plain = singleSpaced(text);
  const counted = COUNTS.exec(plain)?.[1]?.trim();
  if (counted !== undefined && /\d/.test(counted) && ['frequency', 'duty', 'time'].includes(dimension)) {
    return /^[\d ]+$/.test(counted)
      ? counts(counted, dimension, scale)
      : no(`Counts are whole numbers; “${counted}” is not a whole number.`);
  }
  const turned = DEGREES.exec(plain)?.[1];
  if (turned !== undefined && dimension === 'time') return degrees(turned, scale);
  const level = VOLTS.exec(plain);
  if (!level || dimension !== 'duty') return undefined;
  const volts = numberOf(level[1] ?? '0').div(level[2] ? 1000 : 1);
  const supply = numberOf(level[3] ?? '0');
  if (supply.compare(0) <= 0 || volts.compare(supply) > 0) {
    return no(`A level lies between 0 and its supply; “${plain.slice(0, 40)}” does not.`);
  }
  return succeeded({ value: volts.div(supply), said: 'V', spoken: volts.valueOf() });
}
