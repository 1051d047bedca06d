import { amountOf, type Exact } from '../quantity/exact.ts';
import type { Scale } from '../quantity/scaled.ts';
import { readNote } from '../quantity/note.ts';
import { parseQuantity, type Dimension } from '../quantity/parse.ts';
import type { Kind, Signal } from './signal.ts';
import { isPlainToken, plainDimension, windowOf, withPlain, type PlainToken } from './field-tokens.ts';
import type { TokenId } from './sentence.ts';

/** The signal with one token changed, or a sentence that says why the entry is not accepted. */
export type Edit = { ok: true; signal: Signal } | { ok: false; error: string };

/** The tokens that hold a quantity. */
export type QuantityToken = Exclude<TokenId, 'pin' | 'name'>;

/** Signals whose tokens say one thing in several ways. */
type Timed = Extract<Signal, { kind: 'blink' | 'tone' | 'dim' | 'tick' }>;

const TIMED: readonly Kind[] = ['blink', 'tone', 'dim', 'tick'];

function isTimed(signal: Signal): signal is Timed {
  return TIMED.includes(signal.kind);
}

const DIMENSIONS: Record<Exclude<QuantityToken, PlainToken>, Dimension> = {
  frequency: 'frequency',
  tolerance: 'tolerance',
  duty: 'duty',
  minHz: 'frequency',
  minSteps: 'steps',
};

function withFrequency(signal: Timed, text: string, value: Exact, said: string): Signal {
  if (signal.kind === 'dim') return { ...signal, target: { ...signal.target, minHz: amountOf(value) } };
  if (signal.kind === 'tone') {
    const rest = { ...signal.target };
    delete rest.note;
    delete rest.cents;
    delete rest.frequencyHz;
    const note = said === 'note' ? readNote(text) : undefined;
    if (!note) return { ...signal, target: { frequencyHz: amountOf(value), ...rest } };
    const name = text.trim().split(/\s|[+−-](?=\s*\d+\s*c)/)[0] ?? '';
    const named = name.charAt(0).toUpperCase() + name.slice(1);
    return {
      ...signal,
      target: { note: named, ...(note.cents !== 0 ? { cents: note.cents } : {}), ...rest },
    };
  }
  const rest = { ...signal.target };
  delete rest.frequencyHz;
  delete rest.periodS;
  if (said === 's') return { ...signal, target: { periodS: amountOf(value.inverse()), ...rest } };
  return { ...signal, target: { frequencyHz: amountOf(value), ...rest } };
}

function withTolerance(signal: Timed, value: Exact, said: string, spoken: number): Signal {
  if (signal.kind === 'dim') return signal;
  if (signal.kind === 'blink') {
    return { ...signal, target: { ...signal.target, frequencyTolerancePpm: value.valueOf() } };
  }
  if (signal.kind === 'tick') {
    return { ...signal, target: { ...signal.target, frequencyTolerancePpm: value.valueOf() } };
  }
  const rest = { ...signal.target };
  delete rest.toleranceCents;
  delete rest.frequencyTolerancePpm;
  const tolerance =
    said === 'cents' ? { toleranceCents: spoken } : { frequencyTolerancePpm: value.valueOf() };
  return { ...signal, target: { ...rest, ...tolerance } };
}

function withDuty(signal: Timed, value: Exact): Signal {
  if (signal.kind !== 'blink')
    return { ...signal, target: { ...signal.target, duty: amountOf(value) } } as Signal;
  const rest = { ...signal.target };
  delete rest.onS;
  return { ...signal, target: { ...rest, duty: amountOf(value) } };
}

/**
 * The signal with one token of its sentence set to what a person typed; units as `readQuantity` takes them. The unit
 * that was said is kept (`counts` says what a count is worth, where there is a setting): a note stays a note, a blink said as a period stays a period. Never throws.
 */
export function editToken(
  signal: Signal,
  token: QuantityToken,
  text: string,
  counts: Pick<Scale, 'countS' | 'dutyCounts'> = {},
): Edit {
  const dimension = isPlainToken(token) ? plainDimension(token) : DIMENSIONS[token];
  const window = windowOf(signal);
  const reading = parseQuantity(text, dimension, { ...counts, ...(window ? { window } : {}) });
  if (!reading.ok) return reading;
  const { value, said, spoken } = reading;
  if (isPlainToken(token)) return { ok: true, signal: withPlain(signal, token, value) };
  if (!isTimed(signal)) return { ok: false, error: `A ${signal.kind} has no such field.` };
  if (token === 'tolerance') return { ok: true, signal: withTolerance(signal, value, said, spoken) };
  if (token === 'duty') {
    if (signal.kind === 'tone' && (value.equals(0) || value.equals(1))) {
      return { ok: false, error: 'A tone needs a duty between 0 % and 100 %, without the ends.' };
    }
    return { ok: true, signal: withDuty(signal, value) };
  }
  if (token === 'minSteps' && signal.kind === 'dim') {
    return { ok: true, signal: { ...signal, target: { ...signal.target, minSteps: value.valueOf() } } };
  }
  return { ok: true, signal: withFrequency(signal, text, value, said) };
}

/** The signal bound to a pin, or free to take any when the pin is left out. */
export function withPin(signal: Signal, pin: string | undefined): Signal {
  const rest = { ...signal };
  delete rest.pin;
  return pin === undefined ? rest : { ...rest, pin };
}
