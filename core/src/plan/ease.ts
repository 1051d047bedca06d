import { clockAt, clockPath, ClockError, type ClockSetting } from '../clock/path.ts';
import type { Part } from '../part/types.ts';
import { printPpm } from '../quantity/print.ts';
import { kindOf } from '../signal/kinds/index.ts';

/** What the clock of a part's processor is off by at most, in ppm; 0 where the setting gives it none. */
export function oscillatorPpm(part: Part, setting: ClockSetting): number {
  try {
    return clockAt(clockPath(part, setting), part.cpu.clock).tolerancePpm;
  } catch (error) {
    // A plan with such a clock is refused elsewhere, with the place.
    if (error instanceof ClockError) return 0;
    throw error;
  }
}

/**
 * A new signal with the tolerances that were not given wide enough for the oscillator, and what was assumed, in words; see
 * `Kind.eased`. The tolerances stand in the plan from then on, and in its sentence.
 */
export function easedSignal<T extends { kind: string; target: object }>(
  signal: T,
  part: Part,
  setting: ClockSetting,
): { signal: T; assumed: string[] } {
  const ppm = oscillatorPpm(part, setting);
  const target = kindOf(signal).eased?.(signal.target, ppm) ?? signal.target;
  if (target === signal.target) return { signal, assumed: [] };
  const off = printPpm(ppm).replace('+', '±');
  return { signal: { ...signal, target }, assumed: [`tolerances for an oscillator of ${off}`] };
}
