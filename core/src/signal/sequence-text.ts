import { failed, succeeded, type Result } from '../result/result.ts';
import { amountOf, exact } from '../quantity/exact.ts';
import { printHz, printNumber, printPercent, printSeconds } from '../quantity/print.ts';
import { LONGEST_ENTRY, quoted, singleSpaced, TOO_LONG } from '../quantity/words.ts';
import { parseQuantity } from '../quantity/parse.ts';
import type { Dimension } from '../quantity/quantity.ts';
import { MAX_PERIODS, PHASE_DEGREES, type Phase, type Sequence, type SequenceStep } from './sequence.ts';
import type { Amount } from './kinds/index.ts';

const TO = { duty: 'toDuty', widthS: 'toWidthS', frequencyHz: 'toHz' } as const;

const EXAMPLE = '2 periods; rest 6 s; 0 % to 100 % in 2 s; 880 Hz for 0.5 s; once';

function no(text: string) {
  return failed(`${quoted(text)} is not a step; say for example ${EXAMPLE}.`);
}

function readAmount(text: string, dimension: Dimension): Result<Amount> {
  const read = parseQuantity(text, dimension);
  return read.ok ? succeeded(amountOf(read.value.value)) : read;
}

type Level = { key: 'duty' | 'widthS' | 'frequencyHz'; value: Amount };

/** What a level is said in: a share, a time high, or a frequency. */
function levelOf(text: string): Result<Level> {
  const dimension = text.includes('%') ? 'duty' : /\d ?s$|[muµn]s$/.test(text) ? 'time' : 'frequency';
  const read = readAmount(text, dimension);
  const key = dimension === 'duty' ? 'duty' : dimension === 'time' ? 'widthS' : 'frequencyHz';
  return read.ok ? succeeded({ key, value: read.value }) : read;
}

function lengthOf(text: string): Result<Pick<SequenceStep, 'periods' | 'forS'>> {
  const counted = /^(\d+) ?(?:x|×|periods?|pulses?|flashes|flash)$/i.exec(text)?.[1];
  if (counted !== undefined) {
    const periods = Number(counted);
    if (periods < 1) return failed('A step has at least one period.');
    return periods <= MAX_PERIODS
      ? succeeded({ periods })
      : failed(`A step has up to ${printNumber(MAX_PERIODS)} periods.`);
  }
  const read = readAmount(text, 'time');
  return read.ok ? succeeded({ forS: read.value }) : read;
}

/** A text before and behind the first of some words; undefined where none of them is in it. */
function parted(text: string, words: RegExp): readonly [string, string] | undefined {
  const match = words.exec(text);
  return match ? [text.slice(0, match.index), text.slice(match.index + match[0].length)] : undefined;
}

/** "880 Hz for 0.5 s", or "0 % to 100 % in 2 s": what it is, what that moves to, and how long. */
function spokenStep(text: string): { from: string; to?: string; length: string } | undefined {
  const moved = parted(text, / to /i);
  const ends = moved && parted(moved[1], / (?:in|over|for) /i);
  if (moved && ends) return { from: moved[0], to: ends[0], length: ends[1] };
  const held = parted(text, / for /i);
  return held && { from: held[0], length: held[1] };
}

function stepOf(text: string): Result<SequenceStep> {
  const rest = /^(?:rest|off|dark|silent) (?:for )?(?=\S)/i.exec(text)?.[0];
  const spoken = rest === undefined ? spokenStep(text) : undefined;
  const length = lengthOf(rest === undefined ? (spoken?.length ?? text) : text.slice(rest.length));
  if (!length.ok) return rest !== undefined || spoken ? length : no(text);
  if (rest !== undefined) return succeeded({ ...length.value, rest: true });
  if (!spoken) return succeeded(length.value);
  const level = levelOf(spoken.from);
  if (!level.ok) return level;
  const step: SequenceStep = { ...length.value, [level.value.key]: level.value.value };
  if (spoken.to === undefined) return succeeded(step);
  const target = levelOf(spoken.to);
  if (!target.ok) return target;
  if (target.value.key !== level.value.key) {
    return failed(`${quoted(text)} moves from one kind of value to another.`);
  }
  return succeeded({ ...step, [TO[level.value.key]]: target.value.value });
}

/**
 * Reads a sequence as people say it: "2 periods; rest 6 s", "0 % to 100 % in 2 s; 3 s", "440 Hz to 880 Hz in 3 s; once".
 * Steps stand between semicolons. Empty text or "steady" means no sequence. Never throws.
 */
export function parseSequence(text: string): Result<Sequence | undefined> {
  if (text.length > LONGEST_ENTRY) return failed(TOO_LONG);
  const parts = text
    .split(';')
    .map(singleSpaced)
    .filter((part) => part !== '');
  if (parts.length === 0 || (parts.length === 1 && /^steady$/i.test(parts[0] ?? ''))) {
    return succeeded(undefined);
  }
  const once = /^once$/i.test(parts[parts.length - 1] ?? '');
  const steps: SequenceStep[] = [];
  for (const part of once ? parts.slice(0, -1) : parts) {
    const step = stepOf(part);
    if (!step.ok) return step;
    steps.push(step.value);
  }
  if (steps.length === 0) return failed('A sequence needs at least one step before “once”.');
  if (steps.length > 200) return failed('A sequence has at most 200 steps.');
  return succeeded({ steps, ...(once ? { once } : {}) });
}

function plain(amount: Amount, print: (value: number, digits?: number) => string): string {
  return print(exact(amount).valueOf(), 9);
}

function stepText(step: SequenceStep): string {
  const length =
    step.periods === undefined
      ? plain(step.forS ?? 0, printSeconds)
      : `${step.periods} ${step.periods === 1 ? 'period' : 'periods'}`;
  if (step.rest) return `rest ${length}`;
  const sides = (
    [
      [step.duty, step.toDuty, printPercent],
      [step.widthS, step.toWidthS, printSeconds],
      [step.frequencyHz, step.toHz, printHz],
    ] as const
  ).find(([from]) => from !== undefined);
  if (!sides) return length;
  const [from = 0, to, print] = sides;
  return to === undefined
    ? `${plain(from, print)} for ${length}`
    : `${plain(from, print)} to ${plain(to, print)} in ${length}`;
}

/** A sequence as the user would type it; "steady" without one. `parseSequence` reads it back. */
export function sequenceText(sequence: Sequence | undefined): string {
  if (!sequence) return 'steady';
  return [...sequence.steps.map(stepText), ...(sequence.once ? ['once'] : [])].join('; ');
}

const ANGLE = /^(-?\d+(?:[.,]\d+)?) ?(?:°|deg|degrees?)?$/i;

/** Reads an angle in degrees; undefined if the text is not an angle. */
function angleOf(text: string | undefined): number | undefined {
  const digits = ANGLE.exec((text ?? '').trim())?.[1];
  return digits === undefined ? undefined : Number(digits.replace(',', '.'));
}

/** A name and the tolerance behind the last sign of one. */
function tolerated(text: string): readonly [string, string?] {
  const sign = ['±', '+-', '+/-', ' within ']
    .map((one) => ({ at: text.lastIndexOf(one), length: one.length }))
    .reduce((last, one) => (one.at > last.at ? one : last));
  return sign.at < 0 ? [text] : [text.slice(0, sign.at).trim(), text.slice(sign.at + sign.length)];
}

/**
 * Reads "90° after Lantern ±5°" against the names and ids of the other signals; empty or "free" is not a phase. Never throws.
 */
export function parsePhase(
  text: string,
  others: readonly { id: string; name: string }[],
): Result<Phase | undefined> {
  if (text.length > LONGEST_ENTRY) return failed(TOO_LONG);
  const plain = singleSpaced(text);
  if (plain === '' || /^free$/i.test(plain)) return succeeded(undefined);
  const [first, behind = ''] = parted(plain, / ?(?:after|behind) /i) ?? [];
  const degrees = angleOf(first);
  if (degrees === undefined)
    return failed(`${quoted(plain)} is not a phase; say for example 90° after Lantern ±5°.`);
  const named = (name: string) =>
    others.find((one) => singleSpaced(one.name).toLowerCase() === name.toLowerCase() || one.id === name);
  // A name may hold a sign of a tolerance itself, so the whole text is tried as a name first.
  const [name, tolerance] = named(behind) ? [behind] : tolerated(behind);
  const to = named(name);
  if (!to) {
    const known = others.map((one) => one.name).join(', ') || 'none';
    return failed(`There is no other signal ${quoted(name)}; there are ${known}.`);
  }
  if (Math.abs(degrees) > 360) return failed('A phase lies within a turn of 360°.');
  if (tolerance === undefined) return succeeded({ to: to.id, degrees });
  const off = angleOf(tolerance);
  if (off === undefined)
    return failed(`${quoted(tolerance)} is not a tolerance in degrees; say for example ±5°.`);
  if (off < 0 || off > 180) return failed('The tolerance of a phase is at most 180°.');
  return succeeded({ to: to.id, degrees, toleranceDegrees: off });
}

/** A phase as the user would type it; "free" without one. */
export function phaseText(phase: Phase | undefined, name: (id: string) => string): string {
  if (!phase) return 'free';
  return `${phase.degrees}° after ${name(phase.to)} ±${phase.toleranceDegrees ?? PHASE_DEGREES}°`;
}
