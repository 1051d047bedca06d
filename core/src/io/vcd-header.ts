import { CaptureError } from '../wave/capture.ts';
import { utf8Text } from './utf8.ts';

/** A variable of a VCD file: its short code, its name with the scopes around it, and its bits from the left one on. */
type Variable = { code: string; name: string; size: number; bits: readonly number[]; kind: string };

/** A variable with the scopes around it. */
type Declared = Variable & { scopes: readonly string[] };

/** What the head of a VCD file declares. */
export type VcdHeader = { tickHz: number; variables: Variable[] };

const UNITS = new Map(Object.entries({ s: 1, ms: 1e3, us: 1e6, ns: 1e9, ps: 1e12, fs: 1e15 }));

/** What a head may declare: wires of one bit in all, scopes within each other, and characters of a name. */
const MAX = { bits: 20_000, scopes: 100, name: 400 };

function tickHzOf(words: readonly string[]): number {
  const [, number = '', unit = ''] = /^(\d{1,9})([munpf]?s)$/.exec(words.join('')) ?? [];
  const per = UNITS.get(unit);
  if (!per || !['1', '10', '100'].includes(number)) {
    throw new CaptureError(
      `the timescale “${words.join(' ').slice(0, 40)}” is not valid: it is 1, 10 or 100 of s, ms, us, ns, ps or fs.`,
    );
  }
  return per / Number(number);
}

/** The places of a vector's bits, the left one first: [7:0] are 7 down to 0. */
function bitsOf(words: readonly string[], size: number): { name: string; bits: number[] } {
  const text = words.join(' ');
  const open = text.endsWith(']') ? text.lastIndexOf('[') : -1;
  const [, left, right] = open < 0 ? [] : (/^\[(-?\d{1,9})(?::(-?\d{1,9}))?\]$/.exec(text.slice(open)) ?? []);
  const name = left === undefined ? text : text.slice(0, open).trimEnd();
  if (left === undefined || right === undefined) {
    return { name, bits: Array.from({ length: size }, (_, at) => size - 1 - at) };
  }
  const [from, to] = [Number(left), Number(right)];
  const step = from <= to ? 1 : -1;
  const bits = Array.from({ length: Math.min(size, Math.abs(to - from) + 1) }, (_, at) => from + step * at);
  return { name, bits };
}

function variableOf(words: readonly string[], scopes: readonly string[]): Declared {
  const [kind = '', sizeText = '', code = '', ...named] = words;
  const size = Number(sizeText);
  if (code === '' || named.length === 0 || !Number.isInteger(size) || size < 1 || size > 65536) {
    throw new CaptureError(
      `the variable “${words.join(' ').slice(0, 60)}” is not declared as type, size, code and name.`,
    );
  }
  const { name, bits } = bitsOf(named, size);
  if (name.length > MAX.name) throw new CaptureError(`a name has more than ${MAX.name} characters.`);
  return { code, name: utf8Text(name), size, bits, kind, scopes: [...scopes] };
}

/** Reads the head of a VCD file (IEEE 1364) up to $enddefinitions. @throws CaptureError */
export function readVcdHeader(text: string): VcdHeader {
  try {
    return headerOf(text);
  } catch (error) {
    if (error instanceof CaptureError) throw new CaptureError(`In the declarations: ${error.message}`);
    throw error;
  }
}

function headerOf(text: string): VcdHeader {
  const scopes: string[] = [];
  const variables: Declared[] = [];
  let tickHz: number | undefined;
  let bits = 0;
  // Bytes of other scripts may look like spaces of theirs; only those of ASCII part words.
  const words = text.split(/[ \t-\r]+/).filter((word) => word !== '');
  for (let at = 0; at < words.length; at += 1) {
    const word = words[at] ?? '';
    if (!word.startsWith('$'))
      throw new CaptureError(`a declaration is expected, not “${word.slice(0, 40)}”.`);
    const end = words.indexOf('$end', at + 1);
    if (end < 0) throw new CaptureError(`${word} has no $end.`);
    const body = words.slice(at + 1, end);
    at = end;
    if (word === '$timescale') tickHz = tickHzOf(body);
    else if (word === '$scope') scopes.push(utf8Text((body[1] ?? '').slice(0, MAX.name)));
    else if (word === '$upscope') scopes.pop();
    else if (word === '$var') {
      const declared = variableOf(body, scopes);
      variables.push(declared);
      bits += declared.bits.length;
    }
    if (scopes.length > MAX.scopes) throw new CaptureError(`scopes are nested deeper than ${MAX.scopes}.`);
    if (bits > MAX.bits)
      throw new CaptureError(`more than ${MAX.bits} wires of one bit are declared; export fewer of them.`);
  }
  if (variables.length === 0) throw new CaptureError('there is not a variable.');
  return { tickHz: tickHz ?? 1e9, variables: named(variables) };
}

/** Variables with the scopes around them in their names, without those scopes that are around all of them. */
function named(variables: readonly Declared[]): Variable[] {
  const [first] = variables;
  const outer = first?.scopes ?? [];
  let common = outer.findIndex((scope, at) => variables.some(({ scopes }) => scopes[at] !== scope));
  if (common < 0) common = outer.length;
  return variables.map(({ scopes, ...variable }) => ({
    ...variable,
    name: [...scopes.slice(common), variable.name].join('.'),
  }));
}
