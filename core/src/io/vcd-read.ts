import { CaptureError, column, type Capture, type Column } from '../wave/capture.ts';
import { latin1 } from './latin1.ts';
import { leftOutValues, readingOf } from './outliers.ts';
import { readVcdHeader, type VcdHeader } from './vcd-header.ts';

/** A reader that takes a file in pieces, as they come. */
export type Reader = { push: (bytes: Uint8Array) => void; end: () => Capture };

/** Heads of files longer than this are not headings, and so are single words of the body. */
const LONGEST_HEAD = 16_000_000;
const LONGEST_WORD = 1_000_000;

/** A time of fewer characters is an exact number. */
const LONGEST_TIME = 16;

/** Changes that are kept at most, at nine bytes each, so that a file larger than the memory ends in a sentence. */
const MAX_CHANGES = 30_000_000;

const SPACE = 32;
const HASH = 35;
const DOLLAR = 36;
const ZERO = 48;
const ONE = 49;

/** Whether a byte separates words. */
function isSpace(byte: number): boolean {
  return byte <= SPACE;
}

/** A scalar value's level; -1 for any other byte. */
function levelOf(byte: number): number {
  if (byte === ZERO) return 0;
  if (byte === ONE) return 1;
  if (byte === 120 || byte === 88) return 2;
  if (byte === 122 || byte === 90) return 3;
  return -1;
}

type Sink = { bits: Column[]; names: string[]; real?: Column };

function sinksOf({ variables }: VcdHeader): Map<string, Sink> {
  const sinks = new Map<string, Sink>();
  for (const { code, name, size, bits, kind } of variables) {
    if (sinks.has(code) || kind === 'string') continue;
    const places = kind === 'real' ? [0] : bits;
    const names = size === 1 || kind === 'real' ? [name] : places.map((bit) => `${name}[${bit}]`);
    sinks.set(code, { bits: names.map(() => column()), names });
  }
  return sinks;
}

/** The codes of one character, which are most of them, by that character. */
function shortSinks(sinks: ReadonlyMap<string, Sink>): (Column | undefined)[] {
  const short = new Array<Column | undefined>(128).fill(undefined);
  for (const [code, { bits }] of sinks)
    if (code.length === 1 && bits.length === 1) short[code.charCodeAt(0)] = bits[0];
  return short;
}

/**
 * Reads a VCD file (IEEE 1364) in pieces of any length: scalars, vectors down to their bits, reals (low at 0, else
 * high), x and z, any timescale. Its wires are those of the head, in that order. @throws CaptureError with the byte.
 */
export function vcdReader(): Reader {
  let head = '';
  let header: VcdHeader | undefined;
  let sinks = new Map<string, Sink>();
  let short: (Column | undefined)[] = [];
  let time = 0;
  let first: number | undefined;
  let offset = 0;
  let word = '';
  let vector: string | undefined;
  let skipping = false;
  let changes = 0;
  let searched = 0;
  const leftOut = leftOutValues();

  const fail = (sentence: string, at: number): never => {
    throw new CaptureError(`Byte ${at}: ${sentence}`);
  };

  const vectorChange = (value: string, code: string, at: number): void => {
    const sink = sinks.get(code);
    if (!sink) {
      fail(`the code “${code.slice(0, 20)}” is not declared.`, at);
      return;
    }
    const kind = value.charAt(0).toLowerCase();
    const digits = value.slice(1);
    if (kind === 'r') {
      const real = readingOf(digits);
      if (real === undefined) fail(`“${digits.slice(0, 20)}” is not a number.`, at);
      else if (Number.isNaN(real)) leftOut.add(`Byte ${at}`, digits, sink.names[0] ?? code);
      else sink.bits[0]?.push(time, real === 0 ? 0 : 1);
      changes += 1;
      return;
    }
    if (kind === 's') return;
    const width = sink.bits.length;
    const lead = levelOf(digits.charCodeAt(0));
    const fill = lead >= 2 ? lead : 0;
    for (let bit = 0; bit < width; bit += 1) {
      const place = digits.length - width + bit;
      const level = place < 0 ? fill : levelOf(digits.charCodeAt(place));
      if (level < 0) fail(`“${value.slice(0, 40)}” is not a vector of 0, 1, x and z.`, at);
      sink.bits[bit]?.push(time, level);
      changes += 1;
    }
  };

  /** One word of the body, where the quick path did not take it. */
  const take = (text: string, at: number): void => {
    const start = text.charCodeAt(0);
    if (vector !== undefined) {
      vectorChange(vector, text, at);
      vector = undefined;
      return;
    }
    if (start === DOLLAR) {
      if (text === '$comment') skipping = true;
      if (text === '$end') skipping = false;
      return;
    }
    if (skipping) return;
    if (start === HASH) {
      const next = Number(text.slice(1));
      if (text.length < 2 || !Number.isSafeInteger(next)) fail(`“${text.slice(0, 40)}” is not a time.`, at);
      if (next < time && first !== undefined) fail(`time goes back from ${time} to ${next}.`, at);
      time = next;
      first ??= next;
      return;
    }
    if ('bBrRsS'.includes(text.charAt(0))) {
      vector = text;
      return;
    }
    const level = levelOf(start);
    const sink = level < 0 ? undefined : sinks.get(text.slice(1));
    if (level < 0) fail(`“${text.slice(0, 40)}” is not a change of a value.`, at);
    if (!sink) fail(`the code “${text.slice(1, 21)}” is not declared.`, at);
    sink?.bits[0]?.push(time, level);
    changes += 1;
  };

  /** A change of one bit with a code of one character, the most frequent word; gives whether it was one. */
  const shortChange = (bytes: Uint8Array, at: number): boolean => {
    const after = bytes[at + 2];
    if (skipping || vector !== undefined || after === undefined || !isSpace(after)) return false;
    const level = levelOf(bytes[at] ?? 0);
    const code = bytes[at + 1] ?? 0;
    const sink = level >= 0 && code > SPACE ? short[code] : undefined;
    if (!sink) return false;
    sink.push(time, level);
    changes += 1;
    return true;
  };

  /** A time without any sign beside its digits, the next frequent word; gives whether it was one. */
  const plainTime = (bytes: Uint8Array, at: number, end: number): boolean => {
    if (bytes[at] !== HASH || skipping || vector !== undefined || end - at >= LONGEST_TIME) return false;
    let next = 0;
    for (let digit = at + 1; digit < end; digit += 1) {
      const value = (bytes[digit] ?? 0) - ZERO;
      if (value < 0 || value > 9) return false;
      next = 10 * next + value;
    }
    if (end === at + 1 || (next < time && first !== undefined)) return false;
    time = next;
    first ??= next;
    return true;
  };

  const body = (bytes: Uint8Array, from: number): void => {
    const { length } = bytes;
    let at = from;
    while (at < length) {
      if (word === '') {
        if (isSpace(bytes[at] ?? 0)) {
          at += 1;
          continue;
        }
        if (shortChange(bytes, at)) {
          at += 3;
          continue;
        }
      }
      let end = at;
      while (end < length && !isSpace(bytes[end] ?? 0)) end += 1;
      if (word.length + end - at > LONGEST_WORD)
        fail('a word of more than a million characters is not a value.', offset + at);
      if (word === '' && end < length && plainTime(bytes, at, end)) {
        at = end;
        continue;
      }
      word += latin1(bytes.subarray(at, end));
      if (end === length) return;
      take(word, offset + at);
      word = '';
      at = end;
    }
    if (changes > MAX_CHANGES)
      fail(`more than ${MAX_CHANGES} changes are too many; shorten the capture.`, offset);
  };

  const push = (bytes: Uint8Array): void => {
    let from = 0;
    if (!header) {
      head += latin1(bytes);
      const mark = head.indexOf('$enddefinitions', searched);
      const end = mark < 0 ? -1 : head.indexOf('$end', mark + 15);
      searched = mark < 0 ? Math.max(0, head.length - 15) : mark;
      const begin = head.slice(0, 2000).trimStart();
      if (mark < 0 && begin !== '' && !begin.startsWith('$'))
        fail('this is no VCD file: it does not begin with a declaration.', 0);
      if (end < 0) {
        if (head.length > LONGEST_HEAD) fail('the declarations do not end.', offset);
        offset += bytes.length;
        return;
      }
      header = readVcdHeader(head.slice(0, end + 4));
      sinks = sinksOf(header);
      short = shortSinks(sinks);
      from = end + 4 - (head.length - bytes.length);
      head = '';
    }
    body(bytes, Math.max(0, from));
    offset += bytes.length;
  };

  const end = (): Capture => {
    if (!header)
      return fail(offset === 0 ? 'the file is empty.' : 'the file ends within its declarations.', offset);
    if (word !== '') take(word, offset - word.length);
    word = '';
    if (vector !== undefined) fail('the file ends within a vector.', offset);
    if (skipping) fail('the file ends within a comment.', offset);
    const wires = [...sinks.values()].flatMap(({ bits, names }) =>
      bits.map((bit, at) => bit.wire(names[at] ?? '')),
    );
    return { tickHz: header.tickHz, from: first ?? 0, to: time, wires, ...leftOut.notes() };
  };
  return { push, end };
}
