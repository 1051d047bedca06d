import { createToken, createTokenInstance, Lexer, type IToken, type TokenType } from 'chevrotain';
import { lazily } from '../../result/lazily.ts';
import { numberNamed, LONGEST_UNIT, partNamed, timesNamed, unitNamed } from './units.ts';

const Space = createToken({ name: 'Space', pattern: /\s+/y, group: Lexer.SKIPPED });
const Range = createToken({ name: 'Range', pattern: /\.{2,}|…|–|—/y });
const Number_ = createToken({
  name: 'Number',
  pattern: /\d+(?:\/\d+|(?:[\u202f\u00a0_]\d{3})*(?:[.,]\d+)?)/y,
});
const Letters = createToken({
  name: 'Letters',
  pattern:
    /[A-Za-z_\u00aa-\u00b5\u00c0-\u024f\u0370-\u052f\u2126][\w#♯♭\u00b5\u00c0-\u024f\u0370-\u052f\u2126]*(?:-[A-Za-z]\w*)*/y,
});
const Percent = createToken({ name: 'Percent', pattern: /[%‰°]/ });
const Sign = createToken({ name: 'Sign', pattern: /±|\+\/?-/ });
const Dash = createToken({ name: 'Dash', pattern: /[-−]/ });
const Slash = createToken({ name: 'Slash', pattern: '/' });
const Mark = createToken({ name: 'Mark', pattern: /[^\s\d]/ });

const lexer = lazily(
  () =>
    new Lexer([Space, Range, Number_, Sign, Letters, Percent, Dash, Slash, Mark], {
      positionTracking: 'onlyOffset',
    }),
);

/** What the grammar tells apart: numbers, units, the small words between them, and all the rest. */
export const T = {
  Num: createToken({ name: 'Num', pattern: Lexer.NA }),
  Part: createToken({ name: 'Part', pattern: Lexer.NA }),
  Often: createToken({ name: 'Often', pattern: Lexer.NA }),
  Times: createToken({ name: 'Times', pattern: Lexer.NA }),
  Unit: createToken({ name: 'Unit', pattern: Lexer.NA }),
  Article: createToken({ name: 'Article', pattern: Lexer.NA }),
  Every: createToken({ name: 'Every', pattern: Lexer.NA }),
  Other: createToken({ name: 'Other', pattern: Lexer.NA }),
  Per: createToken({ name: 'Per', pattern: Lexer.NA }),
  Of: createToken({ name: 'Of', pattern: Lexer.NA }),
  To: createToken({ name: 'To', pattern: Lexer.NA }),
  And: createToken({ name: 'And', pattern: Lexer.NA }),
  Between: createToken({ name: 'Between', pattern: Lexer.NA }),
  Dash,
  Sign,
  Text: createToken({ name: 'Text', pattern: Lexer.NA }),
} as const;

/** All token types, for the parser. */
export const ALL_TOKENS: TokenType[] = Object.values(T);

const SMALL: ReadonlyMap<string, TokenType> = new Map<string, TokenType>([
  ['every', T.Every],
  ['each', T.Every],
  ['other', T.Other],
  ['second', T.Text],
  ['per', T.Per],
  ['of', T.Of],
  ['to', T.To],
  ['until', T.To],
  ['till', T.To],
  ['and', T.And],
  ['between', T.Between],
  ['from', T.Between],
  ['times', T.Times],
  ['x', T.Times],
  ['×', T.Times],
  ['a', T.Article],
  ['an', T.Article],
]);

/** After these a unit may stand by itself: "every second", "twice a minute", "a quarter of an hour". */
const BEFORE_UNIT: ReadonlySet<TokenType> = new Set<TokenType>([T.Every, T.Other, T.Per, T.Article, T.Part]);

function typeOf(raw: IToken, image: string): TokenType {
  if (raw.tokenType === Number_) return T.Num;
  if (raw.tokenType === Range) return T.To;
  if (raw.tokenType === Slash) return T.Per;
  if (raw.tokenType === Dash || raw.tokenType === Sign) return raw.tokenType;
  const word = image.toLowerCase();
  if (numberNamed(word) !== undefined) return T.Num;
  if (partNamed(word) !== undefined) return T.Part;
  if (timesNamed(word) !== undefined) return T.Often;
  return SMALL.get(word) ?? T.Text;
}

/** Whether the tokens so far end in a number that a unit may follow: "10", "10-", "half". */
function afterNumber(taken: readonly IToken[]): boolean {
  const [before, last] = taken.slice(-2).map(({ tokenType }) => tokenType);
  const end = taken.length === 1 ? before : last;
  return end === T.Num || end === T.Part || (end === T.Dash && taken.length > 1 && before === T.Num);
}

function unitAt(text: string, raw: readonly IToken[], at: number, taken: readonly IToken[]): number {
  const number = afterNumber(taken);
  const alone = taken.length > 0 && BEFORE_UNIT.has(taken[taken.length - 1]?.tokenType ?? T.Text);
  if (!number && !alone) return 0;
  for (let words = Math.min(LONGEST_UNIT, raw.length - at); words > 0; words -= 1) {
    const unit = unitNamed(imageOf(text, raw, at, words));
    if (unit && (number || unit.of === 'time')) return words;
  }
  return 0;
}

function imageOf(text: string, raw: readonly IToken[], at: number, words: number): string {
  const [first, last] = [raw[at], raw[at + words - 1]];
  return first && last ? text.slice(first.startOffset, last.startOffset + last.image.length) : '';
}

/**
 * The tokens of a wish: numbers, units, small words, and words, where `isEntry` says which words in a row are one (up to
 * `longest`). Every character but spaces is in one of them.
 */
export function tokensOf(text: string, isEntry: (words: string) => boolean, longest: number): IToken[] {
  const raw = lexer().tokenize(text).tokens;
  const taken: IToken[] = [];
  const take = (type: TokenType, at: number, words: number): void => {
    const from = raw[at]?.startOffset ?? 0;
    const image = imageOf(text, raw, at, words);
    taken.push(createTokenInstance(type, image, from, from + image.length - 1, NaN, NaN, NaN, NaN));
  };
  for (let at = 0; at < raw.length;) {
    const own = raw[at];
    if (!own) break;
    let words = unitAt(text, raw, at, taken);
    if (words > 0) {
      take(T.Unit, at, words);
    } else {
      words = Math.min(longest, raw.length - at);
      while (words > 1 && !isEntry(imageOf(text, raw, at, words).toLowerCase())) words -= 1;
      take(words > 1 ? T.Text : typeOf(own, own.image), at, words);
    }
    at += words;
  }
  return taken;
}
