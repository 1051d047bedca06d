import type { ValidationErrorItem } from 'joi';
import type { Fault } from './result.ts';

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

const WORDS: Readonly<Partial<Record<string, Words>>> = {
  'any.required': () => 'is missing',
  'any.unknown': () => 'has no place here',
  'any.only': ({ valids, value }) =>
    `must be ${(valids as unknown[]).map(shown).join(' or ')}, and is ${shown(value)}`,
  'any.invalid': ({ value }) => `cannot be ${shown(value)}`,
  'object.max': ({ limit }) => `may have ${shown(limit)} keys at most`,
  'number.infinity': () => 'must be a finite number',
  'string.pattern.invert.name': ({ value }) => `is ${shown(value)}, a word that C keeps for itself`,
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
