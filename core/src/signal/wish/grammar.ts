import { EmbeddedActionsParser, type IToken } from 'chevrotain';
import { ALL_TOKENS, T } from './tokens.ts';

/** A number as written, with what it is a part of ("a third" is 1 and third), and its unit. */
export type SaidAmount = {
  number?: IToken;
  negative: boolean;
  /** The fraction behind a whole number: "33 1/3". */
  more?: IToken;
  part?: IToken;
  unit?: IToken;
};

/**
 * A phrase of a wish: an amount, a span of two, so many times, so many times a unit of time, every so much time, or any
 * other word.
 */
export type Phrase = { first: IToken; last: IToken } & (
  | { is: 'amount'; amount: SaidAmount; signed: boolean }
  | { is: 'span'; low: SaidAmount; high: SaidAmount }
  | { is: 'count'; times: SaidAmount }
  | { is: 'rate'; times: SaidAmount; per: SaidAmount }
  | { is: 'every'; period: SaidAmount; factor: number }
  | { is: 'word' }
);

/** What follows a number: another end of a span, or what it is counted in. */
type Tail = { high?: SaidAmount; times?: boolean; per?: SaidAmount };

/**
 *   wish    = phrase*
 *   phrase  = every | often | amount | any other token
 *   every   = "every" ["other"] [article] (value | unit)
 *   often   = ("once" | "twice") [("a" | "per") unit]
 *   amount  = ["±"] ["between" | "from"] value [range value | ["times"] ("a" | "per") unit | "times"]
 *   value   = ["-"] number [fraction] [part] ["-"] [["of"] [article] unit] | [article] part [["of"] [article] unit]
 *   range   = "to" | "-" | ".." | "and" after "between"
 */
class WishParser extends EmbeddedActionsParser {
  constructor() {
    super(ALL_TOKENS, { maxLookahead: 3 });
    this.performSelfAnalysis();
  }

  readonly wish = this.RULE('wish', (): Phrase[] => {
    const phrases: Phrase[] = [];
    this.MANY(() => phrases.push(this.SUBRULE(this.phrase)));
    return phrases;
  });

  private readonly phrase = this.RULE('phrase', (): Phrase => {
    const first = this.LA(1);
    // One token tells most of it; where more are needed, the gates look at them.
    const phrase = this.OR<Rest>({
      DEF: [
        { GATE: () => this.startsEvery(), ALT: () => this.SUBRULE(this.every) },
        { ALT: () => this.SUBRULE(this.often) },
        { GATE: () => this.startsAmount(), ALT: () => this.SUBRULE(this.amount) },
        { ALT: () => this.SUBRULE(this.other) },
      ],
      MAX_LOOKAHEAD: 1,
      IGNORE_AMBIGUITIES: true,
    });
    return { ...phrase, first, last: this.LA(0) };
  });

  private readonly every = this.RULE('every', (): Rest => {
    this.CONSUME(T.Every);
    const other = this.OPTION1(() => this.CONSUME(T.Other)) !== undefined;
    const period = this.OR<SaidAmount>([
      {
        GATE: () => this.LA(1).tokenType === T.Unit,
        ALT: () => ({ negative: false, unit: this.CONSUME(T.Unit) }),
      },
      { ALT: () => this.SUBRULE(this.value) },
    ]);
    return { is: 'every', period, factor: other ? 2 : 1 };
  });

  private readonly often = this.RULE('often', (): Rest => {
    const times = { number: this.CONSUME(T.Often), negative: false };
    const per = this.OPTION({ GATE: () => this.isPer(), DEF: () => this.SUBRULE(this.per) });
    return per ? { is: 'rate', times, per } : { is: 'count', times };
  });

  private readonly per = this.RULE('per', (): SaidAmount => {
    this.OR([{ ALT: () => this.CONSUME(T.Per) }, { ALT: () => this.CONSUME(T.Article) }]);
    return { negative: false, unit: this.CONSUME(T.Unit) };
  });

  private readonly amount = this.RULE('amount', (): Rest => {
    const signed = this.OPTION1(() => this.CONSUME(T.Sign)) !== undefined;
    const between = this.OPTION2(() => this.CONSUME(T.Between)) !== undefined;
    const low = this.SUBRULE1(this.value);
    const tail = this.OR<Tail>([
      {
        GATE: () => this.isRange(between),
        ALT: () => {
          this.SUBRULE(this.range);
          return { high: this.SUBRULE2(this.value) };
        },
      },
      {
        ALT: () => {
          this.CONSUME(T.Times);
          const per = this.OPTION3({ GATE: () => this.isPer(), DEF: () => this.SUBRULE1(this.per) });
          return per ? { times: true, per } : { times: true };
        },
      },
      {
        GATE: () => low.unit === undefined && this.isPer(),
        ALT: () => ({ per: this.SUBRULE2(this.per) }),
      },
      { ALT: () => ({}) },
    ]);
    if (tail.high) return { is: 'span', low, high: tail.high };
    if (tail.per) return { is: 'rate', times: low, per: tail.per };
    return tail.times ? { is: 'count', times: low } : { is: 'amount', amount: low, signed };
  });

  private readonly range = this.RULE('range', () => {
    this.OR([
      { ALT: () => this.CONSUME(T.To) },
      { ALT: () => this.CONSUME(T.Dash) },
      { ALT: () => this.CONSUME(T.And) },
    ]);
  });

  private readonly value = this.RULE('value', (): SaidAmount => {
    const negative = this.OPTION1(() => this.CONSUME1(T.Dash)) !== undefined;
    this.OPTION2(() => this.CONSUME1(T.Article));
    const number = this.OPTION3(() => this.CONSUME1(T.Num));
    const more = this.OPTION6({
      GATE: () => this.isMixed(),
      DEF: () => this.CONSUME2(T.Num),
    });
    const part = this.OPTION4({
      GATE: () => this.LA(1).tokenType === T.Part,
      DEF: () => this.CONSUME(T.Part),
    });
    const unit = this.OPTION5({ GATE: () => this.isUnit(), DEF: () => this.SUBRULE(this.unit) });
    return {
      negative,
      ...(number ? { number } : {}),
      ...(more ? { more } : {}),
      ...(part ? { part } : {}),
      ...(unit ? { unit } : {}),
    };
  });

  private readonly unit = this.RULE('unit', (): IToken => {
    this.OPTION1(() => this.CONSUME(T.Dash));
    this.OPTION2(() => this.CONSUME(T.Of));
    this.OPTION3(() => this.CONSUME(T.Article));
    return this.CONSUME(T.Unit);
  });

  private readonly other = this.RULE('other', (): Rest => {
    this.OR(ALL_TOKENS.filter((type) => type !== T.Often).map((type) => ({ ALT: () => this.CONSUME(type) })));
    return { is: 'word' };
  });

  private at(ahead: number): IToken['tokenType'] {
    return this.LA(ahead).tokenType;
  }

  private startsValue(ahead: number): boolean {
    const from = this.at(ahead) === T.Dash || this.at(ahead) === T.Article ? ahead + 1 : ahead;
    if (this.at(ahead) === T.Dash) return this.at(from) === T.Num;
    return this.at(from) === T.Part || (from === ahead && this.at(from) === T.Num);
  }

  private startsAmount(): boolean {
    let ahead = 1;
    if (this.at(ahead) === T.Sign) ahead += 1;
    if (this.at(ahead) === T.Between) ahead += 1;
    return this.startsValue(ahead);
  }

  private startsEvery(): boolean {
    const ahead = this.at(2) === T.Other ? 3 : 2;
    return this.at(1) === T.Every && (this.at(ahead) === T.Unit || this.startsValue(ahead));
  }

  private isPer(): boolean {
    return (this.at(1) === T.Per || this.at(1) === T.Article) && this.at(2) === T.Unit;
  }

  private isMixed(): boolean {
    return /^\d+$/.test(this.LA(0).image) && /^\d+\/\d+$/.test(this.LA(1).image);
  }

  private isUnit(): boolean {
    let ahead = 1;
    for (const type of [T.Dash, T.Of, T.Article]) if (this.at(ahead) === type) ahead += 1;
    return this.at(ahead) === T.Unit;
  }

  private isRange(between: boolean): boolean {
    const able = this.at(1) === T.To || this.at(1) === T.Dash || (between && this.at(1) === T.And);
    return able && this.startsValue(2);
  }
}

type Rest = Phrase extends infer P ? (P extends Phrase ? Omit<P, 'first' | 'last'> : never) : never;

let parser: WishParser | undefined;

/** The phrases of a wish, in their order. Every token is in one of them. */
export function phrasesOf(tokens: IToken[]): Phrase[] {
  parser ??= new WishParser();
  parser.input = tokens;
  return parser.wish();
}
