import type { Channel, Part, Timer } from '../part/types.ts';
import { plainWrites } from '../timer/fields.ts';
import { canExclude, changes, keptTogether, variableStores } from './statement.ts';

/** Whether a setter reads and writes a register that it shares, or takes two steps for one value. */
function divisible(part: Part, timer: Timer, channel: Channel): boolean {
  const writes = channel.running ?? channel.compare;
  const shared = Object.keys({ ...writes, ...channel.commit }).some((key) => key.includes('.'));
  return shared || (part.code.bytewise && timer.width > 8);
}

export const NOT_SAFE =
  'Not interrupt-safe: it takes more than one step; keep interrupts that use this timer out.';

/** Whether a setter may be called from an interrupt as well as from the program. */
export function setterSafety(part: Part, timer: Timer, channel: Channel): string {
  if (!divisible(part, timer, channel) || canExclude(part)) return 'Interrupt-safe.';
  return NOT_SAFE;
}

/** The stores of a setter; one that takes two steps keeps interrupts out where that is cheap. */
export function compareBody(part: Part, timer: Timer, channel: Channel): string[] {
  const stores = variableStores(part, channel.running ?? channel.compare, 'compare');
  const lines = [...stores, ...(channel.commit ? changes(part, plainWrites([channel.commit])) : [])];
  return divisible(part, timer, channel) ? keptTogether(part, lines) : lines;
}
