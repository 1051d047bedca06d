/** Thrown when a piece of code is not understood; the message says what and where. */
export class CodeFault extends Error {}

/** Thrown where a value depends on a variable whose value the text does not tell. */
export class KnownLater extends Error {}

/** What an expression's names stand for; undefined where a name is not known. */
export type Names = (name: string) => number | bigint | undefined;

/** What a name with arguments in parentheses stands for; undefined where it is not known. */
export type Calls = (name: string, values: readonly bigint[]) => bigint | undefined;

type Token = { kind: 'number' | 'name' | 'sign'; text: string };

const TOKEN =
  /\s*(0[xX][0-9a-fA-F_']+|0[bB][01_']+|\d[\d_']*|[A-Za-z_]\w*(?:\s*(?:->|\.)\s*[A-Za-z_]\w*|\[\d+\])*|<<|>>|[()|&^~+\-*/%,])/y;

/** The longest expression, in characters. */
const LONGEST = 20_000;

/** Types that may stand in parentheses before a value. */
const CAST = /^(u?int(8|16|32|64)?(_t)?|unsigned|signed|char|short|long|volatile|const|size_t)$/;

function tokensOf(text: string): Token[] {
  const tokens: Token[] = [];
  TOKEN.lastIndex = 0;
  while (TOKEN.lastIndex < text.trimEnd().length) {
    const from = TOKEN.lastIndex;
    const match = TOKEN.exec(text);
    if (!match?.[1]) throw new CodeFault(`“${text.slice(from).trim().slice(0, 20)}” is not understood.`);
    const [, word] = match;
    if (/^\d/.test(word)) {
      tokens.push({ kind: 'number', text: word });
      const suffix = /[uUlL]*/y;
      suffix.lastIndex = TOKEN.lastIndex;
      suffix.exec(text);
      TOKEN.lastIndex = suffix.lastIndex;
    } else tokens.push({ kind: /^[A-Za-z_]/.test(word) ? 'name' : 'sign', text: word });
  }
  return tokens;
}

/** Signs by how tightly they bind, the loosest first. */
const LEVELS: readonly (readonly string[])[] = [
  ['|'],
  ['^'],
  ['&'],
  ['<<', '>>'],
  ['+', '-'],
  ['*', '/', '%'],
];

/** Shifts beyond any register are held, so that no number grows without end. */
function shifted(value: bigint, by: bigint): bigint {
  const held = by > 64n ? 64n : by < -64n ? -64n : by;
  return value << held;
}

function nonZero(divisor: bigint): bigint {
  if (divisor === 0n) throw new CodeFault('A division by zero.');
  return divisor;
}

/** No value between the registers of a microcontroller is longer than this, in bits. */
const LONGEST_VALUE = 256;

function bounded(value: bigint): bigint {
  if (value !== BigInt.asIntN(LONGEST_VALUE, value))
    throw new CodeFault('A value grows far beyond any register.');
  return value;
}

type Apply = (one: bigint, other: bigint) => bigint;

const APPLY = new Map<string, Apply>([
  ['|', (one, other) => one | other],
  ['^', (one, other) => one ^ other],
  ['&', (one, other) => one & other],
  ['<<', shifted],
  ['>>', (one, other) => shifted(one, -other)],
  ['+', (one, other) => one + other],
  ['-', (one, other) => one - other],
  ['*', (one, other) => bounded(one * other)],
  ['/', (one, other) => one / nonZero(other)],
  ['%', (one, other) => one % nonZero(other)],
]);

/** The value of two numbers joined by a sign of C. @throws CodeFault for a sign that is not known. */
export function applied(sign: string, one: bigint, other: bigint): bigint {
  const apply = APPLY.get(sign);
  if (!apply) throw new CodeFault(`“${sign}=” is not understood.`);
  return bounded(apply(one, other));
}

/** A number of C: hex, binary, octal with a leading zero, decimal. */
function numberOf(text: string): bigint {
  const digits = text.replace(/[_']/g, '');
  if (/^0[0-9]+$/.test(digits)) {
    if (/[89]/.test(digits))
      throw new CodeFault(`“${text}” begins with 0, so it is octal, and 8 and 9 are not.`);
    return BigInt(`0o${digits.slice(1)}`);
  }
  if (/^0[xb]$/i.test(digits)) throw new CodeFault(`“${text}” is not a number.`);
  return BigInt(digits);
}

/** Walks the tokens of one expression by descent. */
function walk(tokens: readonly Token[], names: Names, calls: Calls): bigint {
  let at = 0;
  const here = (): string | undefined => tokens[at]?.text;

  function level(depth: number): bigint {
    const signs = LEVELS[depth];
    if (!signs) return unary();
    let value = level(depth + 1);
    for (let apply = operatorOf(signs); apply; apply = operatorOf(signs)) {
      at += 1;
      value = apply(value, level(depth + 1));
    }
    return value;
  }

  function operatorOf(signs: readonly string[]) {
    const sign = here();
    return sign !== undefined && signs.includes(sign) ? APPLY.get(sign) : undefined;
  }

  function unary(): bigint {
    const token = tokens[at];
    at += 1;
    if (!token) throw new CodeFault('A value is missing.');
    if (token.text === '~') return ~unary();
    if (token.text === '-') return -unary();
    if (token.text === '+') return unary();
    if (token.text === '(') return inParentheses();
    if (token.kind === 'number') return bounded(numberOf(token.text));
    if (token.kind === 'name') return named(token.text);
    throw new CodeFault(`“${token.text}” was not expected there.`);
  }

  function inParentheses(): bigint {
    const start = at;
    while (CAST.test(here() ?? '')) at += 1;
    if (at > start && here() === ')') {
      at += 1;
      return unary();
    }
    const value = level(0);
    if (here() !== ')') throw new CodeFault('A closing parenthesis is missing.');
    at += 1;
    return value;
  }

  function named(name: string): bigint {
    if (here() === '(') return called(name);
    const value = names(name);
    if (value === undefined) throw new CodeFault(`“${name}” is not a bit or register of this part.`);
    return typeof value === 'bigint' ? value : BigInt(Math.round(value));
  }

  function called(name: string): bigint {
    at += 1;
    const values: bigint[] = [];
    while (here() !== ')') {
      values.push(level(0));
      if (here() !== ',') break;
      at += 1;
    }
    if (here() !== ')') throw new CodeFault('A closing parenthesis is missing.');
    at += 1;
    const [first] = values;
    if (/^_?BV$/i.test(name) && first !== undefined) return shifted(1n, first);
    const value = calls(name, values);
    if (value === undefined) throw new CodeFault(`“${name}(…)” is not a value that the text tells.`);
    return bounded(value);
  }

  const value = level(0);
  if (here() !== undefined) throw new CodeFault(`“${here()}” was not expected there.`);
  return value;
}

/** How deep parentheses may be nested, so that no paste can exhaust the stack. */
const DEEPEST = 100;

/**
 * The value of a C expression: numbers in decimal, hex and binary, names, shifts, or, and, exclusive or, not, the four
 * operations, parentheses and casts; _BV(x) is 1 << x. @throws CodeFault
 */
export function valueOf(text: string, names: Names, calls: Calls = () => undefined): bigint {
  if (text.length > LONGEST) throw new CodeFault('The expression is far too long.');
  const deepest = [...text].reduce(
    ({ depth, max }, sign) => {
      const now = depth + (sign === '(' ? 1 : sign === ')' ? -1 : 0);
      return { depth: now, max: Math.max(max, now) };
    },
    { depth: 0, max: 0 },
  ).max;
  if (deepest > DEEPEST || /[~+-]{60}/.test(text.replace(/\s/g, '')))
    throw new CodeFault('Too deeply nested.');
  return walk(tokensOf(text), names, calls);
}
