import { failed, succeeded, type Result } from '../result/result.ts';
import { parseQuantity } from '../quantity/parse.ts';
import { printSeconds } from '../quantity/print.ts';
import { LONGEST_ENTRY, quoted, singleSpaced, TOO_LONG } from '../quantity/words.ts';
import type { Opposite } from './signal.ts';

/** Reads "within 10 ms" as the time (s) in which the first edge must come; undefined for an empty text or "any time". Never throws. */
export function parseFirstEdge(text: string): Result<number | undefined> {
  if (text.length > LONGEST_ENTRY) return failed(TOO_LONG);
  const plain = singleSpaced(text);
  if (plain === '' || /^any time$/i.test(plain)) return succeeded(undefined);
  const read = parseQuantity(plain.replace(/^within /i, ''), 'time');
  return read.ok ? succeeded(read.value.value.valueOf()) : read;
}

/** The time of the first edge as the user would type it. */
export function firstEdgeText(seconds: number | undefined): string {
  return seconds === undefined ? 'any time' : `within ${printSeconds(seconds, 12)}`;
}

/** Reads "PB13, 1 µs apart" against the pins of a part; undefined for an empty text or "none". Never throws. */
export function parseOpposite(text: string, pins: readonly string[]): Result<Opposite | undefined> {
  if (text.length > LONGEST_ENTRY) return failed(TOO_LONG);
  const plain = singleSpaced(text);
  if (plain === '' || /^none$/i.test(plain)) return succeeded(undefined);
  const [first = '', ...rest] = plain.replace(/^on /i, '').replace(',', ' ').split(' ').filter(Boolean);
  const pin = pins.find((one) => one.toLowerCase() === first.toLowerCase());
  const words = rest.filter((word) => !/^(?:dead|apart)$/i.test(word));
  if (pin === undefined || words.length === 0) {
    return failed(`${quoted(text)} is not a pin and a dead time; enter for example PB13, 1 µs apart.`);
  }
  const read = parseQuantity(words.join(' '), 'time');
  return read.ok ? succeeded({ pin, deadS: read.value.value.valueOf() }) : read;
}

/** An opposite output as the user would type it. */
export function oppositeText(opposite: Opposite | undefined): string {
  return opposite ? `${opposite.pin}, ${printSeconds(opposite.deadS, 12)} apart` : 'none';
}
