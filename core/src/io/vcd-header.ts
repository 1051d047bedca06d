import { CaptureError } from '../wave/capture.ts';

/** A variable of a VCD file: its short code, its name with the scopes around it, and its bits from the left one on. */
export type Variable = { code: string; name: string; size: number; bits: readonly number[]; kind: string };

/** What the head of a VCD file declares. */
export type VcdHeader = { tickHz: number; variables: Variable[] };

const UNITS: Record<string, number> = { s: 1, ms: 1e3, us: 1e6, ns: 1e9, ps: 1e12, fs: 1e15 };

function tickHzOf(words: readonly string[]): number {
  const [, number = '', unit = ''] = /^(\d+)\s*([munpf]?s)$/.exec(words.join('').trim()) ?? [];
  const per = UNITS[unit];
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
  const [, name = text, left, right] = /^(.*?)\s*\[(-?\d+)(?::(-?\d+))?\]$/.exec(text) ?? [];
  if (left !== undefined && right !== undefined) {
    const [from, to] = [Number(left), Number(right)];
    const step = from <= to ? 1 : -1;
    const bits = Array.from({ length: Math.min(size, Math.abs(to - from) + 1) }, (_, at) => from + step * at);
    return { name, bits };
  }
  return { name: text, bits: Array.from({ length: size }, (_, at) => size - 1 - at) };
}

function variableOf(words: readonly string[], scopes: readonly string[]): Variable {
  const [kind = '', sizeText = '', code = '', ...named] = words;
  const size = Number(sizeText);
  if (code === '' || named.length === 0 || !Number.isInteger(size) || size < 1 || size > 65536) {
    throw new CaptureError(
      `the variable “${words.join(' ').slice(0, 60)}” is not declared as type, size, code and name.`,
    );
  }
  const { name, bits } = bitsOf(named, size);
  return { code, name: [...scopes, name].join('.'), size, bits, kind };
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
  const variables: Variable[] = [];
  let tickHz: number | undefined;
  const words = text.split(/\s+/).filter((word) => word !== '');
  for (let at = 0; at < words.length; at += 1) {
    const word = words[at] ?? '';
    if (!word.startsWith('$'))
      throw new CaptureError(`a declaration is expected, not “${word.slice(0, 40)}”.`);
    const end = words.indexOf('$end', at + 1);
    if (end < 0) throw new CaptureError(`${word} has no $end.`);
    const body = words.slice(at + 1, end);
    at = end;
    if (word === '$timescale') tickHz = tickHzOf(body);
    else if (word === '$scope') scopes.push(body[1] ?? '');
    else if (word === '$upscope') scopes.pop();
    else if (word === '$var') variables.push(variableOf(body, scopes));
  }
  if (variables.length === 0) throw new CaptureError('there is no variable.');
  return { tickHz: tickHz ?? 1e9, variables: named(variables) };
}

/** Names without what all of them begin with, where they still differ then. */
function named(variables: readonly Variable[]): Variable[] {
  const paths = variables.map(({ name }) => name.split('.'));
  const shortest = Math.min(...paths.map((path) => path.length)) - 1;
  let common = 0;
  while (common < shortest && paths.every((path) => path[common] === paths[0]?.[common])) common += 1;
  return variables.map((variable, at) => ({ ...variable, name: (paths[at] ?? []).slice(common).join('.') }));
}
