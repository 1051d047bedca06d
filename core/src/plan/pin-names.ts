import { failed, succeeded, type Result } from '../result/result.ts';
import type { Part } from '../part/types.ts';
import type { Plan } from './plan.ts';

/** How a person's board calls the pins, by the part's own name of each: { PB1: "D9" }. */
export type PinNames = Record<string, string>;

/** A pin by both its names, "PB1 (D9)", since mixing up numbering schemes is a classic mistake; by one where it has one. */
export function pinName(plan: Pick<Plan, 'pinNames'>, pin: string): string {
  const own = plan.pinNames?.[pin];
  return own ? `${pin} (${own})` : pin;
}

const LINE = /^\s*(\S+?)\s*(?:[=:,;\t]|\s)\s*(\S.*?)\s*$/;

/** The most characters a board's name of a pin may have. */
const LONGEST = 40;

/**
 * Reads a table of pin names, a line each: "PB1 = D9", "PB1, header pin 12", "PB1 D9"; the part's name first or last.
 * Empty lines and lines that start with # are passed over. The error names the line.
 */
export function readPinNames(text: string, part: Pick<Part, 'name' | 'pins'>): Result<PinNames> {
  const pins = new Set(part.pins.map((pin) => pin.id));
  const names: PinNames = {};
  for (const [at, line] of text.split(/\r?\n/).entries()) {
    if (line.trim() === '' || line.trim().startsWith('#')) continue;
    const match = LINE.exec(line);
    const [one = '', other = ''] = match ? [match[1], match[2]] : [];
    const [pin, name] = pins.has(one) ? [one, other] : [other, one];
    if (!match || !pins.has(pin)) {
      return failed(`Line ${at + 1}: “${line.trim().slice(0, 40)}” names no pin of ${part.name}.`);
    }
    if (name.length > LONGEST) return failed(`Line ${at + 1}: a name has ${LONGEST} characters at most.`);
    if (names[pin] !== undefined) return failed(`Line ${at + 1}: ${pin} already has a name, ${names[pin]}.`);
    names[pin] = name;
  }
  return succeeded(names);
}

/** The table of pin names as text; `readPinNames` reads it back. */
export function writePinNames(names: PinNames): string {
  return Object.entries(names)
    .map(([pin, name]) => `${pin} = ${name}`)
    .join('\n');
}
