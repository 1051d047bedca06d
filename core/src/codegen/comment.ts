import { oneLine } from '../quantity/words.ts';

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
