import { divisionOf, divisionText } from '../part/division.ts';
import { pinOf } from '../part/find.ts';
import type { Interrupt, Mode, Part, Pin, SoftwarePin, Timer, Writes } from '../part/types.ts';
import { look, SettingError } from './setting.ts';

/** The most interrupts that the program counts to a change. */
export const MAX_DIVIDER = 2 ** 31;

/** The interrupt that comes once a run of the counter in this mode; undefined where the mode has none. */
export function tickOf(timer: Timer, mode: Mode): Interrupt | undefined {
  const { tick } = mode;
  if (tick === undefined) return undefined;
  if (tick === 'overflow' || tick === 'capture') return timer.interrupts[tick];
  return timer.channels.find((channel) => channel.id === tick)?.interrupt;
}

/** A pin that the program can drive itself. @throws SettingError */
export function softwarePin(part: Part, id: string): Pin & { software: SoftwarePin } {
  const pin = look('pin', () => pinOf(part, id));
  const { software } = pin;
  if (!software) throw new SettingError('pin', `${id} cannot be driven by the program.`);
  return { ...pin, software };
}

/** What makes a pin the program's own, low at first. */
export function softwarePinWrites(part: Part, id: string): Writes {
  const { idle, software } = softwarePin(part, id);
  return { ...idle, ...software.output };
}

/** Checks that an interrupt's postscaler can divide so. @throws SettingError */
export function checkPostscale(timer: Timer, { postscaler }: Interrupt, postscale: number): void {
  if (postscale === 1 && !postscaler) return;
  if (!postscaler) throw new SettingError('postscale', `${timer.name} has no postscaler.`);
  if (divisionOf(postscaler, postscale)) return;
  const able = divisionText(postscaler);
  throw new SettingError(
    'postscale',
    `The postscaler of ${timer.name} divides by ${able}, not by ${postscale}.`,
  );
}
