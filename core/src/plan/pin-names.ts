import { failed, succeeded, type Result } from '../result/result.ts';
import { quoted } from '../quantity/words.ts';
import type { Part } from '../part/types.ts';
import type { Plan } from './plan.ts';

/** How a person's board calls the pins, by the part's own name of each: { PB1: "D9" }. */
export type PinNames = Record<string, string>;

/** A pin by both its names, "PB1 (D9)", since mixing up numbering schemes is a classic mistake; by one where it has one. */
export function pinName(plan: Pick<Plan, 'pinNames'>, pin: string): string {
  const own = plan.pinNames && Object.hasOwn(plan.pinNames, pin) ? plan.pinNames[pin] : undefined;
  return own ? `${pin} (${own})` : pin;
}

/** The two names of a line: up to a sign between them, else up to the first space. */
function namesOf(line: string): readonly [string, string] {
  const end = /[\s=:,;]/.exec(line)?.index ?? line.length;
  const rest = line.slice(end).trimStart();
  return [line.slice(0, end), (/^[=:,;]/.test(rest) ? rest.slice(1) : rest).trim()];
}

/** The most characters a board's name of a pin may have. */
const LONGEST = 40;

/** The most characters in the whole table. */
const LONGEST_TEXT = 100_000;

/**
 * Reads a table of pin names, a line each: "PB1 = D9", "PB1, header pin 12", "PB1 D9"; the part's name first or last.
 * Empty lines and lines that start with # are passed over. The error names the line.
 */
export function readPinNames(text: string, part: Pick<Part, 'name' | 'pins'>): Result<PinNames> {
  const pins = new Set(part.pins.map((pin) => pin.id));
  const names = new Map<string, string>();
  if (text.length > LONGEST_TEXT) return failed('The table of pin names is too long.');
  for (const [at, raw] of text.split('\n').entries()) {
    const line = raw.trim();
    if (line === '' || line.startsWith('#')) continue;
    const [one, other] = namesOf(line);
    const [pin, name] = pins.has(one) ? [one, other] : [other, one];
    if (name === '' || !pins.has(pin)) {
      return failed(`Line ${at + 1}: ${quoted(line)} names no pin of ${part.name}.`);
    }
    if (name.length > LONGEST) return failed(`Line ${at + 1}: a name has ${LONGEST} characters at most.`);
    const before = names.get(pin);
    if (before !== undefined) return failed(`Line ${at + 1}: ${pin} already has a name, ${before}.`);
    names.set(pin, name);
  }
  return succeeded(Object.fromEntries(names));
}

/** The table of pin names as text; `readPinNames` reads it back. */
export function writePinNames(names: PinNames): string {
  return Object.entries(names)
    .map(([pin, name]) => `${pin} = ${name}`)
    .join('\n');
}
