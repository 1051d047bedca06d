import type Joi from 'joi';

/** A schema as Joi describes it, as far as keys are concerned. */
type Described = {
  type?: string;
  flags?: { presence?: string; default?: unknown };
  keys?: Record<string, Described>;
  patterns?: { rule: Described }[];
  items?: Described[];
  matches?: (Branch & { switch?: Branch[] })[];
  whens?: (Branch & { switch?: Branch[] })[];
};
type Branch = { schema?: Described; then?: Described; otherwise?: Described };

/** The keys of one object of a format: those it must have, and the others with their defaults. */
export type ObjectKeys = { required: string[]; optional: string[] };

/** Objects that stand in many places under other names, and the one that is described. */
const SAME: [RegExp, string][] = [
  [/^.*\.\*$/, 'value'],
  [
    /^(timers\[\]\.(channels\[\]|captures\[\])\.interrupt|timers\[\]\.interrupts\.(overflow|capture))/,
    'interrupt',
  ],
  [/^(timers\[\]\.prescaler|interrupt\.postscaler|clocks\[\]\.by)/, 'prescaler'],
  [/^timers\[\](\.channels\[\])?\.deadTime/, 'deadTime'],
  [/^cpu\.operations\.\w+$/, 'operation'],
];

function placeOf(path: string): string {
  return SAME.reduce(
    (place, [pattern, name]) => (pattern.test(place) ? place.replace(pattern, name) : place),
    path,
  );
}

/** Every object of a schema with its keys; a key that only one kind of an object must have counts as required. */
export function formatKeys(schema: Joi.Schema): Map<string, ObjectKeys> {
  const found = new Map<string, ObjectKeys>();
  const branches = (list: readonly (Branch & { switch?: Branch[] })[] = []): Described[] =>
    list
      .flatMap((one) => [one, ...(one.switch ?? [])].flatMap((own) => [own.schema, own.then, own.otherwise]))
      .filter((one) => one !== undefined);
  const walk = (described: Described, path: string): void => {
    const place = placeOf(path);
    if (described.keys) {
      const own = found.get(place) ?? { required: [], optional: [] };
      found.set(place, own);
      for (const [key, rule] of Object.entries(described.keys)) {
        const known = [...own.required, ...own.optional].some(
          (one) => one === key || one.startsWith(`${key}=`),
        );
        const preset = rule.flags?.default;
        const plain = ['string', 'number', 'boolean'].includes(typeof preset)
          ? `${key}=${preset as string | number | boolean}`
          : key;
        if (!known && rule.flags?.presence !== 'forbidden')
          (rule.flags?.presence === 'required' ? own.required : own.optional).push(plain);
        walk(rule, path === '' ? key : `${path}.${key}`);
      }
    }
    for (const { rule } of described.patterns ?? []) walk(rule, `${path}.*`);
    for (const item of described.items ?? []) walk(item, `${path}[]`);
    for (const branch of [...branches(described.matches), ...branches(described.whens)]) walk(branch, path);
  };
  walk(schema.describe(), '');
  return found;
}

/** The keys as rows of a Markdown table. */
export function formatRows(schema: Joi.Schema): string[] {
  const said = (keys: readonly string[]): string =>
    keys.map((key) => `\`${key.replace('=', ' = ')}\``).join(', ');
  return [...formatKeys(schema)].map(
    ([place, { required, optional }]) =>
      `| ${place === '' ? 'the part' : `\`${place}\``} | ${said(required)} | ${said(optional)} |`,
  );
}
