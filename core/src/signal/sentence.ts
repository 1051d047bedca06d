import { kindOf, type Piece } from './kinds/index.ts';
import type { Signal } from './signal.ts';

/**
 * A signal's target as a sentence of words and editable tokens: "Lantern on PB0 blinks at 0.5 Hz within 0.2 %, lit for
 * 10 % of the time." `pinName` says what a pin is called where it has two names. Every token also says the same thing in
 * the other units. @throws TargetError
 */
export function sentenceOf(signal: Signal, pinName: (pin: string) => string = (pin) => pin): Piece[] {
  const pin: Piece = {
    token: 'pin',
    text: signal.pin ? pinName(signal.pin) : 'any pin',
    also: signal.pin ? `${signal.pin} only` : 'any pin that can do it',
    dimension: 'pin',
    label: 'pin',
  };
  const name: Piece = {
    token: 'name',
    text: signal.name,
    also: 'what this signal is called',
    dimension: 'name',
    label: 'name',
  };
  const kind = kindOf(signal);
  const place: Piece[] = kind.on === 'processor' ? [] : [{ text: ' on ' }, pin];
  return [name, ...place, ...kind.sentence(signal.target)];
}

/** The sentence as plain text. @throws TargetError */
export function sentenceText(signal: Signal, pinName?: (pin: string) => string): string {
  return sentenceOf(signal, pinName)
    .map((piece) => piece.text)
    .join('');
}

/** What a signal does, without its name, its pin and the closing words: "blinks at 0.5 Hz within 0.2 %, lit for 10 %". */
export function targetText(signal: Signal): string {
  return kindOf(signal)
    .sentence(signal.target)
    .map((piece) => piece.text)
    .join('')
    .replace(/( of the time)?\.$/, '')
    .trim();
}
