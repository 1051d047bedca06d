import { exact, type Exact } from '../../quantity/exact.ts';
import { nearestNote } from '../../quantity/note.ts';
import {
  printHz,
  printNumber,
  printPercent,
  printPpm,
  printSeconds,
  printUnit,
} from '../../quantity/print.ts';
import type { Requirement } from '../requirement.ts';
import type { Piece, Relaxation, Token } from './kind.ts';
import type { Amount } from './shape.ts';

/** A maker for the tokens of a kind. */
export function makerOf<K extends string>(
  tokens: Readonly<Record<K, Pick<Token<object>, 'dimension' | 'label' | 'stepped'>>>,
): (token: K, text: string, also: string) => Piece {
  return (token, text, also) => {
    const { dimension, label, stepped } = tokens[token];
    return { token, text, also, dimension, label, ...(stepped ? { stepped } : {}) };
  };
}

/** Plain words of a sentence. */
export function words(text: string): Piece {
  return { text };
}

/** A pitch as a note and what it is off: "A4 +12 c". */
function noteText(hz: number): string {
  const { name, cents } = nearestNote(hz);
  return Math.abs(cents) < 0.005
    ? name
    : `${name} ${cents > 0 ? '+' : '−'}${printNumber(Math.abs(cents), 3)} c`;
}

/** A frequency in Hz with its period: "50 Hz = 20 ms". What is heard has its note as well, what turns its speed. */
export function frequencyAlso(hz: number, as?: 'note' | 'speed'): string {
  const audible = hz >= 16 && hz <= 20_000;
  return [
    printHz(hz),
    ...(as === 'note' && audible ? [noteText(hz)] : []),
    printSeconds(1 / hz),
    ...(as === 'speed' ? [`${printNumber(hz * 60)} rpm`] : []),
  ].join(' = ');
}

/** A tolerance in ppm, from one in a thousand on in percent. */
export function toleranceText(ppm: number): string {
  return ppm >= 1000 ? `${printNumber(ppm / 1e4)} %` : `${printNumber(ppm)} ppm`;
}

/** A tolerance with the frequencies at its ends. */
export function bandAlso(text: string, { frequency }: Requirement): string {
  return frequency.kind === 'near'
    ? `±${text} = ${printHz(frequency.low.valueOf(), 7)} … ${printHz(frequency.high.valueOf(), 7)}`
    : '';
}

/** A time with its share of a period. */
export function secondsText(value: Amount | number, periodS?: number): [text: string, also: string] {
  const time = exact(value).valueOf();
  const share =
    periodS === undefined ? '' : ` = ${printPercent(time / periodS, 4)} of ${printSeconds(periodS)}`;
  return [printSeconds(time), `${printSeconds(time)}${share}`];
}

/** A duty with its width and its tolerance; 0 % and 100 % are pins that never change. */
export function dutyText({ duty: band, frequency }: Requirement): [text: string, also: string] {
  const duty = band.ideal;
  const text = printPercent(duty.valueOf());
  if (band.low.equals(band.high)) {
    return [text, `${text}: the pin stays ${duty.equals(0) ? 'low' : 'high'} and never changes`];
  }
  const period = frequency.kind === 'near' ? frequency.ideal.inverse() : undefined;
  const width = period
    ? ` = ${printSeconds(period.mul(duty).valueOf())} of ${printSeconds(period.valueOf())}`
    : '';
  const off = printPercent(band.high.sub(duty).valueOf());
  return [text, `${text} = ${duty.toFraction()}${width}, ±${off}`];
}

/** A voltage. */
export function voltsText(value: Amount | number): string {
  return printUnit(exact(value).valueOf(), 'V');
}

/** Frequencies are never relaxed beyond this, in ppm. */
const MAX_PPM = 200_000;

/** A wider tolerance of a frequency. */
export function relaxPpm(field: string, now: number): Relaxation {
  return {
    field,
    now,
    max: MAX_PPM,
    say: (value) =>
      `within ±${value >= 1000 ? printPercent(value / 1e6, 3) : printPpm(value).replace('+', '')}`,
  };
}

/** A wider tolerance of a duty. */
export function relaxDuty(now: number): Relaxation {
  return {
    field: 'dutyTolerance',
    now,
    max: 0.2,
    say: (value) => `with its duty within ±${printPercent(value, 3)}`,
  };
}

/** Frequency of a requirement that has one, or the least it asks for. */
export function wantedHz({ frequency }: Requirement): Exact {
  return frequency.kind === 'near' ? frequency.ideal : frequency.low;
}
