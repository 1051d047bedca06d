import { amountOf, exact, type Exact } from '../../quantity/exact.ts';
import type { Amount } from '../kinds/shape.ts';
import type { Label } from './vocabulary.ts';

/** What a quantity of a wish is: the first word says what it measures, the rest what the words around it make of it. */
export type Role =
  | 'hz'
  | 'rpm'
  | 'minHz'
  | 'maxHz'
  | 'hz span'
  | 'rate'
  | 'every'
  | 'count'
  | 'time'
  | 'time span'
  | 'on'
  | 'off'
  | 'period'
  | 'dot'
  | 'during'
  | 'dead'
  | 'jitter'
  | 'first edge'
  | 'step'
  | 'share'
  | 'share span'
  | 'within'
  | 'within s'
  | 'within V'
  | 'steps'
  | 'volts'
  | 'supply'
  | 'ripple'
  | 'ohms'
  | 'farads'
  | 'angle'
  | 'phase'
  | 'leds'
  | 'images'
  | 'pulses a turn'
  | 'frames a second'
  | 'number'
  | 'note'
  | 'changes'
  | 'morse'
  | 'without flicker';

/** One thing that a wish says, in base units (Hz, s, V, a fraction of one, ppm); where its words stand in the text. */
export type Fact = {
  role: Role;
  value: Exact;
  /** The other end of a span. */
  high?: Exact;
  /** The unit it was said in, or the word itself where it is a word. */
  said: string;
  /** The bare number in that unit. */
  spoken: number;
  label?: Label;
  from: number;
  to: number;
};

/** What a wish says; whatever is taken is understood, and what is not taken is reported as left over. */
export type Facts = {
  has: (role: Role) => boolean;
  /** The first of a role, without taking it. */
  see: (role: Role) => Fact | undefined;
  take: (...roles: Role[]) => Fact | undefined;
  /** The value of what was said first of some roles, taken, as an amount. */
  amount: (...roles: Role[]) => Amount | undefined;
  /** The same as a plain number. */
  number: (...roles: Role[]) => number | undefined;
  /** Both ends of a span, the lower one first, taken. */
  span: (role: Role) => [Amount, Amount] | undefined;
  /** Says that a usual value was taken where the wish gives none. */
  assume: (text: string) => void;
};

/** Facts with what was taken of them and what was assumed. */
export type Ledger = { facts: Facts; taken: ReadonlySet<Fact>; assumed: readonly string[] };

/** Facts of which nothing was taken. */
export function ledgerOf(list: readonly Fact[]): Ledger {
  const taken = new Set<Fact>();
  const assumed: string[] = [];
  const see = (role: Role): Fact | undefined => list.find((fact) => fact.role === role && !taken.has(fact));
  const first = (roles: readonly Role[]): Fact | undefined => {
    const fact = list.find((one) => roles.includes(one.role) && !taken.has(one));
    if (fact) taken.add(fact);
    return fact;
  };
  const facts: Facts = {
    has: (role) => see(role) !== undefined,
    see,
    take: (...roles) => first(roles),
    amount: (...roles) => {
      const fact = first(roles);
      return fact && amountOf(fact.value);
    },
    number: (...roles) => first(roles)?.value.valueOf(),
    span: (role) => {
      const fact = first([role]);
      if (!fact) return undefined;
      const ends = [fact.value, fact.high ?? fact.value].sort((one, other) => one.compare(other));
      return [amountOf(ends[0] ?? exact(0)), amountOf(ends[1] ?? exact(0))];
    },
    assume: (text) => {
      assumed.push(text);
    },
  };
  return { facts, taken, assumed };
}
