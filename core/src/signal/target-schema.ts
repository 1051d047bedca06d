import Joi from 'joi';
import { FRACTION_TEXT } from '../quantity/exact.ts';
import { printHz, printNumber, printPercent, printSeconds, printUnit } from '../quantity/print.ts';
import type { Dimension } from '../quantity/quantity.ts';
import { faultOf } from '../result/fault.ts';
import type { Fault } from '../result/result.ts';
import { kindOf, type FieldShape, type Kind, type Token } from './kinds/index.ts';
import { requirementOf } from './requirement-of.ts';
import { resolvedSteps } from './sequence.ts';
import type { Signal } from './signal.ts';
import { TargetError } from './target-error.ts';

/** A number of its own or a fraction as text. Limits of a fraction need its value and are checked with the target. */
export function amountSchema(
  bounded: (schema: Joi.NumberSchema) => Joi.NumberSchema,
): Joi.AlternativesSchema {
  return Joi.alternatives().try(bounded(Joi.number()), Joi.string().pattern(FRACTION_TEXT, 'fraction'));
}

/** The schema of one field of a target. */
function fieldSchema({ type, min, above: floor, max, required }: FieldShape): Joi.Schema {
  const bounded = (schema: Joi.NumberSchema): Joi.NumberSchema => {
    const low = floor === undefined ? schema.min(min ?? -1e15) : schema.greater(floor);
    return low.max(max ?? 1e15);
  };
  const schema =
    type === 'text'
      ? Joi.string().max(max ?? 80)
      : type === 'amount'
        ? amountSchema(bounded)
        : bounded(type === 'integer' ? Joi.number().integer() : Joi.number());
  return required ? schema.required() : schema;
}

/** The schema of a kind's target. */
export function targetSchema({ shape }: Pick<Kind, 'shape'>): Joi.ObjectSchema {
  return Joi.object(
    Object.fromEntries(Object.entries(shape).map(([key, field]) => [key, fieldSchema(field)])),
  );
}

const schemas = new WeakMap<object, Joi.ObjectSchema>();

function schemaOf(kind: Kind): Joi.ObjectSchema {
  const schema = schemas.get(kind) ?? targetSchema(kind);
  schemas.set(kind, schema);
  return schema;
}

/** A limit in the unit that its field is said in. */
const PRINT: Partial<Record<Dimension, (value: number) => string>> = {
  frequency: printHz,
  time: printSeconds,
  tolerance: (ppm) => printPercent(ppm / 1e6),
  duty: printPercent,
  dutyTolerance: printPercent,
  volts: (value) => printUnit(value, 'V'),
  ohms: (value) => printUnit(value, 'Ω'),
  farads: (value) => printUnit(value, 'F'),
};

function tokenOf(kind: Kind, field: string): Token<object> | undefined {
  const tokens = Object.values(kind.tokens);
  return (
    tokens.find((token) => (token.field as string | undefined) === field) ??
    tokens.find((token) => token.says?.includes(field))
  );
}

/** A sentence with the names of fields as the sentence of the signal calls them. */
function inWords(kind: Kind, sentence: string): string {
  const said = sentence
    .split(/\b/)
    .map((word) => (Object.hasOwn(kind.shape, word) ? (tokenOf(kind, word)?.label ?? word) : word))
    .join('');
  const [first = ''] = sentence.split(' ');
  return Object.hasOwn(kind.shape, first) ? `The ${said}` : said;
}

const BOUNDS = new Map([
  ['number.max', 'or less'],
  ['number.min', 'or more'],
]);

/** A broken limit in the words and the unit of its field. */
function limitSentence(kind: Kind, item: Joi.ValidationErrorItem): string | undefined {
  const { path, type, context } = item;
  const token = tokenOf(kind, String(path[0] ?? ''));
  const limit: unknown = context?.['limit'];
  // A field that its token does not name by itself may be in another unit than the token's.
  if (token?.field === undefined || typeof limit !== 'number') return undefined;
  const shown = (PRINT[token.dimension] ?? printNumber)(limit);
  const side = BOUNDS.get(type);
  if (type === 'number.greater') return `The ${token.label} must be above ${shown}.`;
  return side && `The ${token.label} must be ${shown} ${side}.`;
}

/** The telling item where a field may be one of several things. */
function toldItem(item: Joi.ValidationErrorItem): Joi.ValidationErrorItem {
  const details: unknown = item.context?.['details'];
  const nested = Array.isArray(details) ? (details as Joi.ValidationErrorItem[]) : [];
  return nested.find(({ type }) => type !== 'string.base' && type !== 'string.pattern.name') ?? item;
}

/**
 * What is wrong with a signal by itself, whatever its part: a field of its target outside of its limits, fields that
 * contradict each other, a sequence that its target does not allow. The path leads from the signal; undefined where
 * nothing is wrong. `plain` says it as the sentence of the signal would.
 */
export function signalFault(signal: Signal): Fault | undefined {
  const kind = kindOf(signal);
  const [item] = schemaOf(kind).validate(signal.target, { convert: false }).error?.details ?? [];
  if (item) {
    const { path, sentence } = faultOf(item);
    const plain = limitSentence(kind, toldItem(item)) ?? inWords(kind, sentence);
    return { path: `target.${path}`, sentence: `target.${sentence}`, plain };
  }
  try {
    const requirement = requirementOf(signal);
    if (signal.sequence) resolvedSteps(signal.sequence, requirement);
    return undefined;
  } catch (error) {
    if (!(error instanceof TargetError)) throw error;
    const field = Object.hasOwn(kind.shape, error.key) ? `target.${error.key}` : `sequence.${error.key}`;
    return { path: field, sentence: `${field}: ${error.message}`, plain: inWords(kind, error.message) };
  }
}
