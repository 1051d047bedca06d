import type Joi from 'joi';

/** What Joi tells of a schema, as far as the order of keys depends on it. */
type Description = {
  allow?: unknown[];
  keys?: Record<string, Description>;
  items?: Description[];
  matches?: Match[];
  whens?: Match[];
};
type Match = {
  ref?: { path?: string[] };
  schema?: Description;
  is?: Description;
  then?: Description;
  otherwise?: Description;
  switch?: Match[];
};

/** Whether a value has the constants that a condition of a schema asks for. */
function holds(condition: Description | undefined, value: unknown): boolean {
  if (!condition) return false;
  const constants = condition.allow?.filter((one) => typeof one !== 'object');
  if (constants && constants.length > 0 && !constants.includes(value)) return false;
  return Object.entries(condition.keys ?? {}).every(
    ([key, own]) => isObject(value) && holds(own, value[key]),
  );
}

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** The schemas that a conditional one comes to for a value; `parent` is the object that has the value. */
function chosen(match: Match, value: unknown, parent: unknown): Description[] {
  if (match.switch)
    return match.switch.flatMap((one) => chosen({ ...match, ...one, switch: undefined }, value, parent));
  const [key] = match.ref?.path ?? [];
  const subject = key === undefined ? value : isObject(parent) ? parent[key] : undefined;
  const condition = match.is ?? (match.then ? match.schema : undefined);
  if (!condition) return match.schema ? [match.schema] : [];
  const branch = holds(condition, subject) ? match.then : match.otherwise;
  return branch ? [branch] : [];
}

/** A schema and all that its conditions add for a value. */
function inForce(description: Description, value: unknown, parent: unknown): Description[] {
  const more = [...(description.whens ?? []), ...(description.matches ?? [])].flatMap((match) =>
    chosen(match, value, parent),
  );
  return [description, ...more.flatMap((one) => inForce(one, value, parent))];
}

function ordered(value: unknown, descriptions: readonly Description[], parent: unknown): unknown {
  const all = descriptions.flatMap((one) => inForce(one, value, parent));
  if (Array.isArray(value)) {
    const items = all.flatMap((one) => one.items ?? []);
    return value.map((item: unknown) => ordered(item, items, value));
  }
  if (!isObject(value)) return value;
  const known = [...new Set(all.flatMap(({ keys }) => Object.keys(keys ?? {})))].filter((key) =>
    Object.hasOwn(value, key),
  );
  const others = Object.keys(value)
    .filter((key) => !known.includes(key))
    .sort();
  return Object.fromEntries(
    [...known, ...others]
      .filter((key) => value[key] !== undefined)
      .map((key) => {
        const own = all.flatMap(({ keys }) =>
          keys && Object.hasOwn(keys, key) ? [keys[key] as Description] : [],
        );
        return [key, ordered(value[key], own, value)];
      }),
  );
}

const described = new WeakMap<Joi.Schema, Description>();

/**
 * A value with the keys of all its objects in the order of their schema; keys that the schema does not name, such as those of
 * a table, follow by the alphabet. Keys without a value are left out.
 */
export function inSchemaOrder(value: unknown, schema: Joi.Schema): unknown {
  const description = described.get(schema) ?? (schema.describe() as Description);
  described.set(schema, description);
  return ordered(value, [description], undefined);
}
