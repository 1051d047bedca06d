import { plainName, uniqueNames } from '../quantity/words.ts';
import type { ProgramSignal } from './signal.ts';

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
export function labelsOf(signals: readonly ProgramSignal[]): string[] {
  return uniqueNames(
    signals.map(({ name }) => identifier(name)),
    '_',
  );
}
