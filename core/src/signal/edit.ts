import { failed, succeeded, type Result } from '../result/result.ts';
import { amountOf, exact, type Exact } from '../quantity/exact.ts';
import { parseQuantity } from '../quantity/parse.ts';
import type { Dimension, ReadQuantity } from '../quantity/quantity.ts';
import type { Scale } from '../quantity/scaled.ts';
import { seenAt, seenText, setFor, type Readings } from '../readings/readings.ts';
import { parseSeen } from '../readings/table.ts';
import { kindOf, type Token, type Typed } from './kinds/index.ts';
import type { Signal } from './signal.ts';
import { signalFault } from './target-schema.ts';

/** The signal with one token changed, or a sentence that says why the entry is not accepted. */
export type Edit = Result<Signal>;

function withField(
  target: Record<string, unknown>,
  token: Token<Record<string, unknown>>,
  value: Exact,
): object {
  const { field, plain, replaces = [] } = token;
  const rest = Object.fromEntries(Object.entries(target).filter(([key]) => !replaces.includes(key)));
  return field === undefined ? rest : { ...rest, [field]: plain ? value.valueOf() : amountOf(value) };
}

function edited(target: object, token: Token<Record<string, unknown>>, typed: Typed): object | string {
  const fields = { ...target } as Record<string, unknown>;
  return token.set ? token.set(fields, typed) : withField(fields, token, typed.value);
}

/** What a token is about, where readings can be about it. */
const READ: Partial<Record<Dimension, Readings['of']>> = {
  time: 'width',
  duty: 'duty',
  frequency: 'frequency',
};

/** Readings that tell about a token: those of the width about the width itself, not about its ends or its tolerance. */
function readingsOf(
  signal: Signal & { readings?: Readings },
  { dimension, stepped }: Pick<Token<Record<string, unknown>>, 'dimension' | 'stepped'>,
): Readings | undefined {
  const { readings } = signal;
  return stepped !== undefined && readings?.of === READ[dimension] ? readings : undefined;
}

/** What is typed in the unit of the readings, as what is to be set for it; undefined where it is said in another unit. */
function throughReadings(text: string, readings: Readings | undefined): ReadQuantity | undefined {
  if (!readings) return undefined;
  const plain = text.trim().replace(/ ?(?:deg|degrees?)$/i, '°');
  if (!plain.endsWith(readings.unit) || /^(?:Hz|s|ms|µs|%)$/.test(readings.unit)) return undefined;
  const seen = parseSeen(plain, readings.unit);
  if (!seen.ok) return undefined;
  const found = setFor(readings, seen.value);
  if (!found.ok) return found;
  return succeeded({
    value: exact(Number(found.value.set.toPrecision(9))),
    said: readings.unit,
    spoken: seen.value,
  });
}

/** What a token's value is by the readings of its signal: "59°"; undefined where they do not tell about it. */
export function tokenSeen(
  signal: Signal & { readings?: Readings },
  token: string,
  set: number,
): string | undefined {
  const kind = kindOf(signal);
  const field = Object.hasOwn(kind.tokens, token) ? kind.tokens[token] : undefined;
  const readings = field && readingsOf(signal, field);
  return readings && seenText(readings, seenAt(readings, set), 4);
}

/**
 * The signal with one token of its sentence set to what a person typed; units as `parseQuantity` takes them. The unit
 * that was said is kept; the unit of the signal's readings goes through them (`counts` says what a count is worth, where there is a setting): a note stays a note, a blink said
 * as a period stays a period. Never throws.
 */
export function editToken(
  signal: Signal & { readings?: Readings },
  token: string,
  text: string,
  counts: Pick<Scale, 'countS' | 'dutyCounts'> = {},
): Edit {
  const kind = kindOf(signal);
  const field = Object.hasOwn(kind.tokens, token)
    ? (kind.tokens[token] as Token<Record<string, unknown>>)
    : undefined;
  if (!field) return failed(`A ${signal.kind} has no such field.`);
  const window = kind.window?.(signal.target);
  const reading =
    throughReadings(text, readingsOf(signal, field)) ??
    parseQuantity(text, field.dimension, { ...counts, ...(window ? { window } : {}) });
  if (!reading.ok) return reading;
  const target = edited(signal.target, field, { ...reading.value, text });
  if (typeof target === 'string') return failed(target);
  return checkedSignal({ ...signal, target } as Signal);
}

/** The signal, or what is wrong with it by itself, in the words of its sentence. */
export function checkedSignal<S extends Signal>(signal: S): Result<S> {
  const fault = signalFault(signal);
  return fault ? failed(fault.plain ?? fault.sentence, fault.path) : succeeded(signal);
}

/** The signal at another frequency, said in the way it was said before. */
export function withFrequency(signal: Signal, frequency: Exact): Signal {
  return { ...signal, target: kindOf(signal).withFrequency(signal.target, frequency) } as Signal;
}

/** The signal at another duty; undefined where it cannot have that. */
export function withDuty(signal: Signal, duty: Exact, frequency: Exact): Signal | undefined {
  const target = kindOf(signal).withDuty(signal.target, duty, frequency);
  return target && ({ ...signal, target } as Signal);
}

/** The signal bound to a pin, or free to take any when the pin is left out. */
export function withPin(signal: Signal, pin: string | undefined): Signal {
  const rest = { ...signal };
  delete rest.pin;
  return pin === undefined ? rest : { ...rest, pin };
}
