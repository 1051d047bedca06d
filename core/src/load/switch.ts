import { printUnit } from '../quantity/print.ts';
import type { LoadCheck } from './model.ts';
import { E12, standardAbove, standardAround } from './standard-values.ts';

/** Voltage from base to emitter of a switched bipolar transistor. */
const BASE_V = 0.7;

/** Collector current per base current at which a small transistor is well saturated. */
const FORCED_GAIN = 10;

/** A base resistor, and the current that the pin then gives the base. */
export type BaseDrive = { ohm: number; amps: number };

/**
 * The base resistor of a transistor that switches a current: (V pin - 0.7 V) / (I / 10), the next lower one of E12, so that the base gets no less, or
 * the next higher one where that would be more than the pin carries. Undefined where a tenth of the current is more than the pin carries: then no
 * resistor both saturates the transistor and spares the pin.
 */
export function baseDrive(pinV: number, amps: number, pinA: number): BaseDrive | undefined {
  const volts = pinV - BASE_V;
  if (volts <= 0 || amps / FORCED_GAIN > pinA) return undefined;
  const { below, above } = standardAround(volts / (amps / FORCED_GAIN), E12);
  const ohm = volts / below <= pinA ? below : above;
  return volts / ohm <= pinA ? { ohm, amps: volts / ohm } : undefined;
}

/** What to put between a pin and a load that wants more than it carries, in words. */
export function switchText(pinV: number, amps: number, pinA: number): string {
  const base = baseDrive(pinV, amps, pinA);
  const gate = `a logic-level MOSFET with ${printUnit(gateOhm(pinV, pinA), 'Ω', 3)} at its gate and 100 kΩ from gate to source`;
  if (base) return `a bipolar transistor with ${printUnit(base.ohm, 'Ω', 3)} at its base, or ${gate}`;
  return `${gate} (a bipolar transistor would want ${printUnit(amps / FORCED_GAIN, 'A', 3)} at its base, more than the pin carries)`;
}

/**
 * What the pin itself carries of a load: its current, or that of a base. A gate takes none but as it is charged, for which its resistor is chosen.
 */
export function pinChecks(
  through: 'pin' | 'transistor' | 'mosfet',
  pinV: number,
  amps: number,
  pinA: number,
): LoadCheck[] {
  if (through === 'pin') return [{ label: 'pin current', unit: 'A', value: amps, high: pinA }];
  return through === 'transistor' ? [baseCheck(pinV, amps, pinA)] : [];
}

/** What a pin gives the base of a transistor that switches a current, against what it carries. */
export function baseCheck(pinV: number, amps: number, pinA: number): LoadCheck {
  const base = baseDrive(pinV, amps, pinA);
  const value = base?.amps ?? amps / FORCED_GAIN;
  const check = { label: 'pin current', unit: 'A', value, high: pinA } as const;
  if (base) return check;
  const note = `A base that switches ${printUnit(amps, 'A', 3)} wants a tenth of it: take ${switchText(pinV, amps, pinA)}.`;
  return { ...check, note };
}

/** The gate resistor that holds the current which charges a gate to what a pin carries: V pin / I pin, E12 and up. */
export function gateOhm(pinV: number, pinA: number): number {
  return standardAbove(pinV / pinA, E12);
}
