import {
  nextPeriod,
  nextPulse,
  parseQuantity,
  type Result,
  type SignalEvaluation,
  succeeded,
} from '@herzschlag/core';
import { shownSource, type TraceLane } from './useLanes.ts';

/** What can be looked for along a lane. */
export type Jump = 'failure' | 'glitch';

/** A pulse far shorter than the signal's own is a glitch: this share of the shorter of its high and low times. */
const GLITCH = 0.2;

type Found = { fromS: number; toS: number } | undefined;

/** The next period outside the target, or the next pulse that is far too short, on what was captured, else computed. */
export function jump(
  lane: TraceLane | undefined,
  outcome: SignalEvaluation | undefined,
  what: Jump,
  after: number,
): Found {
  const source = shownSource(lane);
  if (!source || !outcome) return undefined;
  if (what === 'glitch') {
    const min = (Math.min(outcome.duty, 1 - outcome.duty) / outcome.frequencyHz) * GLITCH;
    return nextPulse(source, after, (length) => length < min);
  }
  const frequency = outcome.checks.find((check) => check.property === 'frequency');
  const low = frequency?.low ?? 0;
  const high = frequency?.high ?? Infinity;
  return nextPeriod(source, after, (length) => 1 / length < low || 1 / length > high);
}

/** Whether a pulse of that length in s is what is searched for. */
export type Search = (length: number) => boolean;

/** Reads a search for pulses by their length: "< 3 us" or "shorter than 3 us", "> 1 ms" or "longer than 1 ms". */
export function readSearch(text: string): Result<Search> {
  const words = text
    .trim()
    .replace(/^pulse\s/i, '')
    .trimStart();
  const sign = /^(?:[<>]|shorter|longer)/i.exec(words)?.[0] ?? '';
  const longer = sign === '>' || /^longer$/i.test(sign);
  const length = words
    .slice(sign.length)
    .trimStart()
    .replace(/^than\s/i, '');
  const read = parseQuantity(length, 'time');
  if (!read.ok) return read;
  const limit = read.value.value.valueOf();
  return succeeded((length) => (longer ? length > limit : length < limit));
}
