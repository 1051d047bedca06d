import type { Plan } from '../../src/plan/plan.ts';

/** A plan on an ATmega328P at 16 MHz, without signals. */
export const LOCK_GATE: Plan = {
  format: 'herzschlag-plan',
  version: 2,
  name: 'Lock gate',
  part: 'atmega328p',
  clock: { source: 'crystal', sourceHz: 16_000_000 },
  signals: [],
};
