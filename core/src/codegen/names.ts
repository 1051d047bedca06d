import type { Setting } from '../timer/setting.ts';

/** One signal as the code needs it: its name, its sentence, and the setting that produces it. */
export type CodeSignal = { name: string; sentence: string; setting: Setting };

/** A name as a C identifier in lower case: "Mist pump" is mist_pump. */
export function identifier(name: string): string {
  const plain = name
    .normalize('NFKD')
    .replace(/[^a-zA-Z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '')
    .toLowerCase();
  return /^[a-z]/.test(plain) ? plain : `plan_${plain || 'unnamed'}`;
}

/** A C name for each signal; signals of one name get a number. */
export function labelsOf(signals: readonly CodeSignal[]): string[] {
  const taken = new Map<string, number>();
  return signals.map(({ name }) => {
    const base = identifier(name);
    const count = (taken.get(base) ?? 0) + 1;
    taken.set(base, count);
    return count === 1 ? base : `${base}_${count}`;
  });
}

const PLAIN: readonly (readonly [RegExp, string])[] = [
  [/\*\//g, '* /'],
  [/\/\*/g, '/ *'],
  [/[\r\n\\]+/g, ' '],
  [/\?\?/g, '? ?'],
  [/\u202f/g, ''],
  [/÷/g, '/'],
  [/×/g, 'x'],
  [/−/g, '-'],
  [/±/g, '+-'],
  [/µ/g, 'u'],
];

/** Text that cannot end a C comment or start a line of its own; the signs of arithmetic in plain characters. */
export function commentText(text: string): string {
  return PLAIN.reduce((plain, [sign, instead]) => plain.replace(sign, instead), text);
}
