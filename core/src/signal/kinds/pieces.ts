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

/** A frequency in Hz with its note, its period and its speed: "440 Hz = A4 = 2.27273 ms = 26 400 rpm". */
export function frequencyAlso(hz: number): string {
  const note = nearestNote(hz);
  const cents =
    Math.abs(note.cents) < 0.005
      ? ''
      : ` ${note.cents > 0 ? '+' : '−'}${printNumber(Math.abs(note.cents), 3)} c`;
  const audible = hz >= 16 && hz <= 20000 ? ` = ${note.name}${cents}` : '';
  return `${printHz(hz)}${audible} = ${printSeconds(1 / hz)} = ${printNumber(hz * 60)} rpm`;
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
