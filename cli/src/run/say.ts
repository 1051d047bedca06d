import { type Plan, PLAN_VERSION, readWishes, wishProblems, writePlan } from '@herzschlag/core';
import { readText, writeWhole } from '../files.ts';
import { partNamed } from '../part.ts';
import { UsageError } from '../usage-error.ts';

/** No more text is read from standard input. */
const MOST_BYTES = 1_000_000;

export type SayOptions = { name: string; out?: string };

/**
 * A plan of wishes in plain words, one a line, for a part with its usual clock. What was not understood comes as
 * sentences; the plan holds what was. Without wishes they are read from standard input.
 */
export async function sayCommand(
  partId: string,
  wishes: readonly string[],
  { name, out }: SayOptions,
): Promise<{ text: string; problems: string[] }> {
  const { part, own } = await partNamed(partId);
  const said = wishes.length > 0 ? wishes.join('\n') : await readText('-', MOST_BYTES);
  const empty: Plan = {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name,
    part: part.id,
    clock: part.defaultClock,
    signals: [],
    ...(own ? { ownPart: part } : {}),
  };
  const lines = readWishes(said, empty, part);
  if (lines.length === 0)
    throw new UsageError('There is no wish; say for example hz say stm32f401 "fan 25 kHz 40 %".');
  const signals = lines.flatMap(({ readings }) =>
    readings.length === 1 && readings[0] ? [readings[0].signal] : [],
  );
  const text = writePlan({ ...empty, signals });
  if (out === undefined) return { text: text.trimEnd(), problems: lines.flatMap(wishProblems) };
  await writeWhole(out, text);
  return {
    text: `${out}: ${signals.length} of ${lines.length} wishes`,
    problems: lines.flatMap(wishProblems),
  };
}
