import { parse, type ParseError } from 'jsonc-parser';
import type { ValidationErrorItem } from 'joi';
import type { Fault, Result } from './result.ts';

/** ["signals", 0, "target"] as "signals[0].target". */
export function pathText(path: readonly (string | number)[]): string {
  return path.reduce<string>(
    (text, key) => (typeof key === 'number' ? `${text}[${key}]` : text === '' ? key : `${text}.${key}`),
    '',
  );
}

function shown(value: unknown): string {
  if (typeof value === 'number') return String(value);
  const text = JSON.stringify(value) ?? String(value);
  return text.length > 40 ? `${text.slice(0, 39)}…` : text;
}

type Words = (context: Record<string, unknown>) => string;

const WORDS: Record<string, Words> = {
  'any.required': () => 'is missing',
  'any.unknown': () => 'has no place here',
  'any.only': ({ valids, value }) =>
    `must be ${(valids as unknown[]).map(shown).join(' or ')}, and is ${shown(value)}`,
  'object.unknown': ({ document }) => `is not a key of a ${String(document)}`,
  'object.base': ({ value }) => `must be an object, and is ${shown(value)}`,
  'array.base': ({ value }) => `must be a list, and is ${shown(value)}`,
  'array.max': ({ limit }) => `may have ${shown(limit)} entries at most`,
  'array.unique': ({ dupePos }) => `has the same id as entry ${shown(dupePos)}`,
  'string.base': ({ value }) => `must be text, and is ${shown(value)}`,
  'string.empty': () => 'must not be empty',
  'string.max': ({ limit }) => `may have ${shown(limit)} characters at most`,
  'string.pattern.base': ({ value }) => `is ${shown(value)}, which does not have the required form`,
  'number.base': ({ value }) => `must be a number, and is ${shown(value)}`,
  'number.greater': ({ limit, value }) => `must be greater than ${shown(limit)}, and is ${shown(value)}`,
  'number.min': ({ limit, value }) => `must be ${shown(limit)} or more, and is ${shown(value)}`,
  'number.max': ({ limit, value }) => `must be ${shown(limit)} or less, and is ${shown(value)}`,
  'number.integer': ({ value }) => `must be a whole number, and is ${shown(value)}`,
  'number.unsafe': ({ value }) => `is ${shown(value)}, which is too large to be exact`,
  'string.pattern.name': ({ value }) =>
    `must be a number or a fraction such as "16000000/15999", and is ${shown(value)}`,
  'alternatives.types': ({ value }) =>
    `must be a number or a fraction such as "16000000/15999", and is ${shown(value)}`,
};

/** The first fault of a validation as path and sentence. */
export function faultOf(item: ValidationErrorItem, document: 'plan' | 'part' = 'plan'): Fault {
  const path = pathText(item.path);
  const context: Record<string, unknown> = { ...item.context, document };
  const nested = Array.isArray(context['details']) ? (context['details'] as ValidationErrorItem[]) : [];
  const [telling] = nested.filter((one) => one.type !== 'string.base' && one.type !== 'string.pattern.base');
  if (item.type === 'alternatives.match' && telling) return faultOf(telling, document);
  const words = (WORDS[item.type] ?? WORDS['alternatives.types'])?.(context) ?? 'is not as it must be';
  const label: unknown = item.context?.['label'];
  const named = typeof label === 'string' && label !== path;
  return {
    path,
    sentence: `${path || `The ${document}`} ${words}.`,
    ...(named ? { plain: `The ${label} ${words}.` } : {}),
  };
}

function placeOf(text: string, offset: number): string {
  const before = text.slice(0, offset);
  const line = before.split('\n').length;
  return `line ${line}, column ${offset - before.lastIndexOf('\n')}`;
}

/** Why a text is no JSON, with line and column. */
export function syntaxFault(text: string): Fault {
  if (text.trim() === '') return { path: '', sentence: 'The file is empty.' };
  const errors: ParseError[] = [];
  try {
    parse(text, errors, { disallowComments: true });
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    return { path: '', sentence: 'The file is nested too deeply to be read.' };
  }
  const [first] = errors;
  const offset = first?.offset ?? text.length;
  const place = placeOf(text, offset);
  if (offset >= text.trimEnd().length) {
    return { path: place, sentence: `The file ends too early, at ${place}: it seems to be cut off.` };
  }
  const found = JSON.stringify(text.slice(offset, offset + 12));
  return { path: place, sentence: `The file is not JSON: ${found} is not expected at ${place}.` };
}

/** The value of a JSON text of limited length, or the fault that prevents reading it. */
export function parseJson(text: string, limit: number, document: 'plan' | 'part'): Result<unknown> {
  if (text.length > limit) {
    const megabytes = (text.length / 1e6).toFixed(1);
    const sentence = `The file has ${megabytes} MB; a ${document} has ${limit / 1e6} MB at most, so this is not one.`;
    return { ok: false, fault: { path: '', sentence } };
  }
  try {
    return { ok: true, value: JSON.parse(text.replace(/^\uFEFF/, '')) };
  } catch (error) {
    if (error instanceof SyntaxError) return { ok: false, fault: syntaxFault(text) };
    throw error;
  }
}
