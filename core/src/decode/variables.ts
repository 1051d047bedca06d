import { CodeFault, KnownLater, valueOf, type Calls, type Names } from './expression.ts';

/** Variables of C code: all that are declared, arguments included, and the values of those that never change. */
export type Variables = { declared: ReadonlySet<string>; constants: ReadonlyMap<string, number> };

/** The longest declaration that is read, in characters. */
const LONGEST = 400;

const TYPE =
  'u?int(?:8|16|32|64)?_t|unsigned(?: (?:char|short|int|long))?|signed|char|short|int|long|float|double|size_t|bool|uint|struct \\w+';

const TYPES = new RegExp(`\\b(?:${TYPE})\\b`, 'g');

/** One name of a declaration, with the value that it begins with. */
const DECLARED = new RegExp(
  `^(?:(?:const|volatile|static|${TYPE})\\b|[ *])*([A-Za-z_]\\w*)(?: ?=(?!=) ?(.*))?`,
);

/** What a declaration declares: the text after its type, up to its end, apart at its commas. */
function declaredAfter(text: string, from: number): string[] {
  const pieces = [''];
  let depth = 0;
  for (const sign of text.slice(from, from + LONGEST)) {
    if (sign === '(') depth += 1;
    if (sign === ')') depth -= 1;
    if (depth < 0 || /[;{}]/.test(sign)) break;
    if (sign === ',' && depth === 0) pieces.push('');
    else pieces[pieces.length - 1] += sign;
  }
  return pieces;
}

/** What gives a variable a value, counts it up or down, or lends it to something that may change it. */
const CHANGE = /(?:&|\+\+|--) ?([A-Za-z_]\w*)|\b([A-Za-z_]\w*) ?(?:\+\+|--|(?:<<|>>|[-+*/%|&^])?=(?!=))/g;

/** How often each name of a text is changed, a declaration with a value included. */
function changesIn(text: string): Map<string, number> {
  const counts = new Map<string, number>();
  for (const [, lent, set] of text.matchAll(CHANGE)) {
    const name = lent ?? set ?? '';
    counts.set(name, (counts.get(name) ?? 0) + 1);
  }
  return counts;
}

/** What names and calls beside the variables stand for, such as definitions. */
type Beside = { names: Names; calls: Calls };

/** The variables of a text without comments. */
export function variablesIn(
  text: string,
  { names, calls }: Beside = { names: () => undefined, calls: () => undefined },
): Variables {
  const plain = text.replace(/\s+/g, ' ');
  const found = new Map<string, string[]>();
  for (const { index, 0: type } of plain.matchAll(TYPES)) {
    for (const piece of declaredAfter(plain, index + type.length)) {
      const [, name, value = ''] = DECLARED.exec(piece) ?? [];
      const known = found.get(name ?? '') ?? [];
      if (name !== undefined && !known.includes(value)) found.set(name, [...known, value]);
    }
  }
  const changed = changesIn(plain);
  const constants = new Map<string, number>();
  for (const [name, values] of found) {
    const [value = '', ...others] = values;
    if (value === '' || others.length > 0 || (changed.get(name) ?? 0) > 1) continue;
    try {
      constants.set(name, Number(valueOf(value, (one) => constants.get(one) ?? names(one), calls)));
    } catch (error) {
      if (!(error instanceof CodeFault || error instanceof KnownLater)) throw error;
    }
  }
  return { declared: new Set(found.keys()), constants };
}
