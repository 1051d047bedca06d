import type { KnobCode, ReadingsCode } from './bench-setters.ts';
import { oneLine, plainName, uniqueNames } from '../quantity/words.ts';
import type { Span } from '../signal/requirement.ts';
import type { Interrupt, Writes } from '../part/types.ts';
import type { Sending } from '../timer/sending.ts';
import type { Setting } from '../timer/setting.ts';

/**
 * A sequence as the code needs it: its rows, whole periods with the same top and value, the value that keeps the pin low, whether the
 * top `moves`, and the interrupt at the end of each period, absent where the signal's own interrupts make the periods. The value is the
 * compare value of an output; where interrupts make the edges, that of the match, the interrupts for which the pin is high, or 1 where it is toggled, by them or by its timer.
 */
export type CodeSequence = {
  tick?: Interrupt;
  /** Of a toggled output: what lets it change at its matches, and what keeps it low instead. */
  gate?: { on: Writes; off: Writes };
  rest: number;
  moves: boolean;
  entries: { periods: number; top: number; compare: number }[];
  once: boolean;
};

/**
 * One signal as the code needs it: its name, its sentence, the setting that produces it, what it moves over, of an input the
 * slowest rate in Hz, its sequence, and how bits are handed to its timer.
 */
export type CodeSignal = {
  name: string;
  sentence: string;
  setting: Setting;
  span?: Span;
  slowestHz?: number;
  sequence?: CodeSequence;
  sending?: Sending;
  knob?: KnobCode;
  readings?: ReadingsCode;
};

/** Words that C and C++ keep for themselves, and names that every program has. */
const RESERVED = new Set(
  (
    'alignas alignof asm auto bool break case catch char class concept const constexpr continue decltype default delete do ' +
    'double dynamic else enum explicit export extern false final float for friend goto if inline int interrupts long main ' +
    'mutable namespace new noexcept nullptr operator private protected public register requires restrict return short ' +
    'signed sizeof static struct switch template this throw true try typedef typeid typename union unsigned using virtual ' +
    'void volatile while'
  ).split(' '),
);

/** A name as a C identifier in lower case: "Mist pump" is mist_pump. */
export function identifier(name: string): string {
  const plain = plainName(name, '_');
  if (!/^[a-z]/.test(plain)) return `plan_${plain || 'unnamed'}`;
  return RESERVED.has(plain) ? `${plain}_signal` : plain;
}

/** A C name for each signal; signals of one name get a number. */
export function labelsOf(signals: readonly CodeSignal[]): string[] {
  return uniqueNames(
    signals.map(({ name }) => identifier(name)),
    '_',
  );
}

/** The narrow space between groups of digits. */
const GROUPING = /\u202f/g;

/** Signs of arithmetic in plain characters; then, last of all, whatever would end a comment or mean something in C. */
const PLAIN: readonly (readonly [RegExp, string])[] = [
  [/÷/g, '/'],
  [/×/g, 'x'],
  [/−/g, '-'],
  [/±/g, '+-'],
  [/µ/g, 'u'],
  [/\\/g, ' '],
  [/\*\//g, '* /'],
  [/\/\*/g, '/ *'],
  [/\?\?/g, '? ?'],
];

/** Text that cannot end a C comment or start a line of its own; the signs of arithmetic in plain characters. */
export function commentText(text: string): string {
  return PLAIN.reduce(
    (plain, [sign, instead]) => plain.replace(sign, instead),
    oneLine(text.replace(GROUPING, '')),
  );
}
