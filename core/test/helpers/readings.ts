import { clockPath } from '../../src/clock/path.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { channelIdOf, timerIdOf, type Setting } from '../../src/timer/setting.ts';
import { shipped } from './parts.ts';

/** What an image makes on a pin: its frequency in Hz and its duty, none where the pin keeps whatever level it had. */
export type Reading = { hz: number; duty?: number };

/** "TC3 CC1": the timer of a setting and its channel. */
function placeOf(setting: Setting): string {
  return `${timerIdOf(setting)} ${channelIdOf(setting) ?? ''}`;
}

/** What the decoder makes of assignments, on one pin, or by one channel of a timer wherever it is led. */
export function told(id: string, where: string, text: string): Reading[] {
  const part = shipped(id);
  const found = decodeText(part, clockPath(part, part.defaultClock), text);
  if (!found.ok) throw new Error(found.fault.sentence);
  return found.value.timers.flatMap(({ effects }) =>
    effects
      .filter(({ setting }) => setting.pin === where || placeOf(setting) === where)
      .map(({ outcome }) => ({ hz: outcome.frequency.valueOf(), duty: outcome.duty.valueOf() })),
  );
}

/**
 * Holds the decoder against a reading that knows the datasheet's tables and nothing of the part's data: what the decoder makes is
 * what the tables say, and it makes something wherever they say that the pin has edges, unless it need not know the image.
 */
export function agree(
  text: string,
  made: readonly Reading[],
  own: Reading | undefined,
  known: boolean,
): boolean {
  const [first] = made;
  if (!first) {
    if (own?.duty && known && own.duty < 1) throw new Error(`not read: ${text}`);
    return false;
  }
  if (!own) throw new Error(`${text} was read as ${JSON.stringify(first)}`);
  const same = made.length === 1 && Math.abs(first.hz / own.hz - 1) < 1e-12;
  const alike = own.duty === undefined || first.duty?.toFixed(12) === own.duty.toFixed(12);
  // Called for thousands of images: only what differs is worth a comparison with a report.
  if (!same || !alike) expect([text, made]).toEqual([text, [own]]);
  return own.duty !== undefined;
}

/** Assignments as text, one to a register. */
export function assigned(values: Record<string, number>): string {
  return Object.entries(values)
    .map(([name, value]) => `${name} = ${value};`)
    .join(' ');
}
