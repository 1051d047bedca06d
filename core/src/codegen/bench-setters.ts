import type { KnobCode, ReadingsCode } from '../program/signal.ts';
import { knobFunction } from '../knob/arithmetic.ts';
import { steadyComment, steadyLines } from './knob-steady.ts';
import { tablesOf } from '../part/tables.ts';
import type { Part } from '../part/types.ts';

/** What a setter by readings is called, where its unit has a word of its own. */
const WORDS: Readonly<Record<string, string>> = { '°': 'millidegrees', V: 'millivolts', A: 'milliamps' };

/** The C name of a thousandth of a unit. */
function thousandths(unit: string): string {
  return WORDS[unit] ?? 'thousandths';
}

/** The compare value of a knob's reading, and the setter that takes it. */
export function knobSetter(part: Part, label: string, knob: KnobCode, type: string): string[] {
  const { arithmetic } = knob;
  return [
    `/* The compare value for a reading of 0 to ${arithmetic.highest}. */`,
    ...knobFunction(`${label}_knob`, arithmetic, tablesOf(part.code)).trimEnd().split('\n'),
    ...steadyComment(knob),
    `static inline void ${label}_set_knob(uint16_t reading)`,
    '{',
    ...steadyLines(label, knob),
    `    ${label}_set((${type})${label}_knob(reading));`,
    '}',
  ];
}

/** A setter in thousandths of what was seen on the bench, from reading to reading by straight lines, clamped to their ends. */
export function readingsSetter(
  part: Part,
  { unit, rows }: ReadingsCode,
  label: string,
  call: (value: string) => string,
): string[] {
  const name = thousandths(unit);
  const [first, last] = [rows[0], rows[rows.length - 1]];
  if (!first || !last || rows.length < 2) return [];
  const list = (values: readonly number[]): string => values.join(', ');
  const { mark, read } = tablesOf(part.code);
  const entry = (place: string): string => (mark === '' ? place : `(int32_t)${read(32, place)}`);
  return [
    `/* Sets by the readings of the plan, in thousandths of ${unit === '°' ? 'a degree' : unit}, clamped to ${first.seen} to ${last.seen}. */`,
    `static inline void ${label}_set_${name}(int32_t ${name})`,
    '{',
    `    static const int32_t seen[]${mark} = { ${list(rows.map(({ seen }) => seen))} };`,
    `    static const int32_t compare[]${mark} = { ${list(rows.map(({ compare }) => compare))} };`,
    '    uint8_t at = 1;',
    `    if (${name} < ${first.seen}) ${name} = ${first.seen};`,
    `    if (${name} > ${last.seen}) ${name} = ${last.seen};`,
    `    while (${name} > ${entry('seen[at]')}) at++;`,
    `    int32_t from = ${entry('seen[at - 1]')}, low = ${entry('compare[at - 1]')};`,
    `    int32_t value = low + (int32_t)((int64_t)(${entry('compare[at]')} - low)`,
    `        * (${name} - from) / (${entry('seen[at]')} - from));`,
    `    ${call('value')};`,
    '}',
  ];
}
