import { exact } from '../quantity/exact.ts';
import { nearestNote } from '../quantity/note.ts';
import { printHz, printNumber, printPercent, printSeconds } from '../quantity/print.ts';
import type { Dimension } from '../quantity/parse.ts';
import { requirementOf } from './requirement.ts';
import { plainPieces, type PlainToken } from './field-tokens.ts';
import { DEFAULTS } from './defaults.ts';
import { KINDS, type Aim, type Signal } from './signal.ts';

/** A stretch of a signal's sentence: plain words, or a token that can be edited. */
export type Piece =
  | { text: string }
  | { token: TokenId; text: string; also: string; dimension: Dimension | 'pin' | 'name'; label: string };

/** The tokens a sentence may hold. */
export type TokenId = 'name' | 'pin' | 'frequency' | 'tolerance' | 'duty' | 'minHz' | 'minSteps' | PlainToken;

function toleranceText(ppm: number): string {
  return ppm >= 1000 ? `${printNumber(ppm / 1e4)} %` : `${printNumber(ppm)} ppm`;
}

function frequencyAlso(hz: number): string {
  const note = nearestNote(hz);
  const cents =
    Math.abs(note.cents) < 0.005
      ? ''
      : ` ${note.cents > 0 ? '+' : '−'}${printNumber(Math.abs(note.cents), 3)} c`;
  const audible = hz >= 16 && hz <= 20000 ? ` = ${note.name}${cents}` : '';
  return `${printHz(hz)}${audible} = ${printSeconds(1 / hz)} = ${printNumber(hz * 60)} rpm`;
}

function frequencyToken(aim: Aim): Piece {
  const requirement = requirementOf(aim);
  const hz =
    requirement.frequency.kind === 'near'
      ? requirement.frequency.ideal.valueOf()
      : requirement.frequency.low.valueOf();
  const note = aim.kind === 'tone' && aim.target.note !== undefined;
  const asPeriod = (aim.kind === 'blink' || aim.kind === 'tick') && aim.target.periodS !== undefined;
  const cents =
    aim.kind === 'tone' && aim.target.cents
      ? ` ${aim.target.cents > 0 ? '+' : '−'}${Math.abs(aim.target.cents)} c`
      : '';
  const text = note ? `${aim.target.note}${cents}` : asPeriod ? printSeconds(1 / hz) : printHz(hz);
  return { token: 'frequency', text, also: frequencyAlso(hz), dimension: 'frequency', label: 'frequency' };
}

function toleranceToken(aim: Aim): Piece {
  const requirement = requirementOf(aim);
  const cents = aim.kind === 'tone' && aim.target.frequencyTolerancePpm === undefined;
  const text = cents
    ? `${printNumber(aim.target.toleranceCents ?? DEFAULTS.toneCents)} c`
    : toleranceText(
        ('frequencyTolerancePpm' in aim.target ? aim.target.frequencyTolerancePpm : undefined) ??
          (aim.kind === 'tick' ? DEFAULTS.tickPpm : DEFAULTS.blinkPpm),
      );
  const band = requirement.frequency;
  const also =
    band.kind === 'near'
      ? `±${text} = ${printHz(band.low.valueOf(), 7)} … ${printHz(band.high.valueOf(), 7)}`
      : '';
  return { token: 'tolerance', text, also, dimension: 'tolerance', label: 'frequency tolerance' };
}

function dutyToken(aim: Aim): Piece {
  const requirement = requirementOf(aim);
  const duty = requirement.duty.ideal;
  const period =
    requirement.frequency.kind === 'near' ? exact(1).div(requirement.frequency.ideal) : undefined;
  const width = period
    ? ` = ${printSeconds(period.mul(duty).valueOf())} of ${printSeconds(period.valueOf())}`
    : '';
  if (requirement.duty.low.equals(requirement.duty.high)) {
    const level = duty.equals(0) ? 'low' : 'high';
    const also = `${printPercent(duty.valueOf())}: the pin stays ${level} and never changes`;
    return { token: 'duty', text: printPercent(duty.valueOf()), also, dimension: 'duty', label: 'duty' };
  }
  const also = `${printPercent(duty.valueOf())} = ${duty.toFraction()}${width}, ±${printPercent(requirement.duty.high.sub(duty).valueOf())}`;
  return { token: 'duty', text: printPercent(duty.valueOf()), also, dimension: 'duty', label: 'duty' };
}

/** The words between name, pin and the tokens of each kind. */
function predicate(signal: Signal): Piece[] {
  const { verb, high } = KINDS[signal.kind];
  const closing: Piece[] = [{ text: `, ${high} for ` }, dutyToken(signal), { text: ' of the time.' }];
  switch (signal.kind) {
    case 'tick':
      return [
        { text: ` ${verb} at ` },
        frequencyToken(signal),
        { text: ' within ' },
        toleranceToken(signal),
        { text: '.' },
      ];
    case 'dim': {
      const steps = signal.target.minSteps;
      return [
        { text: ` ${verb} at ` },
        { ...frequencyToken(signal), token: 'minHz', label: 'least frequency' } as Piece,
        { text: ' or more in ' },
        {
          token: 'minSteps',
          text: printNumber(steps),
          also: `${printNumber(steps)} steps = ${printNumber(Math.log2(steps), 4)} bit = ${printPercent(1 / steps, 4)} a step`,
          dimension: 'steps',
          label: 'least number of steps',
        },
        { text: ' steps or more' },
        ...closing,
      ];
    }
    case 'blink':
    case 'tone':
      return [
        { text: signal.kind === 'blink' ? ` ${verb} at ` : ` ${verb} ` },
        frequencyToken(signal),
        { text: ' within ' },
        toleranceToken(signal),
        ...closing,
      ];
    default:
      return plainPieces(signal, frequencyAlso);
  }
}

/**
 * A signal's target as a sentence of words and editable tokens: "Lantern on PB0 blinks at 0.5 Hz within 0.2 %, lit for
 * 10 % of the time." `pinName` says what a pin is called where it has two names. Every token also says the same thing in the other units.
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
  const place: Piece[] = signal.kind === 'tick' ? [] : [{ text: ' on ' }, pin];
  return [name, ...place, ...predicate(signal)];
}

/** The sentence as plain text. */
export function sentenceText(signal: Signal, pinName?: (pin: string) => string): string {
  return sentenceOf(signal, pinName)
    .map((piece) => piece.text)
    .join('');
}
