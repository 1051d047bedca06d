import type Joi from 'joi';

/**
 * A schema as far as the order of keys depends on it. Joi describes schemas in words only outside of browsers, so that its
 * terms are read, which are there for those who build on it.
 */
type Terms = {
  $_terms: {
    keys?: readonly { key: string; schema: Terms }[] | null;
    items?: readonly Terms[];
    matches?: readonly Match[];
    whens?: readonly Match[] | null;
  };
  validate: (value: unknown) => { error?: unknown };
};

/** A condition on a value, or on the value of the key that `ref` names beside it, and what holds then. */
type Case = { is: Terms; then?: Terms; otherwise?: Terms };
type Match = { ref?: { path: readonly string[] }; schema?: Terms; switch?: readonly Case[] } & Partial<Case>;

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** The schemas that a conditional one comes to for a value; `parent` is the object that has the value. */
function chosen(match: Match, value: unknown, parent: unknown): Terms[] {
  const { is } = match;
  const cases: readonly Case[] = match.switch ?? (is ? [{ ...match, is }] : []);
  if (cases.length === 0) return match.schema ? [match.schema] : [];
  const [key] = match.ref?.path ?? [];
  const subject = key === undefined ? value : isObject(parent) ? parent[key] : undefined;
  for (const one of cases) {
    if (one.is.validate(subject).error === undefined) return one.then ? [one.then] : [];
    if (one.otherwise) return [one.otherwise];
  }
  return [];
}

/** A schema and all that its conditions add for a value. */
function inForce(schema: Terms, value: unknown, parent: unknown): Terms[] {
  const { whens, matches } = schema.$_terms;
  const more = [...(whens ?? []), ...(matches ?? [])].flatMap((match) => chosen(match, value, parent));
  return [schema, ...more.flatMap((one) => inForce(one, value, parent))];
}

function ordered(value: unknown, schemas: readonly Terms[], parent: unknown): unknown {
  if (typeof value !== 'object' || value === null) return value;
  const all = schemas.flatMap((one) => inForce(one, value, parent));
  if (Array.isArray(value)) {
    const items = all.flatMap(({ $_terms: { items } }) => items ?? []);
    return value.map((item: unknown) => ordered(item, items, value));
  }
  const object = value as Record<string, unknown>;
  const keys = all.flatMap(({ $_terms }) => $_terms.keys ?? []);
  const known = new Set(keys.map(({ key }) => key).filter((key) => Object.hasOwn(object, key)));
  const others = Object.keys(object).filter((key) => !known.has(key));
  return Object.fromEntries(
    [...known, ...others.sort()]
      .filter((key) => object[key] !== undefined)
      .map((key) => {
        const own = keys.filter((one) => one.key === key).map((one) => one.schema);
        return [key, ordered(object[key], own, object)];
      }),
  );
}

/**
 * A value with the keys of all its objects in the order of their schema; keys that the schema does not name, such as those of
 * a table, follow by the alphabet. Keys without a value are left out.
 */
export function inSchemaOrder(value: unknown, schema: Joi.Schema): unknown {
  return ordered(value, [schema], undefined);
}
