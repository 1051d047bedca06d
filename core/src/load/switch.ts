import { E12, standardAbove, standardAround } from './standard-values.ts';

/** Voltage from base to emitter of a switched bipolar transistor. */
const BASE_V = 0.7;

/** Collector current per base current at which a small transistor is well saturated. */
const FORCED_GAIN = 10;

/**
 * The base resistor of a transistor that switches a current: (V pin - 0.7 V) / (I / 10), the next lower one of E12, so that
 * the base gets no less.
 */
export function baseOhm(pinV: number, amps: number): number {
  return standardAround(Math.max(0.1, pinV - BASE_V) / (amps / FORCED_GAIN), E12).below;
}

/** The gate resistor that holds the current which charges a gate to what a pin carries: V pin / I pin, E12 and up. */
export function gateOhm(pinV: number, pinA: number): number {
  return standardAbove(pinV / pinA, E12);
}
