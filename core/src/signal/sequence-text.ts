import { failed, succeeded, type Result } from '../result/result.ts';
import { exactText } from '../quantity/exact.ts';
import { exact } from '../quantity/exact.ts';
import { printHz, printPercent, printSeconds } from '../quantity/print.ts';
import { parseQuantity, type Dimension } from '../quantity/parse.ts';
import { MAX_PERIODS, PHASE_DEGREES, type Phase, type Sequence, type SequenceStep } from './sequence.ts';
import type { Amount } from './kinds/index.ts';

const EXAMPLE = '2 periods; rest 6 s; 0 % to 100 % in 2 s; 880 Hz for 0.5 s; once';

function no(text: string) {
  return failed(`“${text.slice(0, 40)}” is not a segment; say for example ${EXAMPLE}.`);
}

function amountOf(text: string, dimension: Dimension): Amount | string[] {
  const read = parseQuantity(text, dimension);
  if (!read.ok) return [read.fault.sentence];
  const { value } = read.value;
  const plain = value.valueOf();
  return exact(plain).equals(value) ? plain : exactText(value);
}

/** What a level is said in: a share, a time high, or a frequency. */
function levelOf(text: string): { key: 'duty' | 'widthS' | 'frequencyHz'; value: Amount } | string {
  const dimension = text.includes('%') ? 'duty' : /\ds$|(m|u|µ|n)s$/.test(text.trim()) ? 'time' : 'frequency';
  const value = amountOf(text, dimension);
  if (Array.isArray(value)) return value[0] ?? '';
  return { key: dimension === 'duty' ? 'duty' : dimension === 'time' ? 'widthS' : 'frequencyHz', value };
}

const TO = { duty: 'toDuty', widthS: 'toWidthS', frequencyHz: 'toHz' } as const;

function lengthOf(text: string): Pick<SequenceStep, 'periods' | 'forS'> | string {
  const counted = /^(\d+)\s*(?:x|×|periods?|pulses?|flashes|flash)$/i.exec(text.trim())?.[1];
  if (counted !== undefined) {
    const periods = Number(counted);
    return periods >= 1 && periods <= MAX_PERIODS ? { periods } : 'A segment has at least one period.';
  }
  const value = amountOf(text, 'time');
  return Array.isArray(value) ? (value[0] ?? '') : { forS: value };
}

function stepOf(text: string): Result<SequenceStep> {
  const rest = /^(?:rest|off|dark|silent)\s+(?:for\s+)?(.+)$/i.exec(text);
  const moved = /^(.+?)\s+to\s+(.+?)\s+(?:in|over|for)\s+(.+)$/i.exec(text);
  const held = /^(.+?)\s+for\s+(.+)$/i.exec(text);
  const length = lengthOf(rest?.[1] ?? moved?.[3] ?? held?.[2] ?? text);
  if (typeof length === 'string') return rest || moved || held ? failed(length) : no(text);
  if (rest) return succeeded({ ...length, rest: true });
  const from = moved?.[1] ?? held?.[1];
  if (from === undefined) return succeeded(length);
  const level = levelOf(from);
  if (typeof level === 'string') return failed(level);
  const step: SequenceStep = { ...length, [level.key]: level.value };
  if (!moved) return succeeded(step);
  const target = levelOf(moved[2] ?? '');
  if (typeof target === 'string') return failed(target);
  if (target.key !== level.key) {
    return failed(`“${text.slice(0, 40)}” moves from one kind of value to another.`);
  }
  return succeeded({ ...step, [TO[level.key]]: target.value });
}

/**
 * Reads a sequence as people say it: "2 periods; rest 6 s", "0 % to 100 % in 2 s; 3 s", "440 Hz to 880 Hz in 3 s; once".
 * Segments stand between semicolons. Empty or "steady" is no sequence at all. Never throws.
 */
export function parseSequence(text: string): Result<Sequence | undefined> {
  const parts = text
    .split(';')
    .map((part) => part.trim())
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
  if (steps.length === 0) return failed('A sequence needs at least one segment before “once”.');
  if (steps.length > 200) return failed('A sequence has at most 200 segments.');
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

const PHASE =
  /^(-?\d+(?:[.,]\d+)?)\s*(?:°|deg|degrees?)?\s*(?:after|behind)\s+(.+?)(?:\s*(?:±|\+-|\+\/-|within)\s*(\d+(?:[.,]\d+)?)\s*(?:°|deg|degrees?)?)?$/i;

/**
 * Reads "90° after Lantern ±5°" against the names and ids of the other signals; empty or "free" is no phase. Never throws.
 */
export function parsePhase(
  text: string,
  others: readonly { id: string; name: string }[],
): Result<Phase | undefined> {
  const trimmed = text.trim();
  if (trimmed === '' || /^free$/i.test(trimmed)) return succeeded(undefined);
  const match = PHASE.exec(trimmed);
  if (!match)
    return failed(`“${trimmed.slice(0, 40)}” is not a phase; say for example 90° after Lantern ±5°.`);
  const number = (part: string | undefined): number => Number((part ?? '').replace(',', '.'));
  const name = (match[2] ?? '').trim().toLowerCase();
  const to = others.find((one) => one.name.toLowerCase() === name || one.id === name);
  if (!to) {
    const known = others.map((one) => one.name).join(', ') || 'none';
    return failed(`There is no other signal “${match[2]?.slice(0, 40)}”; there are ${known}.`);
  }
  const degrees = number(match[1]);
  if (Math.abs(degrees) > 360) return failed('A phase lies within a turn of 360°.');
  const off = match[3] === undefined ? undefined : number(match[3]);
  if (off !== undefined && off > 180) return failed('A phase may be off by up to 180°.');
  return succeeded({ to: to.id, degrees, ...(off === undefined ? {} : { toleranceDegrees: off }) });
}

/** A phase as the user would type it; "free" without one. */
export function phaseText(phase: Phase | undefined, name: (id: string) => string): string {
  if (!phase) return 'free';
  return `${phase.degrees}° after ${name(phase.to)} ±${phase.toleranceDegrees ?? PHASE_DEGREES}°`;
}
