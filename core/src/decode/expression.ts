/** Thrown when a piece of code is not understood; the message says what and where. */
export class CodeFault extends Error {}

/** What an expression's names stand for; undefined where a name is not known. */
export type Names = (name: string) => number | undefined;

type Token = { kind: 'number' | 'name' | 'sign'; text: string };

const TOKEN = /\s*(0[xX][0-9a-fA-F_']+|0[bB][01_']+|\d[\d_']*|[A-Za-z_]\w*|<<|>>|[()|&^~+\-*/%])/y;

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

const APPLY: Record<string, (one: bigint, other: bigint) => bigint> = {
  '|': (one, other) => one | other,
  '^': (one, other) => one ^ other,
  '&': (one, other) => one & other,
  '<<': shifted,
  '>>': (one, other) => shifted(one, -other),
  '+': (one, other) => one + other,
  '-': (one, other) => one - other,
  '*': (one, other) => one * other,
  '/': (one, other) => {
    if (other === 0n) throw new CodeFault('A division by zero.');
    return one / other;
  },
  '%': (one, other) => {
    if (other === 0n) throw new CodeFault('A division by zero.');
    return one % other;
  },
};

/** Walks the tokens of one expression by descent. */
function walk(tokens: readonly Token[], names: Names): bigint {
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
    return sign !== undefined && signs.includes(sign) ? APPLY[sign] : undefined;
  }

  function unary(): bigint {
    const token = tokens[at];
    at += 1;
    if (!token) throw new CodeFault('A value is missing.');
    if (token.text === '~') return ~unary();
    if (token.text === '-') return -unary();
    if (token.text === '+') return unary();
    if (token.text === '(') return inParentheses();
    if (token.kind === 'number') return BigInt(token.text.replace(/[_']/g, ''));
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
    if (/^_?BV$/i.test(name) && here() === '(') return shifted(1n, unary());
    const value = names(name);
    if (value === undefined) throw new CodeFault(`“${name}” is no bit or register of this part.`);
    return BigInt(Math.round(value));
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
export function valueOf(text: string, names: Names): bigint {
  const deepest = [...text].reduce(
    ({ depth, max }, sign) => {
      const now = depth + (sign === '(' ? 1 : sign === ')' ? -1 : 0);
      return { depth: now, max: Math.max(max, now) };
    },
    { depth: 0, max: 0 },
  ).max;
  if (deepest > DEEPEST || /[~+-]{60}/.test(text.replace(/\s/g, '')))
    throw new CodeFault('Too deeply nested.');
  return walk(tokensOf(text), names);
}
